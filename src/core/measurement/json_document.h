// SPDX-License-Identifier: GPL-3.0-or-later
// The fields that documents of all newer kinds of measurements share: id, version and source.
#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "base/error.h"
#include "measurement/origin.h"

namespace optrel {

/// An Error(input) that says that the document at `where` is damaged.
Error damaged_document(const std::string& where);

/// Calls read(). A value of the wrong type in a document becomes damaged_document().
template <class Read>
auto reading_document(const std::string& where, const Read& read) {
    try {
        return read();
    } catch (const nlohmann::json::exception&) {
        throw damaged_document(where);
    }
}

/// Sets id and version; an empty id and version 0 remove them.
void set_number(nlohmann::json& document, const std::string& id, int version);
void set_source(nlohmann::json& document, const MeasurementSource& source);
/// Empty when the measurement was made in this studio.
std::optional<MeasurementSource> source_in(const nlohmann::json& document);
/// Removes id, version and source: what remains is equal for equal measurements.
void remove_number_and_source(nlohmann::json& document);

/// Key of a body as a subject, see Measurement::subject_key. Empty for a measurement from elsewhere that nobody signed.
std::string body_key(const std::string& camera, const std::string& serial,
                     const std::optional<MeasurementSource>& source);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A kind of measurement whose documents are JSON objects with the fields of json_document.h, and that has no settings
// which a new version could lack.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "measurement/json_document.h"
#include "measurement/kind.h"

namespace optrel {

struct JsonKind {
    std::string id;  ///< see MeasurementKind, also for the next five
    std::string one, many;
    std::string id_prefix;
    int due_after_days = 365;
    std::string made_again_by;
    std::string format;  ///< value of "format": "optrel-defects"
    std::function<Measurement(const std::string& document, const std::string& where)> read;
    std::function<void(const std::string& document)> require_plausible;
    /// Only called for documents that differ in more than id, version and source.
    std::function<std::vector<std::string>(const std::string& before, const std::string& after)> differences;
};

/// Parses a document of format version 1. Throws Error(input) about `where` for another format, for a newer version and
/// for a damaged document.
nlohmann::json parse_document(const std::string& document, const std::string& where, const std::string& format,
                              const std::string& one);

/// Fills the parts of a measurement that are the same for all such kinds: id, version, source, author, time and frames.
void take_common_parts(Measurement& measurement, const nlohmann::json& document, const std::string& text);

/// Makes the kind. The role "works" may publish it. A field of a wrong type is reported as a damaged document.
MeasurementKind json_kind(const JsonKind& kind);

}  // namespace optrel

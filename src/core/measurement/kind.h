// SPDX-License-Identifier: GPL-3.0-or-later
// A kind of measurement: what the parts of Optrel that handle any measurement (store, history, approvals, bundles) ask
// of its science. All kinds are listed in kinds/measurement_kinds.h.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "measurement/measurement.h"

namespace optrel {

/// What happens to settings that the previous version has and the new one lacks. ask: nothing is published, and the
/// error lists them.
enum class OtherSettings { ask, keep, drop };

struct MeasurementKind {
    std::string id;         ///< in tables, proposals, bundles and the history: "profile"
    std::string one, many;  ///< as people read them: "profile", "profiles"
    std::string id_prefix;  ///< ids of its measurements start with this
    std::string publisher;  ///< name of the least role that may publish it (store/people.h)

    /// Reads a document. `where` names it in messages. Throws Error(input) for anything that is no such document.
    std::function<Measurement(const std::string& document, const std::string& where)> read;
    /// The document with this id and version. An empty id and version 0 give the form in which it is proposed.
    std::function<std::string(const std::string& document, const std::string& id, int version)> numbered;
    /// The document with this source, for what came from elsewhere. Throws Error(input) when it can be of no use.
    std::function<std::string(const std::string& document, const MeasurementSource& source)> with_source;
    /// Throws Error(input) when what it says cannot be true of its subject, also when it is signed and trusted.
    std::function<void(const std::string& document)> require_plausible;
    /// The document that follows `before`, with the settings that only `before` has kept or dropped.
    /// Throws Error(input) when there are such settings and `others` is `ask`.
    std::function<std::string(const std::string& before, const std::string& document, OtherSettings others)> following;
    /// Differences of the second from the first, one line each; empty: none.
    std::function<std::vector<std::string>(const std::string& before, const std::string& after)> differences;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A kind of measurement: the functions that store, history, approvals and bundles need to handle it. All kinds are
// listed in kinds/measurement_kinds.h.
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
    std::string id;            ///< in tables, proposals, bundles and the history: "profile"
    std::string one, many;     ///< for display: "profile", "profiles"
    std::string id_prefix;     ///< beginning of the ids of its measurements
    std::string publisher;     ///< lowest role that may publish it (store/people.h); a server enforces it
    int due_after_days = 365;  ///< age at which it should be made again; 0: never
    std::string made_again_by = "measuring it again on the Bench";  ///< as in "settle it by ..."

    /// Reads a document. `where` names it in messages. Throws Error(input) when it is not of this kind.
    std::function<Measurement(const std::string& document, const std::string& where)> read;
    /// The document with this id and version. An empty id and version 0 give the form in which it is proposed.
    std::function<std::string(const std::string& document, const std::string& id, int version)> numbered;
    /// The document with this source, for imports. Throws Error(input) for an unusable one.
    std::function<std::string(const std::string& document, const MeasurementSource& source)> with_source;
    /// Throws Error(input) for values that no lens or body can have. Applies to signed and trusted documents too.
    std::function<void(const std::string& document)> require_plausible;
    /// The document that follows `before`, with the settings that only `before` has kept or dropped.
    /// Throws Error(input) when there are such settings and `others` is `ask`.
    std::function<std::string(const std::string& before, const std::string& document, OtherSettings others)> following;
    /// Differences of `after` from `before`, one line each. Empty when both are the same measurement, whatever their
    /// id, version and source.
    std::function<std::vector<std::string>(const std::string& before, const std::string& after)> differences;
};

}  // namespace optrel

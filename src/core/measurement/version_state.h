// SPDX-License-Identifier: GPL-3.0-or-later
// Versions of a measurement: which one is current, which were current when, and what happened to them. Publishing makes
// the new version current; a person may withdraw a version, or make another one current.
#pragma once

#include <string>
#include <utility>
#include <vector>

namespace optrel {

/// What a store says about a version. It is no part of the document.
struct VersionState {
    bool is_now = true;  ///< it is current
    /// When it was current: from, until; ISO 8601, UTC. No "from": from the first; the end of one that lasts is empty.
    std::vector<std::pair<std::string, std::string>> current{{"", ""}};
    std::string withdrawn;  ///< the reason; empty: it is not withdrawn

    bool is_current() const { return is_now; }
    /// At a time, ISO 8601, UTC; now for an empty one.
    bool was_current(const std::string& time) const;
};

struct VersionEvent {
    enum class What { publish, withdraw, make_current } what = What::publish;
    std::string measurement;  ///< id
    int version = 0;
    std::string time, author, reason;
};
std::string to_string(VersionEvent::What what);
/// Throws Error(input) for another word.
VersionEvent::What version_event_from(const std::string& word);

}  // namespace optrel

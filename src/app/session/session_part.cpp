// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/session_part.h"

namespace optrel {

std::vector<std::string> SessionPart::changed_elsewhere(const std::map<std::string, long long>& now) {
    std::vector<std::string> out;
    for (const std::string& name : names_) {
        const auto it = now.find(name);
        const long long stamp = it == now.end() ? 0 : it->second;
        if (stamp != seen_[name]) out.push_back(name);
        seen_[name] = stamp;
    }
    return out;
}

void SessionPart::remember(const std::string& only) {
    std::map<std::string, long long> now;
    try {
        now = store_.stamps();
    } catch (const Error&) {
        return;  // the store cannot be reached, which is reported elsewhere; the next check reads again
    }
    for (const std::string& name : names_) {
        if (!only.empty() && name != only) continue;
        const auto it = now.find(name);
        seen_[name] = it == now.end() ? 0 : it->second;
    }
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/findings.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/words.h"

namespace optrel {

void accept_findings(std::vector<SeriousFinding>& findings, const std::string& name,
                     const std::vector<Acceptance>& accepted, const std::string& author, const std::string& time) {
    std::vector<std::string> names;
    for (const SeriousFinding& f : findings) names.push_back(f.name);
    std::vector<SeriousFinding> after = findings;
    for (const Acceptance& a : accepted) {
        const auto it =
            std::find_if(after.begin(), after.end(), [&](const SeriousFinding& f) { return f.name == a.finding; });
        if (it == after.end()) {
            const std::string there = names.empty()
                                          ? "it has no serious finding"
                                          : fmt::format("its serious findings are {}", fmt::join(names, ", "));
            throw input_error(fmt::format("{} has no serious finding '{}'{}; {}.", name, a.finding,
                                          nearest_clause(a.finding, names), there));
        }
        it->accepted_by = author;
        it->reason = a.reason;
        it->time = time;
    }
    findings = std::move(after);
}

void require_accepted(const std::vector<SeriousFinding>& findings, const std::string& name) {
    std::string told;
    int open = 0;
    for (const SeriousFinding& f : findings)
        if (!f.accepted()) {
            told += fmt::format(" {}: {}", f.name, f.text);
            ++open;
        }
    if (open == 0) return;
    throw input_error(
        fmt::format("{} is not published, because {} of its serious findings {} not accepted. Mend what they say and "
                    "measure again, or accept each by its name (--accept NAME).{}",
                    name, open, open == 1 ? "is" : "are", told));
}

std::string accepted_of_mapping(const std::vector<SeriousFinding>& findings) {
    std::vector<std::string> names;
    for (const SeriousFinding& f : findings)
        if (f.of_mapping && f.accepted()) names.push_back(f.name);
    return fmt::format("{}", fmt::join(names, ", "));
}

std::vector<std::string> accepted_in_words(const std::vector<SeriousFinding>& findings) {
    std::vector<std::string> out;
    for (const SeriousFinding& f : findings)
        if (f.accepted())
            out.push_back(fmt::format("{} ({}), accepted by {}{}", f.name, without_stop(f.text), f.accepted_by,
                                      f.reason.empty() ? "" : ": " + f.reason));
    return out;
}

}  // namespace optrel

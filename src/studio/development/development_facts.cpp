// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/development_facts.h"

#include <fmt/format.h>

#include "measurement/findings.h"

namespace optrel {

void take_profile(FrameDevelopment& r, const ProfileMatch& match) {
    r.profile = applied(match, r.metadata);
    if (!r.profile) return;
    const Profile& p = *match.profile;
    r.chosen = fmt::format("{} version {} ({}{})", p.name, p.version, to_string(match.grade),
                           p.taken_in ? ", taken in from " + describe(*p.taken_in) : "");
    r.profile_id = p.id;
    r.profile_version = p.version;
    r.accepted_findings = accepted_in_words(p.findings);
}

}  // namespace optrel

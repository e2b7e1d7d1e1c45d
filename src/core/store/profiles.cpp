// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/profiles.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/files.h"
#include "store/engine.h"
#include "store/history.h"
#include "store/measurers.h"
#include "store/proposals.h"

namespace optrel {

namespace {

void judge(ProfileSource& taken_in, const std::vector<Measurer>& measurers) {
    for (const Measurer& m : measurers) {
        if (m.key != taken_in.key) continue;
        taken_in.signer = m.name;
        taken_in.standing = m.standing();
    }
}

}  // namespace

std::vector<Profile> StoredProfiles::read(bool all_versions) {
    std::vector<Profile> out;
    const std::vector<Measurer> measurers = StoredMeasurers(engine_).all();
    QSqlQuery q = engine_.run("SELECT id, version, document FROM profiles ORDER BY id, version DESC");
    while (q.next()) {
        if (!all_versions && !out.empty() && out.back().id == text(q.value(0))) continue;
        out.push_back(profile_from_json(
            text(q.value(2)), fmt::format("Profile {} version {} in the store", text(q.value(0)), q.value(1).toInt())));
        if (out.back().taken_in) judge(*out.back().taken_in, measurers);
    }
    std::stable_sort(out.begin(), out.end(), [](const Profile& a, const Profile& b) { return a.name < b.name; });
    return out;
}

std::string proposed_profile(Profile profile) {
    profile.id.clear();
    profile.version = 0;
    return profile_to_json(profile);
}

Profile StoredProfiles::publish(Profile profile, bool keep_settings) {
    Transaction transaction(engine_, "profiles");
    const std::vector<Profile> all = all_versions();
    std::optional<Profile> before;
    for (const Profile& p : all)
        if (same_subject(p, profile) && (!before || p.version > before->version)) before = p;
    if (before && keep_settings) profile = merged(*before, profile);
    if (before) profile.id = before->id;
    // A file of another program may name none; a profile without an id could not be pinned.
    if (profile.id.empty()) profile.id = fmt::format("p{:08x}", fnv1a(profile_to_json(profile)) & 0xffffffffu);
    // Another subject may have taken the id, as when a file was copied.
    for (const Profile& p : all)
        if (!before && p.id == profile.id)
            profile.id += fmt::format("-{:08x}", fnv1a(profile_to_json(profile)) & 0xffffffffu);
    profile.version = before ? before->version + 1 : 1;
    const std::string document = profile_to_json(profile);
    StoredProposals proposals(engine_);
    if (proposals.needed(ProposalKind::profile) &&
        !proposals.approved(ProposalKind::profile, proposed_profile(profile)))
        throw input_error(
            "This studio wants a second person for a profile, so it is not published by one alone; propose it, and "
            "have somebody approve it.");
    engine_.run("INSERT INTO profiles (id, version, document) VALUES (?,?,?)",
                {text(profile.id), profile.version, text(document)});
    engine_.record({"", "", "profile", profile.id, fmt::format("publish version {}", profile.version), "",
                    digest_words(document)});
    engine_.stamp("profiles");
    transaction.commit();
    return profile;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/profiles.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/files.h"
#include "optics/plausible.h"
#include "optics/profile_versions.h"
#include "optics/serious_findings.h"
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

std::vector<Profile> StoredProfiles::all_versions() {
    std::vector<Profile> out;
    const std::vector<Measurer> measurers = StoredMeasurers(engine_).all();
    QSqlQuery q = engine_.run("SELECT id, version, document FROM profiles ORDER BY id, version DESC");
    while (q.next()) {
        out.push_back(profile_from_json(
            text(q.value(2)), fmt::format("Profile {} version {} in the store", text(q.value(0)), q.value(1).toInt())));
        if (out.back().taken_in) judge(*out.back().taken_in, measurers);
    }
    set_states(out, events());
    std::stable_sort(out.begin(), out.end(), [](const Profile& a, const Profile& b) { return a.name < b.name; });
    return out;
}

std::vector<Profile> StoredProfiles::current() {
    std::vector<Profile> out = all_versions();
    std::erase_if(out, [](const Profile& p) { return !p.state.is_current(); });
    return out;
}

std::vector<VersionEvent> StoredProfiles::events() {
    std::vector<VersionEvent> out;
    QSqlQuery q = engine_.run("SELECT what, profile, version, time, author, reason FROM profile_events ORDER BY id");
    while (q.next())
        out.push_back({version_event_from(text(q.value(0))), text(q.value(1)), q.value(2).toInt(), text(q.value(3)),
                       text(q.value(4)), text(q.value(5))});
    return out;
}

Profile StoredProfiles::required(const std::string& id, int version) {
    std::vector<std::string> there;
    for (Profile& p : all_versions()) {
        if (p.id != id) continue;
        if (p.version == version) return std::move(p);
        there.push_back(std::to_string(p.version));
    }
    throw input_error(there.empty() ? fmt::format("There is no profile {} in this store.", id)
                                    : fmt::format("The profile {} has no version {}; its versions are {}.", id, version,
                                                  fmt::join(there, ", ")));
}

/// The caller holds the transaction.
void StoredProfiles::tell(const VersionEvent& e, const std::string& author) {
    engine_.run(
        "INSERT INTO profile_events (time, author, profile, version, what, reason) VALUES (?,?,?,?,?,?)",
        {text(engine_.now()), text(author), text(e.profile), e.version, text(to_string(e.what)), text(e.reason)});
    if (e.what != VersionEvent::What::publish)
        engine_.record({"", author, "profile", e.profile, fmt::format("{} version {}", to_string(e.what), e.version),
                        "", e.reason});
    engine_.stamp("profiles");
}

void StoredProfiles::withdraw(const std::string& id, int version, const std::string& reason,
                              const std::string& author) {
    if (reason.empty())
        throw input_error("A version is withdrawn with a reason, which everybody sees who had it; say why.");
    Transaction transaction(engine_, "profiles");
    const Profile p = required(id, version);
    if (!p.state.withdrawn.empty())
        throw input_error(
            fmt::format("Version {} of {} is withdrawn already ({}).", version, p.name, p.state.withdrawn));
    tell({VersionEvent::What::withdraw, id, version, "", author, reason}, author);
    transaction.commit();
}

void StoredProfiles::make_current(const std::string& id, int version, const std::string& reason,
                                  const std::string& author) {
    Transaction transaction(engine_, "profiles");
    const Profile p = required(id, version);
    if (p.state.is_current()) throw input_error(fmt::format("Version {} of {} is current already.", version, p.name));
    tell({VersionEvent::What::make_current, id, version, "", author, reason}, author);
    transaction.commit();
}

std::string proposed_profile(Profile profile) {
    profile.id.clear();
    profile.version = 0;
    return profile_to_json(profile);
}

namespace {

/// Throws Error(input) that lists the lens settings which would be lost.
void require_all_settings(const Profile& before, const Profile& profile) {
    std::vector<std::string> gone;
    for (const LensSetting& s : settings_missing(before, profile)) gone.push_back(to_string(s));
    if (gone.empty()) return;
    throw input_error(fmt::format(
        "{} version {} has {} that this measurement does not have: {}. Say whether the new version keeps "
        "(--keep-settings) or drops (--drop-settings) them.",
        before.name, before.version, gone.size() == 1 ? "a lens setting" : "lens settings", fmt::join(gone, ", ")));
}

}  // namespace

Profile StoredProfiles::publish(Profile profile, OtherSettings others) {
    require_accepted(profile);
    require_plausible(profile);
    Transaction transaction(engine_, "profiles");
    const std::vector<Profile> all = all_versions();
    std::optional<Profile> before;
    int newest = 0;
    for (const Profile& p : all) {
        if (!same_subject(p, profile)) continue;
        newest = std::max(newest, p.version);
        // The version that frames currently get is the one to be replaced; for a withdrawn profile, its newest.
        if (!before || p.state.is_current() || (!before->state.is_current() && p.version > before->version)) before = p;
    }
    if (before && others == OtherSettings::ask) require_all_settings(*before, profile);
    if (before && others == OtherSettings::keep) profile = merged(*before, profile);
    if (before) profile.id = before->id;
    // Files of other programs may lack an id, which pins need.
    if (profile.id.empty()) profile.id = fmt::format("p{:08x}", fnv1a(profile_to_json(profile)) & 0xffffffffu);
    // The id may belong to another lens, for example in a copied file.
    for (const Profile& p : all)
        if (!before && p.id == profile.id)
            profile.id += fmt::format("-{:08x}", fnv1a(profile_to_json(profile)) & 0xffffffffu);
    profile.version = newest + 1;
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
    tell({VersionEvent::What::publish, profile.id, profile.version, "", "", ""}, profile.provenance.author);
    transaction.commit();
    return profile;
}

}  // namespace optrel

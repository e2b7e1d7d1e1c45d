// SPDX-License-Identifier: GPL-3.0-or-later
// Versions of profiles: which frames get, what changing that reaches, and who is behind.
#include <catch2/catch.hpp>

#include "fleet/matching.h"
#include "measurement/findings.h"
#include "measurement/set_states.h"
#include "optics/profile_versions.h"
#include "store/store.h"
#include "studio/baselines/naming.h"
#include "studio/baselines/references.h"
#include "studio/checks/drift.h"
#include "studio/intake/take_in.h"
#include "studio/profiles/frame_profile.h"
#include "studio/rollout/frames_reached.h"
#include "studio/rollout/rolling.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Profile measured_with(double first_coefficient) {
    Profile p = sample_profile();
    p.nodes[0].model = LensModel(LensModelKind::radial_tangential, {first_coefficient, 0.1, 0, 0, 0, 0, 0});
    p.provenance.author = "iva";
    return p;
}

/// A studio with one frame of the lens, and two versions of its profile.
struct Versions {
    TemporaryFolder folder;
    Store store{(folder / "s").string(), Access::begin};
    fs::path frame = folder / "frames" / "SP0001.dng";
    std::string id;
    Progress progress;

    Versions() {
        fs::create_directory(folder / "frames");
        fs::copy_file(rig_frame("SP0001"), frame);
        take_in(store, {folder / "frames"}, true, progress);
        id = store.profiles().publish(measured_with(-0.20)).id;
        store.profiles().publish(measured_with(-0.21));
    }
    int in_use() {
        const std::vector<Profile> versions = store.profiles().all_versions();
        const ProfileMatch m = profile_for(neutral_start(), sample_frame(), versions);
        return m.usable() ? m.profile->version : 0;
    }
};

}  // namespace

TEST_CASE("a version is withdrawn with a reason, another made current, and both are taken back", "[studio][profile]") {
    Versions s;
    CHECK(s.in_use() == 2);
    CHECK(error_of([&] { s.store.profiles().withdraw(s.id, 2, "", "iva"); }) == "input");
    CHECK(error_of([&] { s.store.profiles().withdraw(s.id, 7, "bent", "iva"); }) == "input");
    CHECK(error_of([&] { s.store.profiles().make_current(s.id, 2, "", "iva"); }) == "input");
    s.store.profiles().withdraw(s.id, 2, "the board was bent", "iva");
    CHECK(s.in_use() == 1);
    CHECK(error_of([&] { s.store.profiles().withdraw(s.id, 2, "again", "iva"); }) == "input");
    s.store.profiles().withdraw(s.id, 1, "an older board", "iva");
    CHECK(s.in_use() == 0);
    s.store.profiles().make_current(s.id, 1, "", "iva");
    CHECK(s.in_use() == 1);
    s.store.profiles().make_current(s.id, 2, "it was straight", "iva");
    CHECK(s.in_use() == 2);
    // A new measurement is current whatever was before, and numbers go on.
    s.store.profiles().make_current(s.id, 1, "", "iva");
    CHECK(s.store.profiles().publish(measured_with(-0.22)).version == 3);
    CHECK(s.in_use() == 3);
    CHECK(s.store.profiles().current().size() == 1);
    CHECK(s.store.history().entries("profile", s.id).size() >= 7);
}

TEST_CASE("a pin may name any version that there is, and a withdrawn one corrects nothing, with the reason",
          "[studio][profile]") {
    Versions s;
    const auto match = [&](const std::string& value) {
        ResolvedFrame fields = neutral_start();
        fields.fields[static_cast<int>(Field::lens_profile)].value.text = value;
        static std::vector<Profile> versions;
        versions = s.store.profiles().all_versions();
        return profile_for(fields, sample_frame(), versions);
    };
    const References known = references_for(Field::lens_profile, s.store);
    CHECK(referred(Field::lens_profile, {0, "Lumenfold 35mm f/2.8@1"}, known).text == s.id + "@1");
    CHECK(referred(Field::lens_profile, {0, "Lumenfold 35mm f/2.8"}, known).text == s.id);
    CHECK(error_of([&] { referred(Field::lens_profile, {0, s.id + "@9"}, known); }) == "input");
    CHECK(match(s.id + "@1").profile->version == 1);
    CHECK(match(s.id).profile->version == 2);
    s.store.profiles().withdraw(s.id, 1, "the board was bent", "iva");
    CHECK_FALSE(match(s.id + "@1").usable());
    CHECK(match(s.id + "@1").reasons.front().find("the board was bent") != std::string::npos);
    CHECK(match(s.id).profile->version == 2);
}

TEST_CASE("changing a version tells first how many frames move, and by how much", "[studio][profile]") {
    Versions s;
    const FramesReached reached =
        reach_of_versions(s.store, with_withdrawn(s.store.profiles().all_versions(), s.id, 2), s.progress);
    CHECK(reached.looked_at == 1);
    CHECK(reached.pixels == 1);
    CHECK(reached.largest_px > 0.5);
    CHECK(reached.folders.count(s.folder / "frames") == 1);
    CHECK(reached.sentence().find("1 of 1 frames changes") == 0);
    CHECK(s.in_use() == 2);  // nothing was done
    const FramesReached none =
        reach_of_versions(s.store, with_withdrawn(s.store.profiles().all_versions(), s.id, 1), s.progress);
    CHECK(none.frames == 0);
}

TEST_CASE("frames on a baseline are behind when the version that they were rolled out with gives way",
          "[studio][profile]") {
    Versions s;
    s.store.baselines().change_draft([](Revision& r) {
        Tier t;
        t.id = t.name = "studio";
        t.pins[Field::exposure] = Pin::constant({0.5, ""});
        r.tiers.push_back(t);
    });
    s.store.baselines().publish("iva", "");
    const auto rehearsed = [&] {
        RehearsalRequest request;
        request.frames = std::make_shared<const RehearsalRequest::Frames>(s.store.frames().all());
        request.profiles = profiles_of(s.store);
        return rehearse_frames(request, *s.store.registry().fleet(), s.store.baselines().current(), s.progress);
    };
    const auto behind = [&] {
        std::vector<DriftFinding> out;
        for (DriftFinding& d : check_drift(s.store, "", s.progress).findings)
            if (d.kind == Drift::behind) out.push_back(std::move(d));
        return out;
    };
    REQUIRE(roll_out_rehearsed(s.store, rehearsed(), RolloutOrder("iva"), s.progress).written == 1);
    CHECK(read_sheet(s.frame).profile == s.id + "@2");
    CHECK(behind().empty());
    CHECK(rehearsed().writes() == 0);
    s.store.profiles().withdraw(s.id, 2, "the board was bent", "iva");
    const auto found = behind();
    REQUIRE(found.size() == 1);
    CHECK(found[0].what.find("version 2") != std::string::npos);
    CHECK(found[0].what.find("version 1") != std::string::npos);
    CHECK(found[0].what.find("px") != std::string::npos);
    REQUIRE(rehearsed().writes() == 1);
    CHECK(rehearsed().frames[0].outcome == Outcome::changes);
    roll_out_rehearsed(s.store, rehearsed(), RolloutOrder("iva"), s.progress);
    CHECK(behind().empty());
}

TEST_CASE("a revision can fix the versions that it was published with", "[studio][profile]") {
    const std::string then = "2026-03-01T10:00:00Z";
    CHECK(fixed_at("automatic", then) == "automatic@" + then);
    CHECK(fixed_at("p7", then) == "p7@" + then);
    CHECK(fixed_at("p7@2", then) == "p7@2");
    CHECK(fixed_at("none", then) == "none");
    std::vector<Profile> versions{measured_with(-0.2), measured_with(-0.21)};
    for (int v : {0, 1}) {
        versions[static_cast<std::size_t>(v)].id = "p7";
        versions[static_cast<std::size_t>(v)].version = v + 1;
    }
    using What = VersionEvent::What;
    set_states(versions, {{What::publish, "p7", 1, "2026-02-01T00:00:00Z", "", ""},
                          {What::publish, "p7", 2, "2026-03-02T00:00:00Z", "", ""}});
    ResolvedFrame fields;
    Revision r;
    r.profiles_as_of = then;
    Resolver(r).resolve({}, fields);
    CHECK(profile_for(fields, sample_frame(), versions).profile->version == 1);
    CHECK(profile_for(neutral_start(), sample_frame(), versions).profile->version == 2);
    CHECK(revision_from_json(revision_to_json(r), "it").profiles_as_of == then);
}

TEST_CASE("a serious finding is accepted by name before anything is published, and lowers the grade",
          "[studio][profile]") {
    const TemporaryFolder folder;
    Store store((folder / "s").string(), Access::begin);
    Profile p = sample_profile();
    p.lens_serial = "LF-1";
    p.findings = {{"tilt", "No chart frame is tilted.", true, "", "", ""},
                  {"flats@FL0001.dng", "FL0001.dng is not evenly lit.", false, "", "", ""}};
    const std::string refused = sentence_of([&] { store.profiles().publish(p); });
    CHECK(refused.find("tilt") != std::string::npos);
    CHECK(refused.find("flats@FL0001.dng") != std::string::npos);
    CHECK(store.profiles().all_versions().empty());
    CHECK(sentence_of([&] {
              accept_findings(p.findings, p.name, {{"titl", ""}}, "iva", "now");
          }).find("tilt") != std::string::npos);
    accept_findings(p.findings, p.name, {{"tilt", "the board is fixed"}}, "iva", "2026-03-01T10:00:00Z");
    CHECK_FALSE(sentence_of([&] { store.profiles().publish(p); }).empty());
    accept_findings(p.findings, p.name, {{"flats@FL0001.dng", ""}}, "iva", "2026-03-01T10:00:00Z");
    const Profile published = store.profiles().publish(p);
    const Profile kept = store.profiles().all_versions().front();
    REQUIRE(kept.findings.size() == 2);
    CHECK(kept.findings[0].reason == "the board is fixed");
    Metadata frame = sample_frame();
    frame.lens_serial = "LF-1";
    const PictureGeometry g{2464, 1640, 9.4};
    CHECK(grade_profile(published, frame, g).grade == MatchGrade::same_model);
    p.findings.erase(p.findings.begin());  // the falloff alone
    CHECK(grade_profile(p, frame, g).grade == MatchGrade::own_copy);
}

TEST_CASE("lens settings are neither kept nor dropped without a word", "[studio][profile]") {
    const TemporaryFolder folder;
    Store store((folder / "s").string(), Access::begin);
    Profile two = sample_profile();
    two.nodes.push_back(two.nodes[0]);
    two.nodes[1].setting.aperture = 8;
    store.profiles().publish(two);
    const std::string refused = sentence_of([&] { store.profiles().publish(measured_with(-0.25)); });
    CHECK(refused.find("f/8") != std::string::npos);
    CHECK(store.profiles().publish(measured_with(-0.25), OtherSettings::keep).nodes.size() == 2);
    CHECK(store.profiles().publish(measured_with(-0.26), OtherSettings::drop).nodes.size() == 1);
}

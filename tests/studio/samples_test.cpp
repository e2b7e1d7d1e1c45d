// SPDX-License-Identifier: GPL-3.0-or-later
// Samples of a rehearsal: the frames that change most, and by how much.
#include "studio/rollout/samples.h"
#include "studio/profiles/frame_profile.h"

#include <catch2/catch.hpp>

#include "cli/studio_by_hand.h"
#include "frames/dng_writer.h"
#include "frames/orientation.h"
#include "optics/lens_text.h"
#include "studio/rollout/approvals.h"
#include "studio/rollout/rolling.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct StudioWithSamples : StudioByHand {
    StudioWithSamples() { good("store index", "'" + frame("").parent_path().string() + "'"); }
    Store store() const { return Store(path("s").string(), Access::write); }
    Rehearsal rehearsal() const { return rehearsal_of(store()); }
    static Rehearsal rehearsal_of(Store s) {
        Progress progress;
        return rehearse_frames({std::make_shared<const RehearsalRequest::Frames>(s.frames().all()), {}, false},
                               *s.registry().fleet(), s.baselines().current(), progress);
    }
    std::vector<Sample> samples(const Rehearsal& r, std::size_t most = 8) const { return samples_of(store(), r, most); }
    static std::vector<Sample> samples_of(Store s, const Rehearsal& r, std::size_t most) {
        Progress progress;
        std::vector<Sample> out;
        look_at_samples(
            s, r, most, [&](const Sample& sample) { out.push_back(sample); }, progress);
        return out;
    }
    int iso(const fs::path& frame) const { return read_metadata(frame).iso; }
};

}  // namespace

TEST_CASE("for each field the frame that changes most is a sample", "[studio][samples]") {
    StudioWithSamples s;
    s.good("baseline pin", "--field luminance_noise --ramp 100:0,800:20,6400:60");
    s.good("baseline pin", "--field exposure --ramp 100:1,6400:0.1");
    s.good("baseline pin", "--field border --value fill");
    s.good("baseline publish");
    const Rehearsal r = s.rehearsal();
    const std::vector<SampleChoice> chosen = choose_samples(r, 8);
    std::map<Field, int> iso_of;
    for (const SampleChoice& c : chosen)
        for (const Field f : c.fields) iso_of[f] = s.iso(r.frames[c.frame].path);
    int lowest = 1000000, highest = 0;
    for (const RehearsedFrame& f : r.frames) {
        lowest = std::min(lowest, s.iso(f.path));
        highest = std::max(highest, s.iso(f.path));
    }
    REQUIRE(lowest < highest);
    CHECK(iso_of.at(Field::luminance_noise) == highest);
    CHECK(iso_of.at(Field::exposure) == lowest);
    CHECK(choose_samples(r, 1).size() == 1);
    CHECK(choose_samples(Rehearsal(), 8).empty());
}

TEST_CASE("samples say in CIELAB how far a frame moves: where it is seen, and by as much as it is",
          "[studio][samples]") {
    StudioWithSamples s;
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish");
    const std::vector<Sample> light = s.samples(s.rehearsal(), 1);
    REQUIRE(light.size() == 1);
    INFO(light[0].problem);
    REQUIRE(light[0].problem.empty());
    CHECK(light[0].fields == std::vector<Field>{Field::exposure});
    // Half a stop more is seen everywhere, and as well in the reduced picture as in the patches.
    CHECK(light[0].in_picture.mean > 3);
    CHECK(light[0].in_picture.mean == Approx(light[0].in_patches.mean).epsilon(0.5));
    CHECK(light[0].in_picture.largest >= light[0].in_picture.mean);
    // The middle patch says the same pixel by pixel.
    const Sample::Patch& middle = light[0].patches[4];
    REQUIRE(middle.before.size() == cv::Size(Sample::patch_px, Sample::patch_px));
    CHECK(cv::mean(middle.after)[1] > 1.1 * cv::mean(middle.before)[1]);

    s.good("rollout apply", "--all");
    CHECK(s.samples(s.rehearsal()).empty());
    s.good("baseline pin", "--field sharpening_amount --value 90");
    s.good("baseline publish");
    const std::vector<Sample> sharp = s.samples(s.rehearsal(), 1);
    REQUIRE(sharp.size() == 1);
    REQUIRE(sharp[0].problem.empty());
    // Sharpening shows in the patches alone.
    CHECK(sharp[0].in_patches.mean > 0.2);
    CHECK(sharp[0].in_picture.mean < 0.1 * sharp[0].in_patches.mean);
}

TEST_CASE("a frame that is held in portrait shows its patches as it is held", "[studio][samples]") {
    const auto of_one = [&](int orientation) {
        StudioByHand one;
        fs::remove(one.frame("SP0002"));
        fs::remove(one.frame("SP0004"));
        fs::remove(one.frame("SP0007"));
        Metadata m = read_metadata(one.frame("SP0001"));
        m.orientation = orientation;
        write_dng(one.frame("SP0001"), read_raw(one.frame("SP0001")), m, Existing::replace_ours);
        one.good("store index", "'" + one.frame("").parent_path().string() + "'");
        one.good("baseline pin", "--field exposure --value 0.5");
        one.good("baseline publish");
        const auto store = [&] { return Store(one.path("s").string(), Access::read); };
        return StudioWithSamples::samples_of(store(), StudioWithSamples::rehearsal_of(store()), 1).at(0);
    };
    const Sample flat = of_one(1), portrait = of_one(6);
    REQUIRE(flat.problem.empty());
    REQUIRE(portrait.problem.empty());
    // Turned to the right, what was the lower left corner is the upper left one.
    constexpr int from[] = {6, 3, 0, 7, 4, 1, 8, 5, 2};
    for (std::size_t i = 0; i < portrait.patches.size(); ++i) {
        const cv::Mat3w expected = as_held(flat.patches[static_cast<std::size_t>(from[i])].after, 6);
        REQUIRE(portrait.patches[i].after.size() == expected.size());
        CHECK(colour_difference(portrait.patches[i].after, expected).mean < 0.5);
    }
    CHECK(portrait.in_patches.mean == Approx(flat.in_patches.mean).epsilon(0.02));
    CHECK(portrait.in_picture.mean == Approx(flat.in_picture.mean).epsilon(0.02));
}

TEST_CASE("a sample that cannot be developed says why, and the others follow", "[studio][samples]") {
    StudioWithSamples s;
    s.good("baseline pin", "--field luminance_noise --ramp 100:0,6400:60");
    s.good("baseline pin", "--field exposure --ramp 100:1,6400:0.1");
    s.good("baseline publish");
    const Rehearsal r = s.rehearsal();
    const std::vector<SampleChoice> chosen = choose_samples(r, 8);
    REQUIRE(chosen.size() == 2);
    write_bytes(r.frames[chosen[0].frame].path, "no picture");
    const std::vector<Sample> samples = s.samples(r);
    REQUIRE(samples.size() == 2);
    CHECK(is_one_sentence(samples[0].problem));
    CHECK(samples[1].problem.empty());
}

TEST_CASE("rehearsing by the command line says how far samples move", "[cli][samples]") {
    StudioWithSamples s;
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish");
    const auto j = nlohmann::json::parse(s.good("rollout rehearse", "--samples 1 --json"));
    REQUIRE(j["samples"].size() == 1);
    CHECK(j["samples"][0]["fields"][0] == "exposure");
    CHECK(j["samples"][0]["picture"]["mean"].get<double>() > 3);
    CHECK(s.good("rollout rehearse", "--samples 1").find("CIELAB") != std::string::npos);
    s.refused("rollout rehearse", "--samples 0", 2);
}

namespace {

std::vector<Sample> samples_of_proposal(Store& store, int id) {
    Progress progress;
    const ProposalView view = look_at_proposal(store, id, progress);
    std::vector<Sample> out;
    look_at_samples(
        store, view, 4, [&](const Sample& sample) { out.push_back(sample); }, progress);
    return out;
}

/// Of the lens of a frame, with barrel distortion, at its setting.
Profile bent_profile(const Metadata& m) {
    Profile p;
    p.lens = p.name = m.lens;
    p.lens_serial = m.lens_serial;
    p.geometry = geometry_of(m);
    ProfileNode n;
    n.focal_mm = m.focal_mm;
    n.setting = {m.focal_mm, m.aperture, m.distance_m};
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.2, -0.1, 1e-4, -1e-4, 0, 0});
    n.largest_radius_mm = 14;
    p.nodes = {n};
    return p;
}

}  // namespace

TEST_CASE("what is proposed is seen on sample frames, before and after", "[studio][samples][approvals]") {
    StudioWithSamples s;
    s.good("baseline pin", "--field exposure --value 0.5");
    Store store = s.store();
    const int revision = propose_draft(store, "Lighter");
    const auto lighter = samples_of_proposal(store, revision);
    REQUIRE_FALSE(lighter.empty());
    CHECK(lighter[0].problem.empty());
    CHECK(lighter[0].in_picture.mean > 1);
    CHECK(cv::mean(lighter[0].patches[4].after)[1] > cv::mean(lighter[0].patches[4].before)[1]);
    s.good("baseline publish");
    const int rollout = propose_rollout(store, s.rehearsal(), "", "Monday");
    const auto rolled = samples_of_proposal(store, rollout);
    REQUIRE(rolled.size() == lighter.size());
    CHECK(rolled[0].frame == lighter[0].frame);
    CHECK(rolled[0].in_picture.mean == Approx(lighter[0].in_picture.mean));
    const auto shown = nlohmann::json::parse(s.good("approval show", std::to_string(rollout) + " --samples 1 --json"));
    CHECK(shown["samples"].size() == 1);
    // Sidecars stay as they are.
    CHECK_FALSE(read_sidecar(lighter[0].frame));
}

TEST_CASE("a proposed profile is seen on frames of its lens", "[studio][samples][approvals]") {
    StudioWithSamples s;
    Store store = s.store();
    const Metadata m = read_metadata(s.frame("SP0002"));
    const int id = propose_profile(store, bent_profile(m), "");
    const auto bent = samples_of_proposal(store, id);
    REQUIRE_FALSE(bent.empty());
    for (const Sample& sample : bent) {
        CHECK(sample.problem.empty());
        CHECK(sample.fields == std::vector<Field>{Field::lens_profile});
        CHECK(canonical_lens_text(read_metadata(sample.frame).lens) == canonical_lens_text(m.lens));
    }
    CHECK(std::any_of(bent.begin(), bent.end(), [](const Sample& one) { return one.in_picture.largest > 1; }));
    Profile other = bent_profile(m);
    other.lens = other.name = "Somebody 20mm";
    other.lens_serial.clear();
    CHECK(samples_of_proposal(store, propose_profile(store, other, "")).empty());
}

// SPDX-License-Identifier: GPL-3.0-or-later
// Bodies that are made to render alike, against known spectra and sensitivities.
#include "patches/alike.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "frames/dng_writer.h"
#include "patches/colour_writer.h"
#include "patches/patch_rendering.h"
#include "patches/simulated_chart.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

/// A copy of a body model whose frames are taken with the usual settings.
struct CopyOfBody {
    unsigned copy;
    double sensitivity = 1;   ///< of all colours
    double recorded_red = 1;  ///< error of the neutral that its frames record
};

BodyColours measured_copy(const TemporaryFolder& folder, const CopyOfBody& of, unsigned seed = 1) {
    ChartPhotograph shot;
    shot.body = BodySensitivities(of.copy);
    shot.level = 0.62 * of.sensitivity;
    shot.shade = 0;
    shot.seed = seed;
    RawPicture raw = shot.taken();
    // All copies of a model carry one matrix.
    raw.xyz_to_camera = ChartPhotograph().usual_matrix();
    raw.as_shot_neutral[0] *= of.recorded_red;
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = fmt::format("B2-{}", of.copy);
    m.iso = 100;
    m.aperture = 8;
    m.exposure_s = 0.01;
    const fs::path path = folder / fmt::format("C{}-{}.dng", of.copy, seed);
    write_dng(path, raw, m, Existing::replace_ours);
    ColourRun run;
    run.chart = shot.chart.reference();
    run.frames = {path};
    Progress progress;
    return body_colours_of(measure_colours(run, progress));
}

}  // namespace

TEST_CASE("copies of a model come together by few pins", "[patches][alike]") {
    const TemporaryFolder folder;
    const BodyColours reference = measured_copy(folder, {0});
    const AlikeTarget target = rendered_as_recorded(reference.settings[0]);
    double before = 0, after = 0, p95 = 0;
    for (unsigned copy = 1; copy <= 4; ++copy) {
        const BodyColours body = measured_copy(folder, {copy, 1 + 0.04 * copy, 1 + 0.015 * copy});
        const AlikePins pins = pins_alike(body.settings[0], body.chart, target, {0.4, 1.0});
        CHECK(pins.neutral);
        before += pins.before.mean / 4;
        after += pins.after.mean / 4;
        p95 += pins.after.p95 / 4;
        CHECK(pins.after.mean < pins.before.mean);
    }
    INFO(before << " before, " << after << " after, 95 percent " << p95);
    CHECK(before > 1);
    CHECK(after < 0.4);
    CHECK(p95 < 1.0);
}

TEST_CASE("a body that differs in sensitivity alone gets exposure alone", "[patches][alike]") {
    const TemporaryFolder folder;
    const BodyColours reference = measured_copy(folder, {0}), darker = measured_copy(folder, {0, 0.8}, 7);
    const AlikePins pins =
        pins_alike(darker.settings[0], darker.chart, rendered_as_recorded(reference.settings[0]), {});
    CHECK(pins.exposure);
    CHECK_FALSE(pins.neutral);
    CHECK_FALSE(pins.colour_file);
    CHECK(pins.exposure_ev.value == Approx(std::log2(1 / 0.8)).margin(0.02));
    CHECK(pins.reached);
    // A time that only one of them records says nothing of the light: exposure is left alone.
    ColourSetting unrecorded = darker.settings[0];
    unrecorded.exposure_s = 0;
    CHECK_FALSE(pins_alike(unrecorded, darker.chart, rendered_as_recorded(reference.settings[0]), {}).exposure);
    // Itself needs nothing.
    const AlikePins own =
        pins_alike(reference.settings[0], reference.chart, rendered_as_recorded(reference.settings[0]), {});
    CHECK_FALSE(own.exposure);
    CHECK(own.before.mean == 0);
}

TEST_CASE("settings whose pins agree are one span", "[patches][alike]") {
    AlikePins a, b, c;
    a.iso = 100;
    b.iso = 400;
    c.iso = 6400;
    for (AlikePins* p : {&a, &b, &c}) {
        p->neutral = true;
        p->warmth = {4, 0.5};
        p->tint = {-2, 0.5};
    }
    b.warmth.value = 4.6;
    c.warmth.value = 9;
    const std::vector<AlikeSpan> spans = spans_of({c, a, b});
    REQUIRE(spans.size() == 2);
    CHECK(spans[0].first_iso == 100);
    CHECK(spans[0].last_iso == 400);
    CHECK(spans[0].pins.warmth.value == Approx(4.3));
    CHECK(spans[1].pins.warmth.value == 9);
}

TEST_CASE("a colour measurement is read as it was written, and a damaged one is refused", "[patches][alike]") {
    const TemporaryFolder folder;
    const BodyColours colours = measured_copy(folder, {0});
    const std::string document = body_colours_to_json(colours);
    CHECK(body_colours_to_json(body_colours_from_json(document, "The measurement")) == document);
    const auto refused = [&](const std::function<void(json&)>& change) {
        json j = json::parse(document);
        change(j);
        try {
            colour_kind().require_plausible(j.dump());
            FAIL("nothing was refused");
        } catch (const Error& e) {
            CHECK(is_one_sentence(e.what()));
        }
    };
    refused([](json& j) { j["settings"] = json::array(); });
    refused([](json& j) { j["settings"][0]["patches"].erase(0); });
    refused([](json& j) { j["settings"][0]["neutral"][0] = 0; });
    refused([](json& j) { j["settings"][0]["xyz_to_camera"] = {1, 2}; });
    refused([](json& j) { j["settings"][0]["xyz_to_camera"] = {1, 1, 1, 1, 1, 1, 1, 1, 1}; });
    refused([](json& j) { j["settings"][0]["patches"][0]["raw"][0] = 1e9; });
    refused([](json& j) { j["chart"]["patches"][0]["xyz_d50"] = {1, 2}; });
    refused([](json& j) { j["format"] = "optrel-noise"; });
    refused([](json& j) { j["format_version"] = 9; });
    for (const std::size_t length : {std::size_t(0), document.size() / 3, document.size() - 4})
        CHECK_THROWS_AS(body_colours_from_json(document.substr(0, length), "The measurement"), Error);
}

TEST_CASE("a colour file brings another model close, and develops as the fit says", "[patches][alike]") {
    const TemporaryFolder folder;
    const BodyColours reference = measured_copy(folder, {0});
    const AlikeTarget target = rendered_as_recorded(reference.settings[0]);
    // Another model: other dyes, and a matrix of its own.
    ChartPhotograph shot;
    for (std::size_t c = 0; c < 3; ++c) {
        const double centres[3] = {596, 529, 463}, widths[3] = {41, 38, 32};
        shot.body.of[c] = spectrum_from([&](double nm) {
            return (lobe(nm, centres[c], widths[c]) + 0.08 * lobe(nm, 540, 75)) / (nm > 690 ? 20 : 1);
        });
    }
    shot.level = 0.62;
    shot.shade = 0;
    Metadata m;
    m.maker = "Tarnwick";
    m.model = "Tarnwick T7";
    m.body_serial = "70031";
    m.iso = 100;
    m.aperture = 8;
    m.exposure_s = 0.01;
    write_dng(folder / "other.dng", shot.taken(), m, Existing::replace_ours);
    ColourRun run;
    run.chart = shot.chart.reference();
    run.frames = {folder / "other.dng"};
    Progress progress;
    const BodyColours other = body_colours_of(measure_colours(run, progress));
    const AlikePins pins = pins_alike(other.settings[0], other.chart, target, {0.4, 1.0});
    INFO(pins.before.mean << " before, " << pins.after.mean << " after, 95 percent " << pins.after.p95);
    REQUIRE(pins.colour_file);
    REQUIRE(pins.fit);
    CHECK(pins.after.mean < 1.2);
    CHECK(pins.after.mean < pins.before.mean);

    // The file and the pins through the real development: the same colours as the fit has.
    ResolvedFrame fields;
    Resolver(Revision()).resolve(FrameFacts(), fields);
    fields.colour_file = std::make_shared<const ColourProfile>(
        colour_profile_from(alike_file(*pins.fit, {"like the reference", "Tarnwick T7", "free"}), "the file"));
    fields.fields[static_cast<int>(Field::colour_source)].value = value_of_colour_file("like the reference", "00");
    fields.fields[static_cast<int>(Field::white_balance)].value = Value{0, "offset"};
    fields.fields[static_cast<int>(Field::warmth_offset)].value = Value{pins.warmth.value, ""};
    fields.fields[static_cast<int>(Field::tint_offset)].value = Value{pins.tint.value, ""};
    const std::vector<cv::Vec3d> seen = rendered_patches(other.settings[0], other.camera, fields);
    std::vector<double> all;
    for (std::size_t i = 0; i < seen.size(); ++i)
        if (target.used[i] && other.settings[0].patches[i].used())
            all.push_back(de2000(lab_of(target.xyz[i], white_d50), lab_of(seen[i], white_d50)));
    const Spread spread = spread_of(all);
    CHECK(spread.mean == Approx(pins.after.mean).margin(0.15));
    CHECK(spread.mean < 1.2);
}

TEST_CASE("bodies are made alike by the command line", "[patches][alike][cli]") {
    const StudioByHand s;
    const TemporaryFolder folder;
    for (const CopyOfBody& of : {CopyOfBody{0}, CopyOfBody{1, 1.06, 1.03}}) {
        BodyColours colours = measured_copy(folder, of);
        colours.time = "2026-11-30T10:00:00Z";
        write_bytes(s.path("colours.json"), body_colours_to_json(colours));
        s.good("store publish-colours", fmt::format("--yes '{}'", s.path("colours.json").string()));
        s.refused("store publish-colours", fmt::format("--yes '{}'", s.path("colours.json").string()));  // the same
    }
    s.good("store index", fmt::format("'{}'", folder.path().string()));
    const json proposed =
        json::parse(s.good("colour alike", "--reference 'Brimholt B2/B2-0' --bodies 'Brimholt B2/B2-1' --json"));
    REQUIRE(proposed["bodies"].size() == 1);
    const json& span = proposed["bodies"][0]["spans"][0];
    CHECK(span["first_iso"] == 100);
    CHECK(span["after"]["mean_de2000"] < span["before"]["mean_de2000"]);
    CHECK(proposed["spread_after"]["mean_de2000"] < proposed["spread_before"]["mean_de2000"]);
    s.good("colour alike", "--reference chart --bodies 'Brimholt B2/B2-1' --pin");
    const json draft = json::parse(s.good("baseline export"));
    CHECK(draft.dump().find("warmth_offset") != std::string::npos);
    s.refused("colour alike", "--reference nobody --bodies 'Brimholt B2/B2-1'");
    s.refused("colour alike", "--reference 'Brimholt B2/B2-0' --bodies 'Brimholt B2/B2-0'");
    s.refused("colour alike", "--reference 'Brimholt B2/B2-0' --bodies 'Brimholt B2/B2-1' --limit-mean nan", 2);
}

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_kind.h"
#include "sensor/noise_shots.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "frames/opened_frame.h"
#include "sensor/noise_json.h"
#include "sensor/noise_plan.h"
#include "sensor/noise_report.h"
#include "studio/development/frame_development.h"
#include "studio/exports/account.h"
#include "support/store_place.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

/// A measurement of a body at some ISO settings.
NoiseMeasurement measured(const std::vector<int>& isos, double gain = 2.5) {
    NoiseMeasurement m;
    m.body.maker = "Brimholt";
    m.body.model = "Brimholt B2";
    m.body.body_serial = "B2-0117";
    m.frames = {"a.dng", "b.dng"};
    for (const int iso : isos) {
        IsoNoise noise;
        noise.iso = iso;
        noise.white = 15871;
        for (ColourNoise& c : noise.colours) {
            c.gain = {gain * 100 / iso, 0.002};
            c.slope = {1 / c.gain.value, 0.001};
            c.floor = {1.5, 0.01};
            c.read_noise = {3, 0.01};
            c.full_well = {c.gain.value * noise.white, 10};
            c.prnu = {0.9, 0.01};
        }
        m.isos.push_back(noise);
    }
    return m;
}

std::string document_of(const NoiseMeasurement& m) { return noise_to_json(m, "Iva", "2026-12-01T10:00:00Z"); }

}  // namespace

TEST_CASE("the noise of a body is published, followed and compared like any measurement", "[sensor][store][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    StoredMeasurements measurements = store.measurements();
    const Measurement first = measurements.publish(noise_kind(), document_of(measured({100, 200})), OtherSettings::ask);
    CHECK(first.version == 1);
    CHECK(first.id.starts_with("n"));
    CHECK(first.name == "Noise of Brimholt B2 B2-0117");
    CHECK(first.subject.kind == MeasuredSubject::Kind::body);
    CHECK(first.author == "Iva");
    REQUIRE(first.figures.size() == 4);
    CHECK(to_string(first.figures[0]).find("gain at ISO 100") != std::string::npos);

    const std::string one_iso = document_of(measured({100}, 2.6));
    CHECK(sentence_of([&] { measurements.publish(noise_kind(), one_iso, OtherSettings::ask); }).find("ISO 200") !=
          std::string::npos);
    const Measurement second = measurements.publish(noise_kind(), one_iso, OtherSettings::keep);
    CHECK(second.id == first.id);
    CHECK(second.version == 2);
    CHECK(json::parse(second.document)["iso"].contains("200"));
    const std::vector<std::string> changes = noise_kind().differences(first.document, second.document);
    REQUIRE(changes.size() == 1);
    CHECK(changes[0].find("gain of green changes by +0.1") != std::string::npos);
    CHECK(noise_kind().differences(first.document, first.document).empty());
    CHECK(measurements.current(noise_kind()).size() == 1);
    CHECK(store.damaged_records().empty());
}

TEST_CASE("a serious finding of a noise run is accepted by name", "[sensor]") {
    NoiseMeasurement m = measured({100});
    m.findings.push_back({"light_leak", true, 100, "Dark frames are not dark.", "Cover the lens."});
    m.findings.push_back({"lens", false, 0, "Another lens.", "Keep one."});
    const std::string document = document_of(m);
    const Measurement read = noise_kind().read(document, "test");
    REQUIRE(read.findings.size() == 1);
    CHECK(read.findings[0].name == "light_leak@100");
    CHECK_FALSE(read.findings[0].accepted());
    CHECK(error_of([&] { with_accepted(document, {{"light_leek@100", ""}}, "Iva", ""); }) == "input");
    const std::string accepted = with_accepted(document, {{"light_leak@100", "known"}}, "Iva", "2026-12-01T10:00:00Z");
    CHECK(noise_kind().read(accepted, "test").findings[0].accepted());
}

TEST_CASE("documents that are no noise measurement, or that no sensor could give, are refused", "[sensor]") {
    const std::string good = document_of(measured({100}));
    CHECK(error_of([&] { noise_kind().require_plausible(good); }) == "none");
    for (const std::string& bad : {std::string(), std::string("["), std::string("[]"), std::string("{}"),
                                   std::string("{\"format\": \"optrel-profile\"}"), good.substr(0, good.size() / 2)}) {
        INFO(bad);
        CHECK(error_of([&] { noise_kind().read(bad, "Noise.json"); }) == "input");
    }
    const auto with = [&](const char* pointer, const json& value) {
        json j = json::parse(good);
        j[json::json_pointer(pointer)] = value;
        return j.dump();
    };
    for (const auto& [pointer, value] : {std::pair<const char*, json>("/format_version", 2),
                                         {"/camera", 7},
                                         {"/iso/none", json::object()},
                                         {"/iso/100/red/gain_e_per_dn", "2.5"},
                                         {"/iso/100/blue/b/sigma", nullptr},
                                         {"/findings", "none"},
                                         {"/iso", json::array({1})}}) {
        INFO(pointer);
        CHECK(error_of([&] { noise_kind().read(with(pointer, value), "Noise.json"); }) == "input");
    }
    for (const auto& [pointer, value] : {std::pair("/iso/100/green/gain_e_per_dn/value", 0.0),
                                         {"/iso/100/green/gain_e_per_dn/value", 1e9},
                                         {"/iso/100/red/read_noise_e/value", -3.0},
                                         {"/iso/100/red/read_noise_e/sigma", -1.0},
                                         {"/iso/100/blue/prnu_percent/value", 200.0},
                                         {"/iso/100/blue/full_well_e/value", 0.0}}) {
        INFO(pointer);
        CHECK(error_of([&] { noise_kind().require_plausible(with(pointer, value)); }) == "input");
    }
    // Levels of pairs that no flat fields have.
    for (const json& levels : {json("much"), json::array({{{"level", "0.5"}}}), json::array({{{"level", 7}}}),
                               json::array({{{"level", 0.5}, {"exposure_s", -1}}}), json(json::array_t(20000, 1))}) {
        INFO(levels.dump().substr(0, 100));
        CHECK(error_of([&] { noise_kind().require_plausible(with("/iso/100/levels", levels)); }) == "input");
    }
}

TEST_CASE("noise between measured ISO settings is interpolated, and beyond them it is unknown", "[sensor]") {
    const std::string document = document_of(measured({100, 400}));
    const auto at = [&](double iso) { return noise_terms_at(document, iso); };
    REQUIRE(at(100));
    CHECK((*at(100))[2] == Approx(1 / 2.5 / 15871));
    CHECK((*at(100))[3] == Approx(1.5 / 15871 / 15871));
    REQUIRE(at(200));
    // Gain falls with the ISO, so slope grows with it.
    CHECK((*at(200))[2] == Approx(2 / 2.5 / 15871));
    CHECK((*at(400))[2] == Approx(4 / 2.5 / 15871));
    CHECK_FALSE(at(50));
    CHECK_FALSE(at(800));
    CHECK_FALSE(at(0));
}

TEST_CASE("a raw copy carries the measured noise of its body", "[sensor][cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    const json facts =
        json::parse(s.good("resolve", fmt::format("--frame '{}' --json", s.frame("SP0001").string())))["facts"];
    const int iso = facts["iso"];
    write_bytes(s.path("noise.json"), document_of(measured({iso})));
    s.good("store publish-noise", "'" + s.path("noise.json").string() + "'");
    s.good("export",
           fmt::format("--as dng --frames '{}' --out '{}'", s.frame("SP0001").string(), s.path("copies").string()));
    const fs::path copy = s.path("copies") / "SP0001.dng";
    REQUIRE(fs::exists(copy));
    const OpenedFrame opened(copy);
    const Exiv2::ExifData& exif = opened.image().exifData();
    const auto profile =
        std::find_if(exif.begin(), exif.end(), [](const Exiv2::Exifdatum& d) { return d.tag() == 51041; });
    REQUIRE(profile != exif.end());
    REQUIRE(profile->count() == 6);
    const std::array<double, 6> wanted = *noise_terms_at(document_of(measured({iso})), iso);
    for (std::size_t i = 0; i < 6; ++i)
        CHECK(profile->toFloat(static_cast<long>(i)) == Approx(wanted[i]).epsilon(1e-5));
    // The account keeps it, so that the copy can be made again when the body was measured anew.
    write_bytes(s.path("second.json"), document_of(measured({iso}, 3)));
    s.good("store publish-noise", "'" + s.path("second.json").string() + "'");
    const Account account = read_account(copy);
    REQUIRE(account.noise);
    CHECK(*account.noise == wanted);
    Store store(s.path("s"), Access::read);
    CHECK(development_of(account, store, s.frame("SP0001")).sensor.noise == account.noise);
    CHECK((*development_from_store(store, s.frame("SP0001")).sensor.noise)[2] < wanted[2]);
}

TEST_CASE("noise is published by the command line, and its frames' traces find it", "[sensor][cli]") {
    const StudioByHand s;
    write_bytes(s.path("noise.json"), document_of(measured({100, 200})));
    const json published = json::parse(s.good("store publish-noise", "--json '" + s.path("noise.json").string() + "'"));
    CHECK(published["version"] == 1);
    s.refused("store publish-noise", "'" + s.path("noise.json").string() + "'");  // the same again
    json claimed = json::parse(document_of(measured({100})));
    claimed["taken_in"] = {{"way", "bundle"}, {"key", "00"}};
    write_bytes(s.path("claimed.json"), claimed.dump());
    s.refused("store publish-noise", "'" + s.path("claimed.json").string() + "'");
    const json list = json::parse(s.good("store list measurements"));
    REQUIRE(list.size() == 1);
    CHECK(list[0]["kind"] == "noise");
    CHECK(list[0]["current"] == true);
    s.refused("store withdraw", published["id"].get<std::string>() + "@1", 2);  // without a reason
    s.good("store withdraw", published["id"].get<std::string>() + "@1 --reason \"The lamp flickered\"");
    CHECK(json::parse(s.good("store list measurements"))[0]["withdrawn"] == "The lamp flickered");
    s.good("store make-current", published["id"].get<std::string>() + "@1");
    // The demo's frames report this body.
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    const json facts =
        json::parse(s.good("resolve", fmt::format("--frame '{}' --json", s.frame("SP0001").string())))["facts"];
    CHECK(facts["measured"] == json::array({published["id"].get<std::string>() + "@1"}));
}

TEST_CASE("a noise report has the figures of the document, and plans what is missing", "[sensor]") {
    NoiseMeasurement m = measured({100, 200, 3200});
    m.isos[0].pairs = 8;
    m.isos[0].dark_frames = 4;
    m.isos[1].pairs = 2;
    m.isos[1].dark_frames = 0;
    for (ColourNoise& c : m.isos[1].colours) c.gain.sigma = 0.02;
    m.isos[2].pairs = 8;
    m.isos[2].dark_frames = 2;
    const NoiseReport report = noise_report(document_of(m), "N.json");
    CHECK(report.camera == "Brimholt B2");
    REQUIRE(report.isos.size() == 3);
    CHECK(report.isos[1].iso == 200);
    const ReportedColour& green = report.isos[0].colours[1];
    CHECK(green.gain.value == Approx(2.5));
    CHECK(green.a.value == Approx(0.4 / 15871));
    CHECK(green.dynamic_range_ev == Approx(std::log2(2.5 * 15871 / 3)));
    const double variance = green.a.value * 0.5 + green.b.value + 0.0045 * 0.0045;
    CHECK(green.snr_db(0.5) == Approx(20 * std::log10(0.5 / std::sqrt(variance))));
    const std::vector<NoisePlanStep> plan = noise_plan(report);
    REQUIRE(plan.size() == 4);
    CHECK(plan[0].iso == 200);
    CHECK(plan[0].take == "4 dark frames with the cap on");
    const auto wide = std::find_if(plan.begin(), plan.end(), [](const NoisePlanStep& p) { return p.iso == 800; });
    REQUIRE(wide != plan.end());
    CHECK(wide->gain.find("from ISO 200 to 3200") != std::string::npos);
    CHECK(error_of([] { noise_report("{}", "N.json"); }) == "input");
    CHECK(error_of([] { noise_report("[", "N.json"); }) == "input");
}

TEST_CASE("noise reduction is derived by the command line and pinned with its measurement", "[sensor][cli]") {
    const StudioByHand s;
    NoiseMeasurement m = measured({100, 1600, 12800});
    for (IsoNoise& iso : m.isos)
        for (ColourNoise& c : iso.colours) {
            c.slope.value = iso.iso / 250.0;
            c.floor.value = 1.5 * iso.iso / 100;
        }
    write_bytes(s.path("n.json"), document_of(m));
    s.good("store publish-noise", fmt::format("--yes '{}'", s.path("n.json").string()));
    const std::string id = json::parse(s.good("store list measurements"))[0]["id"];
    // The body has to be in the register.
    s.refused("baseline derive-noise", "--measurement " + id);
    write_bytes(s.path("bodies.csv"), "maker,model,serial_number\r\nBrimholt,Brimholt B2,B2-0117\r\n");
    s.good("store fleet import", fmt::format("--yes '{}'", s.path("bodies.csv").string()));
    s.refused("baseline derive-noise", "--measurement nothing");
    s.refused("baseline derive-noise", "--measurement " + id + " --lightness 0", 2);
    const json derived = json::parse(s.good("baseline derive-noise", "--json --measurement " + id));
    REQUIRE(derived["points"].size() == 3);
    CHECK(derived["points"][0]["luminance"] == 0);
    CHECK(derived["points"][2]["luminance"].get<double>() > 10);
    CHECK(derived["points"][2]["with"]["sd_lightness"].get<double>() <= 1);
    CHECK(derived["tier"].get<std::string>().find("B2-0117") != std::string::npos);
    CHECK_FALSE(derived["serves_already"].get<bool>());
    s.good("baseline derive-noise", "--pin --measurement " + id);
    const json tiers = json::parse(s.good("baseline tiers", "--json"));
    REQUIRE(tiers.size() == 1);
    CHECK(tiers[0]["pins"]["luminance_noise"].dump().find(id) != std::string::npos);
    CHECK(json::parse(s.good("baseline derive-noise", "--json --measurement " + id))["serves_already"].get<bool>());
    // A second body with the same noise: one ramp serves the model.
    m.body.body_serial = "B2-0231";
    write_bytes(s.path("m.json"), document_of(m));
    s.good("store publish-noise", fmt::format("--yes '{}'", s.path("m.json").string()));
    CHECK(json::parse(s.good("baseline derive-noise", "--json --measurement " + id))["tier"].get<std::string>().find(
              "model") != std::string::npos);
}

TEST_CASE("the shot plan tells what was taken and what is still to take", "[sensor]") {
    NoiseReport report;
    ReportedIso low, high;
    low.iso = 100;
    low.pairs = 2;
    low.dark_frames = 4;
    low.colours[1].gain = high.colours[1].gain = {1, 0.02};
    low.levels = {{0.01, 0.05}, {0.1, 0.5}};
    high.iso = 6400;
    high.pairs = 8;
    for (int i = 0; i < 8; ++i) high.levels.push_back({0, 0.03 + 0.07 * i});
    report.isos = {low, high};
    const std::vector<NoiseShots> shots = noise_shots(report);
    REQUIRE(shots.size() == 3);
    CHECK(shots[0].iso == 100);
    CHECK(shots[0].pairs.size() == 8);
    CHECK(shots[0].darks_to_take == 0);
    int taken = 0;
    for (const NoiseShot& s : shots[0].pairs) {
        taken += s.taken;
        CHECK(s.exposure_s == Approx(0.2 * s.level));  // the white level after a fifth of a second
        CHECK(s.level >= 0.02 * 0.999);
        CHECK(s.level <= 0.6 * 1.001);
    }
    CHECK(taken == 2);
    // In the middle of the wide step everything is to take, for a shorter time.
    CHECK(shots[1].iso == 800);
    CHECK(shots[1].darks_to_take == 4);
    CHECK(shots[1].pairs.front().exposure_s == Approx(0.2 / 8 * shots[1].pairs.front().level));
    CHECK(shots[2].darks_to_take == 4);
    CHECK(std::all_of(shots[2].pairs.begin(), shots[2].pairs.end(), [](const NoiseShot& s) { return s.taken; }));
    CHECK(noise_shots({}).empty());
}

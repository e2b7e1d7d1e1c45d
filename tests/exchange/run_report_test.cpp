// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/run_report.h"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "optics/curves.h"
#include "support/rig_run.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

struct Solved {
    std::vector<RunFrame> frames;
    RunSolution solution;
};

const Solved& solved() {
    static const Solved s = [] {
        RigRun run = measured_rig_run("tester");
        run.frames[2].dropped = true;
        run.frames[8].detection.blur_px = 9;
        Solved out{std::move(run.frames), {}};
        out.solution = solve_run(out.frames, run.settings, Progress());
        return out;
    }();
    return s;
}

}  // namespace

TEST_CASE("a report holds every figure of the run", "[exchange]") {
    const json r = run_report(solved().frames, solved().solution);
    for (const char* key : {"lens",           "lens_serial",
                            "camera",         "frames_used",
                            "frames_dropped", "flats_used",
                            "frames",         "corners",
                            "rms_px",         "held_out_rms_px",
                            "model",          "coefficients",
                            "models_tried",   "focal_px",
                            "focal_mm",       "centre",
                            "coverage",       "largest_field_height",
                            "max_sigma_px",   "distortion_extreme_percent",
                            "straightness",   "fringe",
                            "falloff",        "size",
                            "pitch_um",       "nodes",
                            "left_out_nodes", "findings",
                            "provenance",     "seconds"}) {
        INFO(key);
        CHECK(r.contains(key));
    }
    CHECK(r.at("frames_used") == 12);
    CHECK(r.at("flats_used") == 4);
    CHECK(r.at("frames").size() == 12);
    CHECK(r.at("nodes").size() == 1);
    CHECK(r.at("straightness").at("before_px").get<double>() > 10 * r.at("straightness").at("after_px").get<double>());
}

TEST_CASE("a report holds the curves with one sigma of each value", "[exchange]") {
    const json curves = run_report(solved().frames, solved().solution).at("curves");
    const LensCurves computed = lens_curves(solved().solution.profile, measured_node(solved().solution.profile, 0), 20);
    const auto check = [](const json& told, const LensCurve& curve) {
        REQUIRE(told.at("value").size() == curve.samples.size());
        for (std::size_t i = 0; i < curve.samples.size(); ++i) {
            CHECK(told.at("field_height").at(i) == curve.samples[i].height);
            CHECK(told.at("value").at(i) == curve.samples[i].value);
            CHECK(told.at("one_sigma").at(i) == curve.samples[i].sigma);
        }
        CHECK(curve.samples.back().sigma > 0);
    };
    check(curves.at("distortion_percent").at("green"), computed.distortion.at(0));
    check(curves.at("fringe_px").at("red"), computed.fringe.at(0));
    check(curves.at("falloff_ev").at("blue"), computed.falloff.at(2));
}

TEST_CASE("a report says which frames were left out and why", "[exchange]") {
    const json r = run_report(solved().frames, solved().solution);
    REQUIRE(r.at("frames_dropped").size() == 1);
    CHECK(r.at("frames_dropped").at(0).at("frame").get<std::string>().find("CH0003.dng") != std::string::npos);
    CHECK(r.at("frames_dropped").at(0).at("reason").get<std::string>().find("by hand") != std::string::npos);
}

TEST_CASE("findings in a report name the frame that shows them", "[exchange]") {
    const json r = run_report(solved().frames, solved().solution);
    bool soft = false;
    for (const json& f : r.at("findings"))
        if (f.at("text").get<std::string>().find("is out of focus or shaken") != std::string::npos) {
            soft = true;
            CHECK(f.at("frame").get<std::string>().find("CH0009.dng") != std::string::npos);
            CHECK_FALSE(f.at("remedy").get<std::string>().empty());
        }
    CHECK(soft);
}

TEST_CASE("a report's provenance names every frame by its contents", "[exchange]") {
    const json p = run_report(solved().frames, solved().solution).at("provenance");
    CHECK(p.at("author") == "tester");
    CHECK(p.at("chart") == "checker:15x10:30");
    CHECK(p.at("frames").size() == 16);
    for (const json& f : p.at("frames")) CHECK(f.at("sha256").get<std::string>().size() == 64);
}

TEST_CASE("the model that was taken is marked among those that were tried", "[exchange]") {
    int taken = 0;
    const json tried = run_report(solved().frames, solved().solution).at("models_tried");
    for (const json& t : tried) {
        taken += t.at("taken").get<bool>();
        CHECK(t.at("held_out_rms_px").get<double>() > 0);
    }
    CHECK(taken == 1);
}

TEST_CASE("falloff in EV is negative towards the corner and zero in the middle", "[exchange]") {
    const Falloff& f = *solved().solution.profile.nodes[0].falloff;
    const double half = solved().solution.profile.geometry.half_diagonal_mm();
    CHECK(falloff_ev(f, Channel::green, 0, half) == Approx(0).margin(1e-12));
    double last = 0;
    for (const double h : {0.25, 0.5, 0.75, 1.0}) {
        const double ev = falloff_ev(f, Channel::green, h, half);
        CHECK(ev < last);
        last = ev;
    }
    // The reciprocal form tells the same light.
    Falloff light, gain;
    light.a[1] = {-0.5, 0, 0, 0};
    gain.a[1] = {1.0, 0, 0, 0};
    gain.reciprocal = true;
    CHECK(falloff_ev(light, Channel::green, 1, 10) == Approx(-1));
    CHECK(falloff_ev(gain, Channel::green, 1, 10) == Approx(-1));
}

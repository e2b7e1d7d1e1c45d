// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/profile.h"

#include <catch2/catch.hpp>

#include <nlohmann/json.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Profile written_profile() {
    Profile p;
    p.id = "p123";
    p.version = 2;
    p.name = p.lens = "Lumenfold 35mm f/2.8";
    p.lens_serial = "LF35-1";
    p.camera = "Brimholt B2";
    p.geometry = {2464, 1640, 9.4};
    ProfileNode n;
    n.setting = {35, 4, 1};
    n.focal_mm = 35.42;
    n.centre_mm = {0.1, -0.2};
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.1, 0.01, 1e-4, 2e-4, 0.001, -0.001, 0.002, 0, 0.1});
    n.covariance = Eigen::MatrixXd::Identity(13, 13) * 1e-6;
    n.red = LateralChromatic{1e-4, 2e-4, 3e-4, {0.001, 0.002}, 0.004};
    Falloff f;
    f.a[1] = {-0.3, 0.02, -0.05};
    f.centre_measured = true;
    n.falloff = f;
    n.quality.rms_px = 0.0071;
    p.nodes = {n};
    p.provenance = {"Iva", "2026-03-02T10:00:00Z", "Optrel", "checker:15x10:30", "first", {{"CH0001.dng", "0011"}}};
    return p;
}

}  // namespace

TEST_CASE("a profile survives its JSON", "[optics]") {
    const Profile p = written_profile();
    const std::string text = profile_to_json(p);
    const Profile back = profile_from_json(text, "test");
    CHECK(profile_to_json(back) == text);
    CHECK(back.nodes[0].model.coefficients() == p.nodes[0].model.coefficients());
    CHECK(back.nodes[0].red);
    CHECK_FALSE(back.nodes[0].blue);
    CHECK(back.provenance.frames == p.provenance.frames);
    CHECK_FALSE(back.pitch_assumed);
}

TEST_CASE("profiles of older formats keep their mapping and their covariance", "[optics]") {
    nlohmann::json file = nlohmann::json::parse(profile_to_json(written_profile()));
    nlohmann::json& node = file["nodes"][0];
    node["coefficients"] = {-0.2, 0.1, 0.01, 1e-4, 2e-4, 0.001, -0.0015};
    node["covariance"] = nlohmann::json::array();
    for (int i = 0; i < 10; ++i) {
        node["covariance"].push_back(std::vector<double>(10, 0.0));
        node["covariance"][i][i] = (i + 1) * 1e-6;
    }
    const LensModel plain(LensModelKind::radial_tangential, {-0.2, 0.1, 0.01, 1e-4, 2e-4, 0, 0});
    const Vec2 axis(0.001, -0.0015), at(0.4, 0.25);

    file["format_version"] = 1;  // the last two were the distortion's centre
    const ProfileNode first = profile_from_json(file.dump(), "test").nodes[0];
    CHECK((first.model.bend(at) - axis - plain.bend(Vec2(at - axis))).norm() < 1e-14);
    CHECK(first.covariance.rows() == 13);
    CHECK(first.covariance(7, 7) == Approx(8e-6));
    CHECK(first.covariance(8, 8) == 0);
    CHECK(first.covariance(11, 11) == Approx(10e-6));

    file["format_version"] = 2;  // they were the axis
    const ProfileNode second = profile_from_json(file.dump(), "test").nodes[0];
    const LensModel turned(LensModelKind::radial_tangential, {-0.2, 0.1, 0.01, 1e-4, 2e-4, axis.x(), axis.y()});
    CHECK((second.model.bend(at) - turned.bend(at)).norm() < 1e-14);
    CHECK(second.covariance(9, 9) == Approx(10e-6));
    CHECK(second.covariance(11, 11) == 0);
}

TEST_CASE("bad profiles are refused in one sentence that names them", "[optics]") {
    const std::string good = profile_to_json(written_profile());
    std::vector<std::string> bad{
        "", "{", "[]", "null", "{}", "\xff\xfe", good.substr(0, good.size() / 2), R"({"format":"something else"})"};
    const auto replaced = [&](const std::string& from, const std::string& to) {
        std::string text = good;
        const auto at = text.find(from);
        REQUIRE(at != std::string::npos);
        return text.replace(at, from.size(), to);
    };
    bad.push_back(replaced("\"format_version\": 3", "\"format_version\": 99"));
    bad.push_back(replaced("\"focal_mm\": 35.42", "\"focal_mm\": -1"));
    bad.push_back(replaced("\"focal_mm\": 35.42", "\"focal_mm\": \"long\""));
    bad.push_back(replaced("radial-tangential", "spline"));
    bad.push_back(replaced("\"width\": 2464", "\"width\": 0"));
    for (const std::string& text : bad) {
        const std::string sentence = sentence_of([&] { profile_from_json(text, "Lens.json"); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
    }
    CHECK(sentence_of([&] { profile_from_json(bad[8], "Lens.json"); }).find("newer") != std::string::npos);
}

TEST_CASE("hostile JSON does not take the program down", "[optics]") {
    std::string deep;
    for (int i = 0; i < 100000; ++i) deep += "[";
    CHECK_FALSE(sentence_of([&] { profile_from_json(deep, "x"); }).empty());
    for (unsigned seed = 0; seed < 50; ++seed) {
        std::string text = profile_to_json(written_profile());
        std::mt19937 random(seed);
        for (int i = 0; i < 5; ++i) text[random() % text.size()] = static_cast<char>(random());
        sentence_of([&] { profile_from_json(text, "x"); });  // anything but an Error fails the test
    }
}

TEST_CASE("spelling does not tell lenses apart, figures do", "[optics]") {
    const std::string canonical = canonical_lens_text("Lumenfold 35mm f/2.8");
    for (const char* same :
         {"LUMENFOLD 35 mm F2.8", "Lumenfold 35mm 2.8", "lumenfold  35mm  F/2.8", "Lumenfold 35 f/2.8"})
        CHECK(canonical_lens_text(same) == canonical);
    CHECK(canonical_lens_text("Lumenfold 35mm f/2") != canonical);
    CHECK(canonical_lens_text("Lumenfold 85mm f/2.8") != canonical);
    CHECK(canonical_lens_text("") == "");
}

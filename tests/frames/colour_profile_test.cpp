// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/colour_profile.h"

#include <lcms2.h>

#include <catch2/catch.hpp>
#include <fstream>
#include <random>

#include "base/files.h"
#include "support/colour_files.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

ProfileFile rich(bool little = true) {
    ProfileFile f = two_lights(little);
    f.text(dng::camera, "Aldermoor Q1").text(dng::rights, "Nobody's").text(dng::profile_signature, "bench 4");
    f.rationals(dng::forward1, tungsten_forward).rationals(dng::forward2, daylight_forward);
    f.u32s(dng::hue_dims, {6, 3, 1});
    std::vector<float> one, two;
    for (int i = 0; i < 18; ++i) {
        for (const float v : {float(i), 1.1f, 1.f}) one.push_back(v);
        for (const float v : {-float(i), 0.9f, 1.f}) two.push_back(v);
    }
    f.floats(dng::hue_data1, one).floats(dng::hue_data2, two);
    f.u32s(dng::look_dims, {1, 2, 2}).floats(dng::look_data, std::vector<float>(12, 1)).u32s(dng::look_encoding, {1});
    f.floats(dng::curve, {0, 0, 0.25f, 0.4f, 1, 1}).rationals(dng::exposure_offset, {-0.35});
    return f;
}

std::string sentence_for(const std::string& bytes) {
    return sentence_of([&] { colour_profile_from(bytes, "/x/profile.colours"); });
}

}  // namespace

TEST_CASE("a colour profile of the DNG specification is read in both orders of bytes", "[frames][colour]") {
    for (const bool little : {true, false}) {
        const ColourProfile p = colour_profile_from(rich(little).bytes(), "a file");
        CHECK(p.name == "Fernwick room");
        CHECK(p.camera == "Aldermoor Q1");
        CHECK(p.copyright == "Nobody's");
        REQUIRE(p.dng);
        REQUIRE(p.dng->lights.size() == 2);
        CHECK(p.dng->lights[0].kelvin == 2856);
        CHECK(p.dng->lights[1].kelvin == 6504);
        CHECK_FALSE(p.dng->swapped);
        for (int i = 0; i < 9; ++i) {
            CHECK(p.dng->lights[0].xyz_to_camera.val[i] == Approx(tungsten_matrix[i]));
            CHECK(p.dng->lights[1].to_xyz_d50->val[i] == Approx(daylight_forward[i]));
        }
        REQUIRE(p.dng->lights[1].hue_table);
        CHECK(p.dng->lights[1].hue_table->hues == 6);
        CHECK(p.dng->lights[1].hue_table->entries[4][0] == -4);
        CHECK(p.dng->look->values == 2);
        CHECK(p.dng->look->encoded_value);
        CHECK(p.dng->curve.size() == 3);
        CHECK(p.dng->exposure_offset == Approx(-0.35));
        CHECK(p.dng->signature == "bench 4");
        CHECK(p.contents() == "two lights, forward matrix, hue table, look table, tone curve");
    }
}

TEST_CASE("the light of the lower temperature comes first, whichever way a profile has them", "[frames][colour]") {
    const ColourProfile p = colour_profile_from(two_lights().u16(dng::light1, 21).u16(dng::light2, 17).bytes(), "f");
    CHECK(p.dng->swapped);
    CHECK(p.dng->lights[0].kelvin == 2856);
    CHECK(p.dng->lights[0].xyz_to_camera.val[0] == Approx(daylight_matrix[0]));
}

TEST_CASE("colour profiles that cannot be are refused in one sentence", "[frames][colour]") {
    const std::vector<float> table(18 * 3, 1);
    const std::pair<const char*, std::string> cases[] = {
        {"no matrix", ProfileFile().text(dng::name, "x").bytes()},
        {"eight figures", two_lights().rationals(dng::matrix1, {1, 0, 0, 0, 1, 0, 0, 0}).bytes()},
        {"no inverse", two_lights().rationals(dng::matrix1, {1, 0, 0, 1, 0, 0, 0, 0, 1}).bytes()},
        {"two lights, one said", two_lights().without(dng::light2).bytes()},
        {"the same light twice", two_lights().u16(dng::light2, 17).bytes()},
        {"one forward matrix", two_lights().rationals(dng::forward1, tungsten_forward).bytes()},
        {"table without size", two_lights().floats(dng::look_data, table).bytes()},
        {"table of another size", two_lights().u32s(dng::look_dims, {6, 4, 1}).floats(dng::look_data, table).bytes()},
        {"a table of nothing", two_lights().u32s(dng::look_dims, {0, 3, 1}).floats(dng::look_data, table).bytes()},
        {"an endless table",
         two_lights().u32s(dng::look_dims, {4000000000u, 4000000000u, 9}).floats(dng::look_data, table).bytes()},
        {"negative factors",
         two_lights().u32s(dng::look_dims, {6, 3, 1}).floats(dng::look_data, std::vector<float>(54, -1)).bytes()},
        {"no figures",
         two_lights().u32s(dng::look_dims, {6, 3, 1}).floats(dng::look_data, std::vector<float>(54, NAN)).bytes()},
        {"a falling curve", two_lights().floats(dng::curve, {0, 0, 0.5f, 0.9f, 1, 0.2f}).bytes()},
        {"half a point", two_lights().floats(dng::curve, {0, 0, 0.5f, 0.9f, 1}).bytes()},
        {"a curve that ends early", two_lights().floats(dng::curve, {0, 0, 0.5f, 0.9f}).bytes()},
        {"nothing", ""},
        {"a text", "The quick brown fox"},
        {"only a head", "IIRC"},
    };
    for (const auto& [what, bytes] : cases) {
        INFO(what);
        const std::string s = sentence_for(bytes);
        INFO(s);
        CHECK(is_one_sentence(s));
        CHECK(s.find("/x/profile.colours") != std::string::npos);
    }
}

TEST_CASE("truncated and scrambled colour profiles never do harm", "[frames][colour]") {
    const std::string whole = rich().bytes();
    int refused = 0;
    for (std::size_t n = 0; n < whole.size(); n += 3) {
        try {
            colour_profile_from(whole.substr(0, n), "a file");
        } catch (const Error&) {
            ++refused;
        }
    }
    CHECK(refused > static_cast<int>(whole.size() / 3 / 2));
    std::mt19937 random(7);
    for (int i = 0; i < 3000; ++i) {
        std::string hurt = whole;
        for (int k = 0; k < 4; ++k) hurt[random() % hurt.size()] = static_cast<char>(random());
        try {
            const ColourProfile p = colour_profile_from(hurt, "a file");
            if (p.dng) CHECK(p.dng->lights.size() <= 2);
        } catch (const Error&) {
        }
    }
}

TEST_CASE("an ICC profile is taken when it is a camera's, and refused otherwise", "[frames][colour]") {
    const auto bytes_of = [](cmsHPROFILE p) {
        cmsUInt32Number n = 0;
        cmsSaveProfileToMem(p, nullptr, &n);
        std::string out(n, '\0');
        cmsSaveProfileToMem(p, out.data(), &n);
        cmsCloseProfile(p);
        return out;
    };
    cmsHPROFILE camera = cmsCreate_sRGBProfile();
    cmsSetDeviceClass(camera, cmsSigInputClass);
    const std::string good = bytes_of(camera);
    const ColourProfile p = colour_profile_from(good, "/x/room.icc");
    CHECK(p.is_icc());
    CHECK(p.contents() == "ICC input profile");
    CHECK_FALSE(p.name.empty());
    CHECK(is_one_sentence(sentence_for(bytes_of(cmsCreate_sRGBProfile()))));  // a screen's
    CHECK(is_one_sentence(sentence_for(bytes_of(cmsCreateLab4Profile(nullptr)))));
    for (std::size_t n = 0; n < good.size(); n += 7) {
        try {
            colour_profile_from(good.substr(0, n), "/x/room.icc");
        } catch (const Error& error) {
            CHECK(is_one_sentence(error.what()));
        }
    }
}

TEST_CASE("a colour file is told by its first bytes", "[frames][colour]") {
    const TemporaryFolder folder;
    write_atomic(folder / "a.colours", two_lights().bytes());
    write_atomic(folder / "b.txt", two_lights(false).bytes());
    write_atomic(folder / "c.icc", "not one");
    CHECK(looks_like_colours(folder / "a.colours"));
    CHECK(looks_like_colours(folder / "b.txt"));
    CHECK_FALSE(looks_like_colours(folder / "c.icc"));
    CHECK_FALSE(looks_like_colours(folder / "there is none"));
    CHECK_FALSE(looks_like_colours(folder.path()));
    CHECK(read_colour_profile(folder / "a.colours").name == "Fernwick room");
    // One without a name gets that of its file.
    write_atomic(folder / "north light.colours", two_lights().without(dng::name).bytes());
    CHECK(read_colour_profile(folder / "north light.colours").name == "north light");
}

// SPDX-License-Identifier: GPL-3.0-or-later
// What the register accepts, what claims hold for, and what is read off a lens text.
#include <algorithm>

#include <catch2/catch.hpp>

#include "fleet/identities.h"
#include "fleet/register_files.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Body body(const std::string& serial) {
    Body b;
    b.maker = "Quenby";
    b.model = "Quenby Q5";
    b.serial = serial;
    b.id = id_for(b);
    return b;
}

Metadata registered_frame() {
    Metadata m;
    m.maker = "Quenby";
    m.model = "Quenby Q5";
    m.body_serial = "Q5-1";
    m.other_serials = {"00a7f3c1", "77"};
    m.lens = "Lumenfold 35mm f/2.8";
    m.lens_serial = "LF-1";
    m.time = "2026:03:04 12:30:00";
    return m;
}

}  // namespace

TEST_CASE("focal and aperture range are read off a lens text where it tells them", "[fleet]") {
    struct Case {
        const char* text;
        double low, high, aperture;
    };
    for (const Case& c : {Case{"Lumenfold 35mm f/2.8", 35, 35, 2.8}, Case{"Aldercroft 24-70mm f/4", 24, 70, 4},
                          Case{"aldercroft 24 - 70 MM F4", 24, 70, 4}, Case{"Lumenfold 1:2.8 35mm", 35, 35, 2.8},
                          Case{"Aldercroft Fisheye 8.5mm F/3.5", 8.5, 8.5, 3.5}, Case{"Macro", 0, 0, 0},
                          Case{"", 0, 0, 0}, Case{"99999999mm f/99999", 5000, 5000, 500}}) {
        Metadata m;
        m.lens = c.text;
        const LensEntry l = lens_from(m);
        INFO(c.text);
        CHECK(l.focal_min_mm == c.low);
        CHECK(l.focal_max_mm == c.high);
        CHECK(l.aperture_min == c.aperture);
        CHECK(l.zoom() == (c.high > c.low));
    }
}

TEST_CASE("an entry is called by its number, else its asset tag, else its name", "[fleet]") {
    Body b = body("Q5-1");
    CHECK(b.id == "Quenby Q5/Q5-1");
    CHECK(b.label() == b.id);
    b.serial.clear();
    b.asset_tag = "HB-1";
    b.name = "Stand";
    CHECK(id_for(b) == "Quenby Q5/HB-1");
    CHECK(b.label() == "Stand");
    b.asset_tag.clear();
    CHECK(id_for(b) == "Quenby Q5/Stand");
    b.name.clear();
    CHECK(id_for(b) == "Quenby Q5/without number");
    LensEntry l;
    l.lens = "Aldercroft 60mm f/4";
    l.name = "the old one";
    CHECK(id_for(l) == "Aldercroft 60mm f/4/the old one");
    const Register all{{}, {body("1")}, {l}};
    CHECK(all.body("Quenby Q5/1"));
    CHECK_FALSE(all.body("Quenby Q5/2"));
    CHECK_FALSE(all.model("Quenby Q5"));
}

TEST_CASE("what cannot stand in the register is refused in one sentence", "[fleet]") {
    const Register all{{}, {body("1")}, {}};
    const auto refused = [&](const auto& change) {
        Body b = body("2");
        change(b);
        CHECK(error_of([&] { check_entry(all, b); }) == "input");
    };
    CHECK_NOTHROW(check_entry(all, body("2")));
    CHECK_NOTHROW(check_entry(all, body("1")));  // itself
    CHECK_NOTHROW(check_entry(all, body("")));   // several may have no number
    refused([](Body& b) { b.serial = "1"; });
    refused([](Body& b) { b.maker = b.model = ""; });
    refused([](Body& b) { b.width = -1; });
    refused([](Body& b) { b.height = 1 << 30; });
    refused([](Body& b) { b.pitch_um = 1000; });
    LensEntry first;
    first.lens = "Lumenfold 35mm f/2.8";
    first.serial = "LF-1";
    first.id = id_for(first);
    const Register lenses{{}, {}, {first}};
    LensEntry second = first;
    second.id = "other";
    second.lens = "lumenfold 35 MM F2.8";  // the same lens in another spelling
    CHECK(error_of([&] { check_entry(lenses, second); }) == "input");
    second.serial = "LF-2";
    CHECK_NOTHROW(check_entry(lenses, second));
    second.focal_min_mm = 70;
    second.focal_max_mm = 24;
    CHECK(error_of([&] { check_entry(lenses, second); }) == "input");
    second.focal_max_mm = 0;
    second.aperture_min = 9000;
    CHECK(error_of([&] { check_entry(lenses, second); }) == "input");
    second.lens.clear();
    CHECK(error_of([&] { check_entry(lenses, second); }) == "input");
    CHECK(error_of([] { check_entry(ModelEntry{}); }) == "input");
    CHECK(error_of([] { check_entry(ModelEntry{"Q5", "", "", -3, 0, 0, "", "", ""}); }) == "input");
}

TEST_CASE("a claim holds when all its conditions do, each by itself too", "[fleet]") {
    const std::filesystem::path path = "/shoots/east/deep/a.dng";
    const auto holds = [&](const auto& change) {
        Claim c;
        change(c);
        return claim_holds(c, path, registered_frame(), "Quenby Q5/Q5-1");
    };
    CHECK(holds([](Claim& c) { c.camera = "Quenby Q5"; }));
    CHECK_FALSE(holds([](Claim& c) { c.camera = "Quenby Q2"; }));
    CHECK(holds([](Claim& c) { c.serial = "Q5-1"; }));
    CHECK(holds([](Claim& c) { c.serial = "00a7f3c1"; }));  // whichever number the file reports
    CHECK_FALSE(holds([](Claim& c) { c.serial = "LF-1"; }));
    CHECK(holds([](Claim& c) { c.lens_text = "lumenfold 35 MM F2.8"; }));
    CHECK_FALSE(holds([](Claim& c) { c.lens_text = "35mm f/2.8"; }));
    CHECK(holds([](Claim& c) { c.lens_serial = "LF-1"; }));
    CHECK_FALSE(holds([](Claim& c) { c.lens_serial = "LF-2"; }));
    CHECK(holds([](Claim& c) { c.body = "Quenby Q5/Q5-1"; }));
    CHECK_FALSE(holds([](Claim& c) { c.body = "Quenby Q5/Q5-2"; }));
    for (const char* folder : {"/shoots", "/shoots/", "/shoots/east", "/shoots/east/deep"})
        CHECK(holds([&](Claim& c) { c.folder = folder; }));
    for (const char* folder : {"/shoots/eas", "/shoots/east/deep/a.dng", "/shoots/west", "shoots"})
        CHECK_FALSE(holds([&](Claim& c) { c.folder = folder; }));
    for (const char* from : {"2026", "2026:03:04", "2026:03:04 12:30:00"})
        CHECK(holds([&](Claim& c) { c.from = from; }));
    CHECK_FALSE(holds([](Claim& c) { c.from = "2026:03:04 12:30:01"; }));
    for (const char* to : {"2026", "2026:03:04", "2026:03:04 12:30:00", "2027"})
        CHECK(holds([&](Claim& c) { c.to = to; }));
    CHECK_FALSE(holds([](Claim& c) { c.to = "2026:03:03"; }));
    CHECK(holds([&](Claim& c) { c.frames = {"/x", path.string()}; }));
    CHECK_FALSE(holds([](Claim& c) { c.frames = {"/x"}; }));
    CHECK_FALSE(holds([](Claim& c) {
        c.camera = "Quenby Q5";
        c.serial = "nobody's";
    }));
    Metadata timeless = registered_frame();
    timeless.time.clear();
    Claim span;
    span.from = "2020";
    CHECK_FALSE(claim_holds(span, path, timeless, ""));
}

TEST_CASE("what is narrower weighs more", "[fleet]") {
    std::vector<Claim> claims(6);
    claims[0].camera = "Q";
    claims[1].folder = "/a";
    claims[2].from = "2026";
    claims[3].lens_text = "x";
    claims[4].serial = "1";
    claims[5].frames = {"/a/b"};
    for (std::size_t i = 1; i < claims.size(); ++i) CHECK(claims[i].weight() > claims[i - 1].weight());
    Claim both = claims[4];
    both.folder = "/a";
    CHECK(both.weight() > claims[4].weight());
    CHECK(Claim().weight() == 0);
    CHECK(claims[3].says_what_files_report());
    CHECK_FALSE(claims[1].says_what_files_report());
}

TEST_CASE("identities tell where and when their frames are, a few folders at most", "[fleet]") {
    const Fleet fleet;
    IdentityCollector collector(fleet);
    for (int i = 0; i < 40; ++i) {
        Metadata m = registered_frame();
        m.time = "2026:03:" + std::string(i < 9 ? "0" : "") + std::to_string(i % 28 + 1) + " 10:00:00";
        const std::filesystem::path path = "/shoots/" + std::to_string(i % 9) + "/f.dng";
        collector.add(path, m, fleet.body_of(path, m), fleet.lens_of(path, m, ""));
    }
    Metadata nameless;
    nameless.model = "Quenby Q2";
    collector.add("/x/y.dng", nameless, fleet.body_of("/x/y.dng", nameless), fleet.lens_of("/x/y.dng", nameless, ""));
    const auto all = collector.finish();
    REQUIRE(all.size() == 4);
    for (const Identity& id : all) {
        CHECK(id.status == Identity::Status::unclaimed);
        CHECK_FALSE(id.proposal.reasons.empty());
        if (id.frames != 40) continue;
        CHECK(id.folders.size() == 4);
        CHECK(id.first < id.last);
    }
    CHECK(std::is_sorted(all.begin(), all.end(),
                         [](const Identity& a, const Identity& b) { return a.frames > b.frames; }));
    const auto lens = std::find_if(all.begin(), all.end(),
                                   [](const Identity& i) { return i.of == Identity::Of::lens && i.lens_text.empty(); });
    REQUIRE(lens != all.end());
    CHECK(lens->camera == "Quenby Q2");
    CHECK(lens->proposal.action == ProposedAction::choose);
    CHECK(claim_of(*lens, "x").camera == "Quenby Q2");
}

TEST_CASE("documents of the register survive any bytes", "[fleet]") {
    const Register r{{}, {body("1"), body("2")}, {}};
    const std::string good = register_to_json(r, {});
    int refused = 0;
    for (unsigned seed = 0; seed < 60; ++seed) {
        std::string text = good;
        // A few bytes are struck; what is still a register is read, all else is refused in words.
        const std::string noise = random_bytes(12, seed);
        for (std::size_t i = 0; i + 2 < noise.size(); i += 3)
            text[(static_cast<unsigned char>(noise[i]) * 251 + static_cast<unsigned char>(noise[i + 1])) %
                 text.size()] = noise[i + 2];
        try {
            register_from_json(text, "Fleet.json", {});
        } catch (const Error& error) {
            ++refused;
            CHECK(std::string(error.what()).size() > 20);
        }
        try {
            register_from_csv(random_bytes(400, seed), "Fleet.csv", {});
        } catch (const Error&) {
            ++refused;
        }
        try {
            claim_from_json(random_bytes(100, seed), "Claims.json");
        } catch (const Error&) {
            ++refused;
        }
        CHECK_THROWS_AS(register_from_json(good.substr(0, seed * good.size() / 61), "Fleet.json", {}), Error);
    }
    CHECK(refused > 120);
}

// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>

#include "fleet/identities.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using Knowledge = BodyAnswer::Knowledge;

namespace {

Metadata claimed_frame(const char* serial, const char* claimed_lens = "Lumenfold 35mm f/2.8",
                       const char* lens_serial = "LF-1") {
    Metadata m;
    m.maker = "Quenby";
    m.model = "Quenby Q5";
    m.body_serial = serial;
    m.lens = claimed_lens;
    m.lens_serial = lens_serial;
    m.time = "2026:03:04 12:00:00";
    return m;
}

Body claimed_body(const char* serial, const char* tag = "") {
    Body b = body_from(claimed_frame(serial));
    b.asset_tag = tag;
    b.id = id_for(b);
    return b;
}

LensEntry claimed_lens(const char* text, const char* serial, bool contacts = true) {
    LensEntry l = lens_from(claimed_frame("", text, serial));
    l.contacts = contacts;
    l.id = id_for(l);
    return l;
}

Claim claim(Claim::Of of, const std::string& target) {
    Claim c;
    c.id = "c-" + target;
    c.of = of;
    c.target = target;
    return c;
}

}  // namespace

TEST_CASE("a body is known by the number in the register", "[fleet]") {
    const Fleet fleet({{}, {claimed_body("Q5-1")}, {}}, {});
    CHECK(fleet.body_of("/a", claimed_frame("Q5-1")).knowledge == Knowledge::known);
    CHECK(fleet.body_of("/a", claimed_frame("Q5-1")).id == "Quenby Q5/Q5-1");
    const BodyAnswer other = fleet.body_of("/a", claimed_frame("Q5-2"));
    CHECK(other.knowledge == Knowledge::unknown);
    CHECK(other.why.find("Q5-2") != std::string::npos);
}

TEST_CASE("without a number a body is assumed only when it is the only one, known only by a claim", "[fleet]") {
    const Fleet one({{}, {claimed_body("1")}, {}}, {}), two({{}, {claimed_body("1"), claimed_body("2")}, {}}, {});
    CHECK(one.body_of("/a", claimed_frame("")).knowledge == Knowledge::assumed);
    CHECK(two.body_of("/a", claimed_frame("")).knowledge == Knowledge::unknown);
    CHECK(Fleet().body_of("/a", claimed_frame("")).knowledge == Knowledge::unknown);
    CHECK(one.body_of("/a", Metadata{}).knowledge == Knowledge::unknown);

    Claim folder = claim(Claim::Of::body, "Quenby Q5/2");
    folder.folder = "/shoots/east";
    Claim span = claim(Claim::Of::body, "Quenby Q5/1");
    span.from = "2026:03:05";
    span.to = "2026:03:06";
    const Fleet claimed({{}, {claimed_body("1"), claimed_body("2")}, {}}, {folder, span});
    CHECK(claimed.body_of("/shoots/east/x.dng", claimed_frame("")).id == "Quenby Q5/2");
    CHECK(claimed.body_of("/shoots/eastern/x.dng", claimed_frame("")).knowledge == Knowledge::unknown);
    Metadata later = claimed_frame("");
    later.time = "2026:03:06 23:59:59";
    CHECK(claimed.body_of("/shoots/east/x.dng", later).id == "Quenby Q5/1");  // a time span says more than a folder
    later.time = "2026:03:07 00:00:00";
    CHECK(claimed.body_of("/elsewhere/x.dng", later).knowledge == Knowledge::unknown);
    // A claim of a folder never takes a frame that names its body.
    CHECK(claimed.body_of("/shoots/east/x.dng", claimed_frame("1")).id == "Quenby Q5/1");
}

TEST_CASE("an internal number is claimed for the body that it belongs to, and split by folder", "[fleet]") {
    Claim number = claim(Claim::Of::body, "Quenby Q5/HB-31");
    number.camera = "Quenby Q5";
    number.serial = "00a7f3c1";
    Claim split = claim(Claim::Of::body, "Quenby Q5/HB-32");
    split.serial = "00a7f3c1";
    split.folder = "/west";
    const Fleet fleet({{}, {claimed_body("", "HB-31"), claimed_body("", "HB-32")}, {}}, {number, split});
    Metadata m = claimed_frame("");
    m.other_serials = {"00a7f3c1"};
    CHECK(fleet.body_of("/east/a", m).id == "Quenby Q5/HB-31");
    CHECK(fleet.body_of("/west/a", m).id == "Quenby Q5/HB-32");
    CHECK(fleet.body_of("/east/a", claimed_frame("00a7f3c1")).knowledge == Knowledge::known);
    CHECK(fleet.body_of("/east/a", claimed_frame("00a7f3c2")).knowledge == Knowledge::unknown);
}

TEST_CASE("a claim of frames goes before everything else, and the newer of two goes before", "[fleet]") {
    Claim frames = claim(Claim::Of::body, "Quenby Q5/2");
    frames.frames = {"/a/1.dng"};
    Claim newer = frames;
    newer.id = "newer";
    newer.target = "Quenby Q5/1";
    newer.time = "2026-05-01";
    const Fleet fleet({{}, {claimed_body("1"), claimed_body("2")}, {}}, {frames});
    CHECK(fleet.body_of("/a/1.dng", claimed_frame("1")).id == "Quenby Q5/2");
    CHECK(fleet.body_of("/a/2.dng", claimed_frame("1")).id == "Quenby Q5/1");
    const Fleet both({{}, {claimed_body("1"), claimed_body("2")}, {}}, {frames, newer});
    CHECK(both.body_of("/a/1.dng", claimed_frame("2")).id == "Quenby Q5/1");
    const Fleet stale({{}, {claimed_body("1")}, {}},
                      {frames});  // a claim for a body that left the register says nothing
    CHECK(stale.body_of("/a/1.dng", claimed_frame("1")).id == "Quenby Q5/1");
}

TEST_CASE("a lens without contacts is assigned by body, folder, time or frames", "[fleet]") {
    const LensEntry macro = claimed_lens("Aldercroft 60mm f/4", "AM-1", false),
                    zoom = claimed_lens("Aldercroft 24-70mm f/4", "AZ-1", false);
    CHECK(zoom.zoom());
    CHECK(macro.focal_min_mm == 60);
    CHECK(macro.aperture_min == 4);
    Claim by_body = claim(Claim::Of::lens, macro.id);
    by_body.body = "Quenby Q5/1";
    Claim by_frame = claim(Claim::Of::lens, zoom.id);
    by_frame.frames = {"/a/2.dng"};
    by_frame.focal_mm = 50;
    by_frame.aperture = 8;
    const Fleet fleet({{}, {claimed_body("1")}, {macro, zoom}}, {by_body, by_frame});
    Metadata m = claimed_frame("1", "", "");
    const LensAnswer first = fleet.lens_of("/a/1.dng", m, "Quenby Q5/1");
    CHECK(first.id == macro.id);
    CHECK(with_lens(m, first).lens == "Aldercroft 60mm f/4");
    CHECK(with_lens(m, first).focal_mm == 60);
    const Metadata second = with_lens(m, fleet.lens_of("/a/2.dng", m, "Quenby Q5/1"));
    CHECK(second.lens_serial == "AZ-1");
    CHECK(second.focal_mm == 50);
    CHECK(second.aperture == 8);
    CHECK(fleet.lens_of("/a/1.dng", m, "Quenby Q5/2").lens.empty());
    // A frame that names its lens keeps it, unless just that frame was assigned another.
    CHECK(fleet.lens_of("/a/1.dng", claimed_frame("1"), "Quenby Q5/1").lens == "Lumenfold 35mm f/2.8");
    CHECK(fleet.lens_of("/a/2.dng", claimed_frame("1"), "Quenby Q5/1").id == zoom.id);
}

TEST_CASE("claims survive their JSON and are told in words", "[fleet]") {
    Claim c = claim(Claim::Of::lens, "x");
    c.camera = "Quenby Q5";
    c.lens_text = "35mm";
    c.folder = "/a";
    c.from = "2026:01:01";
    c.frames = {"/a/1"};
    c.focal_mm = 35;
    CHECK(claim_from_json(claim_to_json(c), "test") == c);
    CHECK(describe(c) == "Quenby Q5, lens 35mm, in /a, from 2026:01:01, one frame, at 35 mm");
    for (const char* bad : {"", "{}", "[1]", R"({"id":1})"})
        CHECK(error_of([&] { claim_from_json(bad, "Claims.json"); }) == "input");
    Claim all;
    all.target = "x";
    CHECK(error_of([&] { check_claim(all); }) == "input");
    c.to = "2025:01:01";
    CHECK(error_of([&] { check_claim(c); }) == "input");
}

namespace {

std::vector<Identity> collect(const std::vector<Metadata>& frames, const Fleet& fleet) {
    IdentityCollector collector(fleet);
    int i = 0;
    for (const Metadata& m : frames) {
        const std::filesystem::path path = "/frames/" + std::to_string(i++) + ".dng";
        const BodyAnswer b = fleet.body_of(path, m);
        collector.add(path, m, b, fleet.lens_of(path, m, b.id));
    }
    return collector.finish();
}

const Identity& find(const std::vector<Identity>& all, Identity::Of of, const std::string& serial) {
    for (const Identity& i : all)
        if (i.of == of && i.serial == serial) return i;
    FAIL("no identity " << serial);
    std::abort();
}

}  // namespace

TEST_CASE("identities are counted, with a proposal and its reasons for what is unclaimed", "[fleet]") {
    const Fleet fleet(
        {{}, {claimed_body("Q5-1"), claimed_body("Q5-2")}, {claimed_lens("Lumenfold 35mm f/2.8", "LF-1")}}, {});
    const auto all = collect({claimed_frame("Q5-1"), claimed_frame("Q5-1"), claimed_frame("0077aa"),
                              claimed_frame("0077aa"), claimed_frame("0077aa"), claimed_frame(""),
                              claimed_frame("Q5-1", "35mm f/2.8", ""), claimed_frame("Q5-1", "", "")},
                             fleet);
    CHECK(all.front().status == Identity::Status::unclaimed);
    const Identity& strange = find(all, Identity::Of::body, "0077aa");
    CHECK(strange.frames == 3);
    CHECK(strange.proposal.action == ProposedAction::claim_for);  // Q5-2 is the only one without a frame
    CHECK(strange.proposal.target == "Quenby Q5/Q5-2");
    CHECK(strange.proposal.reasons.size() == 2);
    CHECK(find(all, Identity::Of::body, "Q5-1").status == Identity::Status::claimed);
    CHECK(find(all, Identity::Of::body, "").proposal.action == ProposedAction::choose);
    int lenses_to_settle = 0;
    for (const Identity& i : all)
        if (i.of == Identity::Of::lens && i.status == Identity::Status::unclaimed) {
            ++lenses_to_settle;
            CHECK(i.proposal.action == (i.lens_text.empty() ? ProposedAction::choose : ProposedAction::claim_for));
        }
    CHECK(lenses_to_settle == 2);
}

TEST_CASE("a number that differs only in spelling is proposed for the body that has it", "[fleet]") {
    const Fleet fleet({{}, {claimed_body("00123"), claimed_body("Q5-2")}, {}}, {});
    CHECK(find(collect({claimed_frame("123")}, fleet), Identity::Of::body, "123").proposal.target == "Quenby Q5/00123");
}

TEST_CASE("accepting a proposal registers or claims, and settles its frames", "[fleet]") {
    const Fleet empty;
    const auto all = collect({claimed_frame("Q5-9")}, empty);
    const Accepted fresh = accept(find(all, Identity::Of::body, "Q5-9"), empty);
    REQUIRE(fresh.bodies.size() == 1);
    CHECK(fresh.bodies[0].id == "Quenby Q5/Q5-9");
    CHECK(fresh.models.size() == 1);
    const Accepted glass = accept(find(all, Identity::Of::lens, "LF-1"), empty);
    REQUIRE(glass.lenses.size() == 1);
    const Fleet then({fresh.models, fresh.bodies, glass.lenses}, {});
    for (const Identity& i : collect({claimed_frame("Q5-9")}, then)) CHECK(i.status == Identity::Status::claimed);

    const Fleet printed({{}, {claimed_body("", "HB-31")}, {}}, {});
    const Accepted tied = accept(find(collect({claimed_frame("00a7")}, printed), Identity::Of::body, "00a7"), printed);
    REQUIRE(tied.claims.size() == 1);
    Claim c = tied.claims[0];
    c.id = "c";
    CHECK(Fleet({{}, {claimed_body("", "HB-31")}, {}}, {c}).body_of("/x", claimed_frame("00a7")).id ==
          "Quenby Q5/HB-31");
    const Fleet two({{}, {claimed_body("1"), claimed_body("2")}, {}}, {});
    CHECK(is_one_sentence(
        sentence_of([&] { accept(find(collect({claimed_frame("")}, two), Identity::Of::body, ""), two); })));
}

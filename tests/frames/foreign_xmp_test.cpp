// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/foreign_xmp.h"

#include <catch2/catch.hpp>

#include "base/files.h"
#include "rollout/sheet.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A sidecar of Optrel to which other programs have added, in the ways that XMP allows.
std::string touched(const std::string& own) {
    std::string out = own;
    const std::string attributes =
        " xmlns:xmp=\"http://ns.adobe.com/xap/1.0/\" xmp:Rating=\"4\" xmlns:other=\"urn:other:1#\" other:note='it is > "
        "\"5\"'";
    const std::string element =
        "<dc:subject xmlns:dc=\"http://purl.org/dc/elements/1.1/\"><rdf:Bag><rdf:li>kelp &amp; wrack</rdf:li></rdf:Bag>"
        "</dc:subject>";
    const std::string block = "<rdf:Description rdf:about=\"\" xmlns:dc=\"http://purl.org/dc/elements/1.1/\">" +
                              element + "<!-- <optrel:state>bare</optrel:state> --></rdf:Description>";
    out.insert(out.find("rdf:about=\"\"") + 12, attributes);
    out.insert(out.rfind("</rdf:RDF>"), block);
    return out;
}

Sheet sheet_with(double exposure) {
    Sheet s;
    s.revision = 1;
    s.baseline[Field::exposure] = {exposure, ""};
    return s;
}

}  // namespace

TEST_CASE("what other programs put into a sidecar is found, and stays byte for byte over every write",
          "[frames][xmp]") {
    const std::string own = sheet_to_xmp(sheet_with(0.5));
    CHECK(foreign_in_xmp(own).empty());
    const std::string with = touched(own);
    Sheet read = sheet_from_xmp(with, "it");
    CHECK(read == sheet_with(0.5));
    for (const char* part : {"xmp:Rating=\"4\"", "other:note='it is > \"5\"'",
                             "<rdf:Bag><rdf:li>kelp &amp; wrack</rdf:li></rdf:Bag></dc:subject>"}) {
        INFO(part);
        CHECK(read.foreign.find(part) != std::string::npos);
    }
    CHECK(read.foreign.find("optrel:state") == std::string::npos);
    read.baseline[Field::exposure].number = 0.75;
    const std::string again = sheet_to_xmp(read);
    const Sheet then = sheet_from_xmp(again, "it");
    CHECK(then == read);
    CHECK(then.foreign == read.foreign);
    CHECK(sheet_to_xmp(then) == again);
}

TEST_CASE("a rating outlives edits, rollouts and roll backs, and is no change of the sheet", "[rollout][xmp]") {
    const TemporaryFolder folder;
    const fs::path frame = folder / "F.dng", sidecar = sidecar_path(frame);
    write_bytes(frame, "frame");
    const std::string one = sheet_to_xmp(sheet_with(0.5)), two = sheet_to_xmp(sheet_with(1));
    REQUIRE(replace_sidecar_if_unchanged(frame, std::nullopt, one) == SidecarWrite::written);
    write_bytes(sidecar, touched(one));
    const auto rated = [&] { return read_file(sidecar).find("xmp:Rating=\"4\"") != std::string::npos; };
    // A rollout that was rehearsed before it was rated, and its way back.
    CHECK(replace_sidecar_if_unchanged(frame, one, two) == SidecarWrite::written);
    CHECK(read_sheet(frame) == sheet_with(1));
    CHECK(rated());
    CHECK(replace_sidecar_if_unchanged(frame, two, one) == SidecarWrite::written);
    CHECK(rated());
    CHECK(replace_sidecar_if_unchanged(frame, two, one) == SidecarWrite::already);
    CHECK(replace_sidecar_if_unchanged(frame, one, std::nullopt) == SidecarWrite::written);
    CHECK(rated());
    CHECK(read_sheet(frame).state() == FrameState::untouched);
    // A person's own edit.
    edit_sheet(frame, [](Sheet& s) { s.hand[Field::exposure] = {2, ""}; });
    CHECK(rated());
    replace_sheet(frame, read_sheet(frame), sheet_with(0.25));
    CHECK(read_sheet(frame) == sheet_with(0.25));
    CHECK(rated());
    // What was changed in the sheet itself is still told.
    CHECK(replace_sidecar_if_unchanged(frame, one, two) == SidecarWrite::changed);
}

TEST_CASE("packets that are cut off or strange give nothing or stay whole", "[frames][xmp]") {
    const std::string with = touched(sheet_to_xmp(sheet_with(0.5)));
    for (std::size_t n = 0; n < with.size(); n += 7) foreign_in_xmp(with.substr(0, n));
    CHECK(foreign_in_xmp("xmlns:a xmlns:b xmlns:c xmlns:d <<<>>>< a='").empty());
    CHECK(with_foreign("no packet", "<x/>") == "no packet");
}

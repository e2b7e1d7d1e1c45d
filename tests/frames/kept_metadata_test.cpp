// SPDX-License-Identifier: GPL-3.0-or-later
// Metadata kept with very many others, and marks of contents.
#include <catch2/catch.hpp>

#include "frames/content_mark.h"
#include "frames/kept_metadata.h"

using namespace optrel;

namespace {

Metadata taken(const std::string& time) {
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = "B2-0117";
    m.other_serials = {"00a7", "77"};
    m.lens = "Lumenfold 35mm f/2.8";
    m.iso = 800;
    m.focal_mm = 0.1 + 0.2;
    m.recorded_sharpness = 2;
    m.orientation = 8;
    m.time = time;
    return m;
}

}  // namespace

TEST_CASE("kept metadata come back as they were, whatever their time is", "[frames]") {
    for (const char* time : {"", "2026:03:01 09:30:00", "0000:00:00 00:00:00", "9999:99:99 99:99:99",
                             "2026-03-01T09:30:00", "2026:03:01 09:30:0x", "2026:03:01 09:30:00.25", "noon"}) {
        const Metadata m = taken(time);
        const KeptMetadata kept = m;
        CHECK(Metadata(kept) == m);
        CHECK(kept.time() == time);
        CHECK(kept.iso == 800);
        CHECK(kept->other_serials == m.other_serials);
    }
    CHECK(Metadata(KeptMetadata()) == Metadata());
}

TEST_CASE("what was taken with the same gear keeps it once", "[frames]") {
    MetadataPool pool;
    Metadata m = taken("2026:03:01 09:30:00");
    const KeptMetadata a = pool.of(m);
    m.time = "2026:03:02 10:00:00";
    m.iso = 6400;
    m.aperture = 8;
    const KeptMetadata b = pool.of(m);
    CHECK(&*a == &*b);
    CHECK(Metadata(b) == m);
    m.corrected = "by another";
    CHECK(&*pool.of(m) != &*a);
    m.time = "noon";
    CHECK(Metadata(pool.of(m)) == m);
    CHECK(sizeof(KeptMetadata) <= 64);
}

TEST_CASE("a mark is sixteen digits, and what is none was not taken", "[frames]") {
    CHECK(ContentMark(0x1f).text() == "000000000000001f");
    CHECK(ContentMark("000000000000001f") == ContentMark(0x1f));
    CHECK(ContentMark().text().empty());
    for (const char* none :
         {"", "1f", "000000000000001g", "00000000000000001f", "-00000000000001f", "0x0000000000001f"})
        CHECK_FALSE(ContentMark(std::string(none)).taken());
}

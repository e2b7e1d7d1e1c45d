// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/sheet_reader.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("sheets of many frames are read as each alone, equal ones once", "[studio]") {
    const TemporaryFolder folder;
    Sheet noted;
    noted.revision = 3;
    write_bytes(sidecar_path(folder / "A.dng"), sheet_to_xmp(noted));
    write_bytes(sidecar_path(folder / "B.dng"), sheet_to_xmp(noted));
    write_bytes(sidecar_path(folder / "D.dng"), "");
    write_bytes(sidecar_path(folder / "E.dng"), "no sheet");
    SheetReader reader;
    const auto first = reader.read(folder / "A.dng");
    CHECK(first->revision == 3);
    CHECK(reader.read(folder / "B.dng") == first);
    CHECK(*reader.read(folder / "C.dng") == Sheet());
    for (const char* damaged : {"D.dng", "E.dng"}) {
        const std::string alone = sentence_of([&] { read_sheet(folder / damaged); });
        CHECK_FALSE(alone.empty());
        CHECK(sentence_of([&] { reader.read(folder / damaged); }) == alone);
    }
    CHECK(*reader.read(folder / "missing/F.dng") == Sheet());
}

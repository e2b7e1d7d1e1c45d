// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/sheet_layout.h"

#include <catch2/catch.hpp>

#include "base/files.h"
#include "charts/identify.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("pages are known by name, way and size", "[charts]") {
    CHECK(PageSize::parse("A3").width_mm == 420);
    CHECK(PageSize::parse("a3 portrait").width_mm == 297);
    CHECK(PageSize::parse("A0 landscape").height_mm == 841);
    CHECK(PageSize::parse("500x700").height_mm == 700);
    for (const char* bad : {"", "A5", "A", "letter", "500", "0x0", "1x1", "999999x3", "A3 sideways"})
        CHECK(error_of([&] { PageSize::parse(bad); }) == "usage");
}

TEST_CASE("a sheet has its squares, both rulers and its parameters in print", "[charts]") {
    const ChartSheet sheet = lay_out_sheet(ChartSpec::parse("checker:15x10:30"), PageSize::parse("A2"));
    CHECK(sheet.black.size() == 75);
    CHECK(sheet.board.width == 450);
    CHECK(sheet.ruler_across_mm == 400);
    CHECK(sheet.ruler_down_mm == 300);
    bool said = false;
    for (const SheetText& t : sheet.texts) said = said || t.text.find("checker:15x10:30") != std::string::npos;
    CHECK(said);
    for (const SheetRect& r : sheet.black) {
        CHECK(r.x >= sheet.board.x - 1e-9);
        CHECK(r.y + r.height <= sheet.board.y + sheet.board.height + 1e-9);
    }
    // Nothing stands in the quiet margin.
    for (const SheetLine& l : sheet.lines) {
        const bool beside =
            l.y1 > sheet.board.y + sheet.board.height + 10 || l.x1 > sheet.board.x + sheet.board.width + 10;
        CHECK(beside);
    }
}

TEST_CASE("a chart that is too large for its page is refused with one that fits", "[charts]") {
    const std::string sentence =
        sentence_of([] { lay_out_sheet(ChartSpec::parse("checker:15x10:30"), PageSize::parse("A4")); });
    INFO(sentence);
    CHECK(is_one_sentence(sentence));
    const double fits = largest_square_mm(15, 10, PageSize::parse("A4"));
    CHECK(sentence.find(std::to_string(fits).substr(0, 2)) != std::string::npos);
    ChartSpec smaller = ChartSpec::parse("coded:15x10:30");
    smaller.square_mm = smaller.square_y_mm = fits;
    CHECK_NOTHROW(lay_out_sheet(smaller, PageSize::parse("A4")));
}

TEST_CASE("measured rulers give the true size on both axes", "[charts]") {
    const ChartSheet sheet = lay_out_sheet(ChartSpec::parse("checker:15x10:30"), PageSize::parse("A2"));
    const ChartSpec measured = as_measured(sheet, 400.8, 299.4);
    CHECK(measured.square_mm == Approx(30.06));
    CHECK(measured.square_y_mm == Approx(29.94));
    CHECK(ChartSpec::parse(measured.text()).square_y_mm == Approx(29.94));
    CHECK(as_measured(sheet, 400, 300).text() == "checker:15x10:30");
    CHECK(error_of([&] { as_measured(sheet, 40, 300); }) == "input");
    CHECK(error_of([&] { as_measured(sheet, 400, std::nan("")); }) == "input");
}

TEST_CASE("sheets are written as vectors", "[charts]") {
    const TemporaryFolder folder;
    const ChartSheet sheet = lay_out_sheet(ChartSpec::parse("coded:9x6:25"), PageSize::parse("A3"));
    write_sheet(sheet, (folder / "c.pdf").string());
    CHECK(read_file(folder / "c.pdf").substr(0, 5) == "%PDF-");
    write_sheet(sheet, (folder / "c.svg").string());
    const std::string svg = read_file(folder / "c.svg");
    CHECK(svg.find("420mm") != std::string::npos);
    CHECK(svg.find("<image") == std::string::npos);
    CHECK(error_of([&] { write_sheet(sheet, (folder / "c.png").string()); }) == "usage");
    CHECK(error_of([&] { write_sheet(sheet, "/nowhere/at/all/c.pdf"); }) == "file");
}

TEST_CASE("markers are all different words with a black border", "[charts]") {
    const cv::Mat1b a = marker_bits(0), b = marker_bits(1);
    CHECK(a.size() == cv::Size(7, 7));
    CHECK(cv::countNonZero(a != b) > 3);
    for (int i = 0; i < 7; ++i) {
        CHECK(a(0, i) == 0);
        CHECK(a(i, 6) == 0);
    }
}

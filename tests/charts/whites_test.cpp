// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/whites.h"

#include <catch2/catch.hpp>

#include "support/drawn_board.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const ChartSpec white_chart = ChartSpec::parse("checker:10x7:10");

std::vector<WhitePatch> whites_of(const DrawnBoard& board) {
    const MeasuringPicture picture = board.draw();
    return measure_whites(picture, detect_chart(picture, white_chart, Progress()));
}

}  // namespace

TEST_CASE("the light on white squares is measured, dark squares are not", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(5, 62, {130, 60});
    const auto whites = whites_of(board);
    // 8 by 5 squares have all four corners; half of them are white; three planes.
    CHECK(whites.size() == 3 * 20);
    for (const WhitePatch& w : whites) CHECK(w.mean == Approx(0.8).epsilon(0.01));
}

TEST_CASE("uneven light is followed square by square", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(0, 62, {130, 60});
    board.light = [](Vec2 p) { return 1 - 0.5 * p.x() / 900; };
    for (const WhitePatch& w : whites_of(board))
        CHECK(w.mean == Approx(0.8 * (1 - 0.5 * w.uv.x() / 900)).epsilon(0.01));
}

TEST_CASE("clipped squares and boards with markers give no light", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(0, 62, {130, 60});
    board.bright = 1.0;
    CHECK(whites_of(board).empty());
    board.bright = 0.8;
    const MeasuringPicture picture = board.draw();
    ChartDetection d = detect_chart(picture, white_chart, Progress());
    d.markers = 12;
    CHECK(measure_whites(picture, d).empty());
    CHECK(measure_whites(picture, ChartDetection{}).empty());
}

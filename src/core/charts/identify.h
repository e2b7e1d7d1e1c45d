// SPDX-License-Identifier: GPL-3.0-or-later
// Which corner is which on a coded board: markers in its white squares, read through the lattice that was found.
#pragma once

#include <map>
#include <utility>

#include <opencv2/core.hpp>

#include "charts/chart.h"
#include "charts/saddle_finder.h"

namespace optrel {

/// Where lattice coordinates lie on the board: board = turn (quarter turns, clockwise in the picture) then shift.
struct BoardPlace {
    int markers = 0;  ///< that agree on this place
    int contradicting = 0;
    bool mirrored = false;  ///< the markers read only in a mirror
    int turn = 0;
    int shift_column = 0, shift_row = 0;
    double marker_share = ChartSpec::marker_share;  ///< size of the markers in squares, as read

    bool certain() const { return markers >= 2 && markers > 2 * contradicting; }
    std::pair<int, int> corner(int column, int row) const;
};

/// Reads the markers in all cells of a lattice of corners (positions in samples of the search picture). The words are
/// those of OpenCV's dictionary of 5 x 5 bits, and finding one among them is the library's. Where a coded board is
/// expected and these do not answer, other dictionaries and marker sizes are tried, so that boards of the same layout
/// that others printed serve as well.
BoardPlace identify_board(const SearchPicture& picture, const std::map<std::pair<int, int>, Vec2>& lattice,
                          const ChartSpec& chart);

/// The bits of a marker, border included, 7 x 7, 1 = white.
cv::Mat1b marker_bits(int id);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Identifies the corners of a coded board by the markers in its white squares, which are read through the lattice.
#pragma once

#include <map>
#include <utility>

#include <opencv2/core.hpp>

#include "charts/chart.h"
#include "charts/saddle_finder.h"

namespace optrel {

/// The position of a lattice on the board: board = turn (quarter turns, clockwise in the picture), then shift.
struct BoardPlace {
    int markers = 0;  ///< number that agree on this position
    int contradicting = 0;
    bool mirrored = false;  ///< the markers can be read only in a mirror
    int turn = 0;
    int shift_column = 0, shift_row = 0;
    double marker_share = ChartSpec::marker_share;  ///< size of the markers in squares, as read

    bool certain() const { return markers >= 2 && markers > 2 * contradicting; }
    std::pair<int, int> corner(int column, int row) const;
};

/// Reads the markers in all cells of a lattice of corners (positions in samples of the search picture). The codes
/// are those of OpenCV's dictionary of 5 x 5 bits, decoded by OpenCV. When a coded board is expected and none is
/// found, other dictionaries and marker sizes are tried, so that boards of the same layout from other sources can
/// be used.
BoardPlace identify_board(const SearchPicture& picture, const std::map<std::pair<int, int>, Vec2>& lattice,
                          const ChartSpec& chart);

/// The bits of a marker, border included, 7 x 7, 1 = white.
cv::Mat1b marker_bits(int id);

}  // namespace optrel

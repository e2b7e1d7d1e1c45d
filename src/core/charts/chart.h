// SPDX-License-Identifier: GPL-3.0-or-later
// The chart as it was printed.
#pragma once

#include <string>

namespace optrel {

enum class ChartKind {
    checker,  ///< a plain checkerboard
    coded     ///< a checkerboard whose white squares hold markers that identify every corner
};

/// A checkerboard of `squares_x` by `squares_y` squares; the top-left one is black. A coded board holds a square marker
/// of marker_share times the square in the middle of each white square, numbered row by row from the top left, of the
/// dictionary of 5 x 5 bits and 1000 words that is part of OpenCV (the ChArUco layout: Garrido-Jurado et al. 2014 for
/// the markers).
struct ChartSpec {
    ChartKind kind = ChartKind::checker;
    int squares_x = 0;
    int squares_y = 0;
    double square_mm = 0;    ///< measured across the page
    double square_y_mm = 0;  ///< measured down the page; equal unless the paper stretched

    static constexpr double marker_share = 0.7;

    int corners_x() const { return squares_x - 1; }
    int corners_y() const { return squares_y - 1; }
    int markers() const { return squares_x * squares_y / 2; }
    double width_mm() const { return squares_x * square_mm; }
    double height_mm() const { return squares_y * square_y_mm; }
    bool is_white(int column, int row) const { return (column + row) & 1; }
    std::string text() const;  ///< in the format of parse()

    /// Takes checker:15x10:30 or coded:15x10:30 (squares across x squares down : square size in mm); a chart whose
    /// squares are not square gives both sizes, as in checker:15x10:30.02x29.97. Throws Error(usage).
    static ChartSpec parse(const std::string& text);
};

}  // namespace optrel

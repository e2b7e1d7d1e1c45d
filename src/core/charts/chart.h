// The chart as it was printed.
#pragma once

#include <string>

namespace optrel {

/// A plain checkerboard of `squares_x` by `squares_y` squares.
struct ChartSpec {
    int squares_x = 0;
    int squares_y = 0;
    double square_mm = 0;

    int corners_x() const { return squares_x - 1; }
    int corners_y() const { return squares_y - 1; }
    std::string text() const;  ///< as parse() takes it

    /// Takes checker:15x10:30 (squares across x squares down x square size in mm). Throws Error(usage).
    static ChartSpec parse(const std::string& text);
};

}  // namespace optrel

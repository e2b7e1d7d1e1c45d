// SPDX-License-Identifier: GPL-3.0-or-later
// Resolution of a lens over the picture: measurements of single edges, and their
// means by place. MTF50 is the frequency (cycles per pixel of the frame) at which
// the modulation is one half (ISO 12233), for lens and sensor together, from raw
// samples.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "optics/coordinates.h"

namespace optrel {

/// Direction of the resolved lines: radial (sagittal), around the middle (tangential), or neither.
enum class LineRun { sagittal, tangential, oblique };
std::string to_string(LineRun run);
/// `across`: the unit normal of an edge; `radius`: its place relative to the middle of the picture.
LineRun run_of(const Vec2& across, const Vec2& radius);

/// The modulation transfer at 0.05, 0.1, ... 0.5 cycles per pixel.
struct Modulation {
    static constexpr int count = 10;
    static constexpr double step = 0.05, highest = count * step;
    std::array<double, count> values{};

    /// Linear interpolation; 1 at frequency 0, and 0 beyond the highest frequency.
    double at(double frequency) const;
};

/// One edge in one colour.
struct ResolutionPoint {
    Vec2 place = Vec2::Zero();  ///< px of the frame
    double height = 0;          ///< field height
    Channel channel = Channel::green;
    LineRun run = LineRun::oblique;
    double angle_deg = 0;  ///< of the edge against the rows, 0 to 180
    double mtf50 = 0, sigma = 0;
    Modulation modulation = {};
};

/// The robust mean of several measurements; count 0 when there are none.
struct ResolutionMean {
    int count = 0;
    double mtf50 = 0;
    double sigma = 0;   ///< of the mean, from the spread and 0.1 percent of the method's own
    double spread = 0;  ///< one sigma of single measurements
    Modulation modulation = {};
};
ResolutionMean mean_resolution(const std::vector<ResolutionPoint>& points, Channel channel, LineRun run,
                               double lowest_height, double highest_height);

/// Measurements in one part of the picture, for one colour and one direction of lines.
struct ResolutionCell {
    Vec2 place_mm = Vec2::Zero();  ///< on the sensor, the mean of its edges
    double height = 0;             ///< field height, the mean of its edges
    Channel channel = Channel::green;
    LineRun run = LineRun::sagittal;
    ResolutionMean mean;
};

/// The picture in `across` by `down` parts, sagittal and tangential, in all colours; parts without edges are left out.
struct ResolutionCells {
    static constexpr int across = 7, down = 5;
};
std::vector<ResolutionCell> resolution_cells(const std::vector<ResolutionPoint>& points,
                                             const PictureGeometry& geometry);

/// The mean over the cells whose heights lie in a zone, weighted by their counts.
ResolutionMean mean_of_cells(const std::vector<ResolutionCell>& cells, Channel channel, LineRun run,
                             double lowest_height, double highest_height);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Figures of a small part of a picture: displacement of colours at edges, width of edges,
// light.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <string>
#include <vector>

namespace optrel {

struct PatchFigures {
    int edges = 0;                   ///< number of measured edges; the next three figures are undefined without any
    double red_px = 0, blue_px = 0;  ///< displacement of red and blue against green, across the edges
    double width_px = 0;             ///< of an edge, from 10 to 90 percent of its step (median); 0: only thin lines
    int steps = 0;                   ///< number of edges whose width was measured
    double light = 0;                ///< mean of green, 1 = white level
};

/// For red, green and blue in linear light, all of one size. Edges are places of steepest green whose step
/// is well above the noise. At each, the centroid of the slope locates the three colours, and the
/// displacements of red and blue that explain all of them are solved robustly (the shortest ones when all
/// edges are parallel).
PatchFigures patch_figures(const std::array<cv::Mat1f, 3>& planes);

/// One named place of a picture, before and after a correction.
struct PatchPair {
    std::string name;  ///< "upper left corner"
    PatchFigures before, after;
};
/// The effect of the correction over the picture in one or two sentences: whether it improves every place, and where it
/// does harm.
std::string verdict(const std::vector<PatchPair>& patches);

}  // namespace optrel

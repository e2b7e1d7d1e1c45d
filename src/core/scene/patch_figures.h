// SPDX-License-Identifier: GPL-3.0-or-later
// What a small part of a picture shows of a lens: how far its colours lie apart at edges, how wide edges are, its
// light.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <string>
#include <vector>

namespace optrel {

struct PatchFigures {
    int edges = 0;                   ///< places at which an edge was measured; the next three mean nothing without any
    double red_px = 0, blue_px = 0;  ///< how far red and blue lie beside green, across the edges
    double width_px = 0;             ///< of an edge, from 10 to 90 percent of its step (median); 0: only thin lines
    int steps = 0;                   ///< edges of which the width was measured
    double light = 0;                ///< mean of green, 1 = white level
};

/// Of red, green and blue in linear light, all of one size. Edges are the places at which green changes most, provided
/// that its step is well above the noise; at each the three colours are located by the centroid of their slope, and the
/// displacements of red and blue that explain all of them are solved robustly (least length where all edges run one
/// way).
PatchFigures patch_figures(const std::array<cv::Mat1f, 3>& planes);

/// One named place of a picture, before and after a correction.
struct PatchPair {
    std::string name;  ///< "upper left corner"
    PatchFigures before, after;
};
/// What the correction does over the picture, in one or two sentences: whether it helps everywhere, and where it does
/// harm instead.
std::string verdict(const std::vector<PatchPair>& patches);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// From a mosaic to three planes whose colours lie on one another.
//
// A lens with lateral colour puts red and blue beside green. Interpolating across planes that are not aligned yet
// leaves colour at every edge, which no later resampling takes away; so red and blue are brought to green's place here,
// while the missing samples are found:
//
//   1. green at the sites of red and blue, along and across, weighed by how little the picture changes that way
//   (Hamilton, Adams 1997);
//      its second-order term takes red and blue from where their light belongs, not from where it fell;
//   2. red minus green, and blue minus green, at each red and blue sample itself: green is taken at the place to which
//   that sample's light
//      belongs (cubic convolution), so these differences are smooth even at edges;
//   3. for each pixel the difference at the place where its red (or blue) light fell, bilinear between samples, plus
//   green.
//
// Without lateral colour the same steps are an ordinary interpolation of colour differences. Green is never touched by
// red and blue beyond the second-order term, and never moved.
#pragma once

#include <algorithm>
#include <array>
#include <vector>

#include "frames/picture.h"
#include "optics/frame_map.h"
#include "render/planes.h"

namespace optrel {

class GainTable;

/// Converts counts (those of the picture, or repaired ones) to linear light: black and white level, white balance
/// (`multiplier`, smallest 1), clipping at the white level so that overexposed areas stay neutral, then the gain that
/// corrects falloff at each sample (null: none). `part`: area of the frame that begins at an even row and column;
/// empty: all. For every layout with a mosaic, and for monochrome frames.
cv::Mat1f linear_mosaic(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                        const GainTable* gains, const cv::Rect& part = {});

/// Three aligned planes of a Bayer mosaic. `map`: displacement of red and blue, with its strength; null: none.
/// `origin`: position of the mosaic in the frame, even.
Planes demosaic(const cv::Mat1f& mosaic, const SitePattern<int>& filter, const FrameMap* map = nullptr,
                cv::Point origin = {0, 0});

/// The planes of a Bayer mosaic, whose period is 2, as means over cells of `cell` px (even), with equal positions for
/// all planes. The displacement of red and blue is not corrected. Incomplete cells at the right and bottom are dropped.
Planes in_cells(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier, int cell);

/// Multiplies planes by the gain that corrects falloff.
void undo_falloff(Planes& planes, const Sampling& at, const FrameMap& map);
void undo_falloff(Planes& planes, const Sampling& at, const GainTable& gains);

/// The gain that corrects falloff, tabulated over the squared distance from its centre.
class GainTable {
public:
    explicit GainTable(const FrameMap& map);
    float at(int channel, float u, float v) const {
        const float dx = u - centre_u_, dy = v - centre_v_;
        const float q = (dx * dx + dy * dy) * scale_;
        const int i = std::min(static_cast<int>(q), entries - 1);  // nodes may lie outside the frame
        const float* t = table_[channel].data() + i;
        return t[0] + (q - i) * (t[1] - t[0]);
    }
    /// Gains at every `gain_nodes_apart`-th of `count` places in a row that begins at (u, v), `step` px apart, and at
    /// one more beyond.
    void along(int channel, float u, float v, float step, int count, std::vector<float>& out) const;

private:
    static constexpr int entries = 4096;
    float centre_u_, centre_v_, scale_;
    std::array<std::vector<float>, 3> table_;
};

}  // namespace optrel

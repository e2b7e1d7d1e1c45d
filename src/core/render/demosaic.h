// From a mosaic to three planes.
#pragma once

#include <array>

#include "frames/picture.h"
#include "optics/frame_map.h"
#include "render/planes.h"

namespace optrel {

/// Counts (those of the picture, perhaps repaired) to linear light: black and white level, white balance (`multiplier`, smallest 1), clipping at the white level so that
/// blown areas stay neutral, then the gain that undoes the falloff at each sample's own place.
cv::Mat1f linear_mosaic(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier, const FrameMap* map);

/// Gradient-corrected bilinear interpolation (Malvar, He, Cutler 2004).
Planes demosaic(const cv::Mat1f& mosaic, const std::array<std::array<int, 2>, 2>& filter);

/// The gain that undoes the falloff, tabulated over the squared distance from the falloff's centre.
class GainTable {
public:
    explicit GainTable(const FrameMap& map);
    float at(int channel, float u, float v) const {
        const float dx = u - centre_u_, dy = v - centre_v_;
        const float q = (dx * dx + dy * dy) * scale_;
        const int i = static_cast<int>(q);
        const float* t = table_[channel].data() + i;
        return t[0] + (q - i) * (t[1] - t[0]);
    }

private:
    float centre_u_, centre_v_, scale_;
    std::array<std::vector<float>, 3> table_;
};

}  // namespace optrel

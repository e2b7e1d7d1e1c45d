// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/chroma_lookup.h"

#include <algorithm>

namespace optrel {

ChromaLookup::ChromaLookup(const std::function<cv::Vec3f(const cv::Vec3f&)>& convert) {
    entries_.reserve((steps + 1) * (steps + 1));
    for (int j = 0; j <= steps; ++j)
        for (int i = 0; i <= steps; ++i) {
            const float x = static_cast<float>(i) / steps, y = static_cast<float>(j) / steps;
            entries_.push_back(convert({x, y, std::max(0.f, 1 - x - y)}));
        }
}

}  // namespace optrel

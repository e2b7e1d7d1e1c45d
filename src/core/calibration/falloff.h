// Vignetting (ISO 17957) from flat fields.
//
// For flat k, channel c, at s:  log I = level(k, c) + log(1 + a1 h^2 + a2 h^4 + a3 h^6) + log(1 + sign(k) g . s / half-diagonal).
// With the light turned round half-way the lamp's gradient g changes its sign, and g and the centre of the falloff come
// apart. With one direction they cannot; the centre then stays at the optical centre and the result says so.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "frames/picture.h"
#include "optics/profile.h"

namespace optrel {

/// Block means of one flat field.
struct FlatField {
    std::string name;
    struct Block {
        Vec2 uv;
        Channel channel;
        double mean;
    };
    std::vector<Block> blocks;
    double clipped = 0;  ///< share of blocks left out because they touch the white level
    double level = 0;    ///< median of green, 1 = white level
};

/// Means over about 40 x 27 blocks of each plane; samples beyond four sigma (dust, hot pixels) and clipped blocks are left out.
FlatField measure_flat(const std::string& name, const MeasuringPicture& picture);

/// Throws Error(input) with fewer than 50 usable blocks in a flat.
Falloff fit_falloff(const std::vector<FlatField>& flats, const Vec2& optical_centre_mm, const PictureGeometry& geometry, const Progress& progress);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Vignetting (ISO 17957) from flat fields.
//
// For flat k, channel c, at s:  log I = level(k, c) +- log(1 + a1 h^2 + a2 h^4 + a3 h^6 + a4 h^8) + log(1 + sign(k) g .
// s / half-diagonal). With the light turned round half-way the lamp's gradient g changes its sign, and g and the centre
// of the falloff come apart. With one direction they cannot; the centre then stays at the optical centre and the result
// says so. The last term is used only where the flat fields clearly ask for it; the sign is the one that fits better: a
// polynomial of the light or of the gain.
#pragma once

#include <filesystem>
#include <optional>
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

/// Means over 48 x 32 blocks of each plane. Samples beyond four sigma (dust, hot pixels) and clipped blocks are left
/// out.
FlatField measure_flat(const std::string& name, const MeasuringPicture& picture);

/// How well one flat field agrees with the common falloff.
struct FlatCheck {
    double uneven = 0;         ///< share of its blocks that deviate by more than 1.5 % and six sigma
    double worst_percent = 0;  ///< the largest deviation among them
    Vec2 worst_place = Vec2::Zero();
    int light_side = 1;  ///< 1 or -1: side from which the light came, relative to the other flats

    /// A larger share means a shadow, a reflection or an object.
    static constexpr double limit = 0.02;
    bool is_flat() const { return uneven <= limit; }
};

struct FalloffFit {
    Falloff falloff;
    std::vector<FlatCheck> flats;  ///< in the order of the given flats
};

/// Throws Error(input) with fewer than 50 usable blocks in a flat.
FalloffFit fit_falloff(const std::vector<FlatField>& flats, const Vec2& optical_centre_mm,
                       const PictureGeometry& geometry, const Progress& progress);

/// A less accurate estimate, marked as such, from the light on the white squares of chart frames. Each frame has its
/// own lighting plane; the centre is the optical one. Empty with fewer than three frames or 200 measured places, or
/// when no smooth falloff fits.
std::optional<Falloff> falloff_from_whites(const std::vector<FlatField>& frames, const Vec2& optical_centre_mm,
                                           const PictureGeometry& geometry, const Progress& progress);

}  // namespace optrel

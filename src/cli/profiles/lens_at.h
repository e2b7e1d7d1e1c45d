// SPDX-License-Identifier: GPL-3.0-or-later
// A lens that a command works with: a profile at a lens setting, over a picture of some size.
#pragma once

#include <CLI/CLI.hpp>
#include <string>

#include "optics/frame_map.h"

namespace optrel::cli {

struct LensOptions {
    std::string profile, size;
    double pitch_um = 0;
    LensSetting setting;
    bool anyway = false;
};
/// --profile, --size, --pitch-um, --focal, --aperture, --distance; without `with_size` the picture is that of the
/// profile.
void add_lens_options(CLI::App& command, LensOptions& options, bool with_size = true);

struct LensAt {
    Profile profile;
    PlacedNode placed;
    PictureGeometry geometry;
    FrameMap map() const { return {placed.node, profile.geometry, geometry}; }
};
/// Throws Error(usage) for a zoom without a focal length, Error(input) for a setting or a sensor that the profile does
/// not fit, and as reading the profile does.
LensAt lens_at(const LensOptions& options);

}  // namespace optrel::cli

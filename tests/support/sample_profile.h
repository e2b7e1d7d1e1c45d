// SPDX-License-Identifier: GPL-3.0-or-later
// A small profile as a file or another studio may bring it.
#pragma once

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel::test {

/// One lens setting of a 35 mm lens with some barrel distortion.
inline Profile sample_profile(const char* id = "p1") {
    Profile p;
    p.id = id;
    p.name = p.lens = "Lumenfold 35mm f/2.8";
    p.camera = "Brimholt B2";
    p.geometry = {2464, 1640, 9.4};
    ProfileNode n;
    n.setting = {35, 4, 1};
    n.focal_mm = 35.2;
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0, 0, 0, 0});
    p.nodes = {n};
    return p;
}

/// A frame of that lens on that body, as its metadata tell.
inline Metadata sample_frame() {
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.lens = "Lumenfold 35mm f/2.8";
    m.focal_mm = 35;
    m.aperture = 4;
    m.width = 2464;
    m.height = 1640;
    m.pitch_um = 9.4;
    return m;
}

}  // namespace optrel::test

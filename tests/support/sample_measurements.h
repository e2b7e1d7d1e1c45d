// SPDX-License-Identifier: GPL-3.0-or-later
// Small measurements of bodies.
#pragma once

#include "sensor/defect_kind.h"
#include "sensor/fingerprint_kind.h"

namespace optrel::test {

/// A map of one hot pixel.
inline DefectMap sample_defects(const std::string& serial) {
    DefectMap map;
    map.camera = "Brimholt B2";
    map.serial = serial;
    map.width = 60;
    map.height = 40;
    map.settings = {{400, 1, 8, 3.0}};
    map.pixels = {{5, 6, DefectKind::hot, {10}, 0}};
    map.time = "2026-12-01T10:00:00Z";
    map.frames = {"D1.dng"};
    return map;
}

inline BodyFingerprint sample_fingerprint(const std::string& serial) {
    BodyFingerprint f{"b", "Brimholt B2", serial, {}, "Iva", "2026-12-01T10:00:00Z", {"a.dng"}};
    f.print.width = f.print.height = 16;
    f.print.left = f.print.top = 0;
    f.print.side = 16;
    f.print.signs.assign(32, 0x55);
    return f;
}

}  // namespace optrel::test

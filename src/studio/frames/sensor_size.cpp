// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/sensor_size.h"

#include <fmt/format.h>

#include <cmath>

namespace optrel {
namespace {

/// Raw files may show a few rows and columns fewer than the register says, and frames may be rotated.
bool same_pixels(int width, int height, const Metadata& frame) {
    const auto near = [](int a, int b) { return std::abs(a - b) <= 0.01 * std::max(a, b); };
    return width > 0 && height > 0 &&
           ((near(width, frame.width) && near(height, frame.height)) ||
            (near(width, frame.height) && near(height, frame.width)));
}

/// Diagonal of 35 mm film, to which equivalent focal lengths refer (CIPA DCG-001).
const double film_diagonal_mm = std::hypot(36.0, 24.0);

}  // namespace

Metadata with_pitch(const Metadata& frame, const Fleet& fleet) {
    Metadata out = frame;
    if (out.pitch_um > 0 || out.width <= 0) return out;
    const std::string camera = camera_name(out);
    if (camera.empty()) return out;
    if (const ModelEntry* m = fleet.model(camera); m && m->pitch_um > 0 && same_pixels(m->width, m->height, out))
        out.pitch_um = m->pitch_um;
    if (out.pitch_um > 0) return out;
    for (const Body& b : fleet.entries().bodies)
        if (b.pitch_um > 0 && b.camera() == camera && same_pixels(b.width, b.height, out)) {
            out.pitch_um = b.pitch_um;
            break;
        }
    return out;
}

Metadata with_pitch(const Metadata& frame, const std::vector<Profile>& profiles) {
    Metadata out = frame;
    if (out.pitch_um > 0 || out.width <= 0) return out;
    const std::string camera = camera_name(out);
    if (!camera.empty())
        for (const Profile& p : profiles)
            if (p.camera == camera && same_pixels(p.geometry.width, p.geometry.height, out)) {
                out.pitch_um = p.geometry.pitch_um;
                return out;
            }
    if (out.equivalent_mm > 0 && out.focal_mm > 0)
        out.pitch_um = 1000 * film_diagonal_mm * out.focal_mm / out.equivalent_mm /
                       std::hypot(double(out.width), double(out.height));
    return out;
}

std::string pitch_unknown(const Metadata& frame) {
    return fmt::format(
        "the size of its sensor is not known: the file records neither its pixel pitch nor an equivalent focal length, "
        "and neither the register nor a profile knows {} with {} x {} px",
        camera_name(frame).empty() ? "its model" : camera_name(frame), frame.width, frame.height);
}

}  // namespace optrel

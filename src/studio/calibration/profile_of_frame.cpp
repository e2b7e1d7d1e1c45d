// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/profile_of_frame.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/files.h"
#include "base/times.h"
#include "optics/linear.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {

Profile profile_of_frame(const std::filesystem::path& frame, const Metadata& m, MeasurementOrigin origin,
                         const std::string& author) {
    if (m.lens.empty())
        throw input_error(
            "Nobody knows which lens took this frame; assign its lens first, so that the profile has one.");
    Profile p;
    p.origin = origin;
    p.lens = m.lens;
    p.lens_serial = m.lens_serial;
    p.camera = camera_name(m);
    p.name = fmt::format("{}, {}", p.lens, to_string(origin));
    p.geometry = geometry_of(m);
    p.pitch_assumed = m.pitch_um <= 0;
    p.provenance.author = author;
    p.provenance.time = utc_now();
    p.provenance.program = "Optrel " OPTREL_VERSION;
    p.provenance.frames = {{frame.filename().string(), file_hash(frame)}};
    p.id = fmt::format("p{:012x}", fnv1a(to_string(origin) + " " + p.provenance.frames[0].second) & 0xffffffffffffull);
    return p;
}

Falloff falloff_undone_by(const std::function<double(double height)>& gain, double farthest) {
    constexpr int steps = 60, terms = 4;
    // Fits the polynomial of the gain (reciprocal form), which is the form that is applied.
    Eigen::MatrixXd a(steps, terms);
    Eigen::VectorXd b(steps);
    for (int k = 0; k < steps; ++k) {
        const double h = farthest * (k + 1) / steps, g = gain(h);
        for (int t = 0; t < terms; ++t) a(k, t) = std::pow(h * h, t + 1) / g;
        b(k) = (g - 1) / g;
    }
    const Eigen::VectorXd x = least_squares(a, b);
    Falloff out;
    out.reciprocal = true;
    for (auto& channel : out.a) std::copy(x.begin(), x.end(), channel.begin());
    return out;
}

}  // namespace optrel

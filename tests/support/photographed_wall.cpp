// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/photographed_wall.h"

#include <algorithm>

#include "base/parallel.h"
#include "base/progress.h"

namespace optrel::test {

FrameMap wall_lens(double k1) {
    ProfileNode n;
    n.focal_mm = 35;
    n.model = LensModel(LensModelKind::radial_tangential, {k1, 0, 0, 0, 0, 0, 0});
    return {n, wall_geometry, wall_geometry};
}

namespace {

/// Six places along one axis from which a pixel has equal shares of its light: its width, blurred by the lens.
const std::array<double, 6>& where_light_comes_from() {
    static const std::array<double, 6> places = [] {
        std::mt19937 random(9);
        std::uniform_real_distribution<double> box(-0.5, 0.5);
        std::normal_distribution<double> blur(0, 0.6);
        std::vector<double> all(600000);
        for (double& v : all) v = box(random) + blur(random);
        std::sort(all.begin(), all.end());
        std::array<double, 6> out{};
        for (int k = 0; k < 6; ++k)
            for (int i = 0; i < 100000; ++i) out[k] += all[100000 * k + i] / 100000;
        return out;
    }();
    return places;
}

}  // namespace

MeasuringPicture photograph(const Wall& wall, const CameraTurn& turn, const FrameMap& through, double noise,
                            unsigned seed) {
    MeasuringPicture out;
    out.width = wall_geometry.width;
    out.height = wall_geometry.height;
    SamplePlane plane;
    cv::Mat1f& light = plane.values;
    light.create(wall_geometry.height, wall_geometry.width);
    const Eigen::Matrix3d r = turn.matrix();
    const std::array<double, 6>& places = where_light_comes_from();
    parallel_for(wall_geometry.height, [&](int row) {
        for (int i = 0; i < wall_geometry.width; ++i) {
            // Within a pixel the distortion is a shift.
            const auto ideal = through.ideal({i + 0.5, row + 0.5});
            if (!ideal) continue;
            const auto light_from = [&](double a, double b) {
                const Vec2 flat = (*ideal + Vec2(a, b) - through.centre()) / through.focal_px();
                const Vec3 d = r * Vec3(flat.x(), flat.y(), 1);
                return wall.light(d.x() / d.z(), d.y() / d.z());
            };
            // No edge passes between the outermost places without parting them: windows are far larger than a pixel.
            const double far = places.back(), same = light_from(-far, -far);
            if (same == light_from(far, -far) && same == light_from(-far, far) && same == light_from(far, far)) {
                light(row, i) = static_cast<float>(same);
                continue;
            }
            double sum = 0;
            for (const double b : places)
                for (const double a : places) sum += light_from(a, b);
            light(row, i) = static_cast<float>(sum / 36);
        }
    });
    std::mt19937 random(seed);
    std::normal_distribution<float> n(0, static_cast<float>(noise));
    for (float& v : light) v += n(random);
    out.planes = {plane};
    return out;
}

std::vector<SceneLine> lines_in(const MeasuringPicture& picture, const FrameMap& through, int orientation) {
    std::vector<SceneLine> out;
    for (const Segment& s : find_segments(picture, 24, Progress()))
        if (const auto line = straight_line(s, through)) out.push_back(scene_line(*line, through, orientation));
    return out;
}

}  // namespace optrel::test

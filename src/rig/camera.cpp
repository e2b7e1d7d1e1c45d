// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/camera.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/angle.h"
#include "base/parallel.h"
#include "rig/random.h"

namespace optrel::rig {
namespace {

/// Quantiles of the sensitivity profile of a pixel along one axis: a box, blurred by the lens. Both are
/// separable.
class PixelProfile {
public:
    explicit PixelProfile(double blur_px) : table_(2049) {
        const int n = 8000;
        const double reach = 0.5 + 5 * blur_px;
        const auto cumulative = [&](double x) {  // integral of box * Gaussian up to x
            const auto ramp = [&](double d) {
                const double z = d / blur_px;
                return d * 0.5 * std::erfc(-z / std::sqrt(2.0)) + blur_px * std::exp(-0.5 * z * z) / std::sqrt(2 * pi);
            };
            return ramp(x + 0.5) - ramp(x - 0.5);
        };
        int k = 0;
        for (int i = 0; i <= n && k <= 2048; ++i) {
            const double x = -reach + 2 * reach * i / n;
            while (k <= 2048 && cumulative(x) >= (k + 0.0) / 2048) table_[k++] = static_cast<float>(x);
        }
        while (k <= 2048) table_[k++] = static_cast<float>(reach);
        table_[0] = table_[1] - (table_[2] - table_[1]);
    }
    double quantile(double p) const {
        const double at = p * 2048;
        const int i = std::min(2047, static_cast<int>(at));
        return table_[i] + (at - i) * (table_[i + 1] - table_[i]);
    }

private:
    std::vector<float> table_;
};

/// Camera response to linear sRGB reflectance under the lamp: through XYZ and the body's matrix, scaled so that white
/// gives `neutral`.
cv::Matx33d reflectance_to_camera(const Body& body) {
    const cv::Matx33d srgb_to_xyz(0.4124564, 0.3575761, 0.1804375, 0.2126729, 0.7151522, 0.0721750, 0.0193339,
                                  0.1191920, 0.9503041);
    cv::Matx33d m = body.xyz_to_camera * srgb_to_xyz;
    for (int row = 0; row < 3; ++row) {
        const double white = m(row, 0) + m(row, 1) + m(row, 2);
        for (int column = 0; column < 3; ++column) m(row, column) *= body.neutral[row] / white;
    }
    return m;
}

/// Camera values of a perfect diffuser: in the light of the exposure as the body really sees it, or as it believes.
std::array<double, 3> white_of(const Body& body, const Exposure& exposure, bool recorded) {
    if (exposure.light.empty()) return body.neutral;
    std::array<double, 3> out =
        response_to_white(recorded ? body.spectral_model : body.spectral, light_named(exposure.light));
    const double green = out[1];
    if (recorded)
        for (double& v : out) v /= green;
    return out;
}

RawPicture empty_picture(const Body& body, const Exposure& exposure) {
    RawPicture raw;
    raw.counts.create(body.height, body.width);
    raw.layout = body.layout;
    raw.filter = body.filter;
    raw.black = {{{body.black, body.black}, {body.black, body.black}}};
    raw.white = body.white;
    raw.xyz_to_camera = body.xyz_to_camera;
    raw.has_colour_matrix = raw.has_colours();
    raw.as_shot_neutral = white_of(body, exposure, true);
    return raw;
}

Sensor sensor_of(const Body& body, const Exposure& exposure) {
    return {body.sensor,
            {body.full_well, body.read_noise, body.black, body.white, exposure.iso, exposure.seconds},
            body.width,
            body.height,
            exposure.seed};
}

/// One exposure of a scene: the light that each pixel collects.
class Shutter {
public:
    Shutter(const Body& body, const Lens& lens, const Exposure& exposure, const Scene& scene,
            const Placement& placement)
        : body_(body),
          lens_(lens),
          exposure_(exposure),
          scene_(scene),
          turn_(placement.rotation().t()),
          eye_(turn_ * (-placement.translation_mm)),
          response_(scene.gives_camera_values() ? cv::Matx33d::eye() : reflectance_to_camera(body)),
          profile_(exposure.blur_px),
          sensor_(sensor_of(body, exposure)) {}

    std::uint16_t pixel(int row, int column) const {
        const int channel = body_.filter.at(row, column);
        const std::uint64_t key =
            mix(exposure_.seed * 0x100000001ull + static_cast<std::uint64_t>(row) * body_.width + column);
        const cv::Vec2d s = on_sensor(column + 0.5, row + 0.5);
        const double value = gathered(channel, column + 0.5, row + 0.5, key);
        return sensor_.count(row, column, value * exposure_.level * lens_.light(channel, s), key);
    }

private:
    cv::Vec2d on_sensor(double u, double v) const {
        const double pitch = body_.pitch_um * 1e-3;
        return {(u - body_.width / 2.0) * pitch, (v - body_.height / 2.0) * pitch};
    }

    /// The point of the scene that a place of the picture shows, in the coordinates of the board.
    cv::Vec2d on_scene(int channel, double u, double v) const {
        const cv::Vec3d ray = turn_ * lens_.look(channel, on_sensor(u, v));
        double along = -eye_[2] / ray[2];
        cv::Vec2d p(eye_[0] + along * ray[0], eye_[1] + along * ray[1]);
        if (scene_.height(1e3, 1e3) != 0)
            for (int i = 0; i < 6; ++i) {
                along = (scene_.height(p[0], p[1]) - eye_[2]) / ray[2];
                p = {eye_[0] + along * ray[0], eye_[1] + along * ray[1]};
            }
        // Behind the camera, or at so small an angle that it could be anywhere: a distant point on the wall.
        return along > 0 && std::abs(ray[2]) > 1e-9 ? p : cv::Vec2d(1e6, 1e6);
    }

    double camera_value(int channel, const Surface& at) const {
        return response_(channel, 0) * at.reflectance[0] + response_(channel, 1) * at.reflectance[1] +
               response_(channel, 2) * at.reflectance[2];
    }

    /// The mean of the scene over the few pixels from which one pixel collects light, weighted by its blur.
    double gathered(int channel, double u, double v, std::uint64_t key) const {
        // Over so small an area the mapping to the plane is affine to better than 1e-4 px.
        const cv::Vec2d origin = on_scene(channel, u, v);
        const cv::Vec2d along_u = on_scene(channel, u + 1, v) - origin, along_v = on_scene(channel, u, v + 1) - origin;
        const auto surface = [&](double du, double dv) {
            return scene_.at(origin[0] + du * along_u[0] + dv * along_v[0],
                             origin[1] + du * along_u[1] + dv * along_v[1]);
        };
        const Surface middle = surface(0, 0);
        bool even = middle.label != 0;
        const double reach = 0.5 + 3 * exposure_.blur_px;
        for (const double sx : {-reach, reach})
            for (const double sy : {-reach, reach}) even = even && surface(sx, sy).label == middle.label;
        if (even) return camera_value(channel, middle);
        // A rank-1 lattice (R2 sequence, Roberts 2018) with an individual offset for each pixel.
        const int samples = middle.label != 0 ? 80 : 20;
        double x = uniform(key ^ 0x1234567), y = uniform(key ^ 0x7654321), sum = 0;
        for (int i = 0; i < samples; ++i) {
            x += 0.7548776662466927;
            y += 0.5698402909980532;
            x -= x >= 1;
            y -= y >= 1;
            sum += camera_value(channel, surface(profile_.quantile(x), profile_.quantile(y)));
        }
        return sum / samples;
    }

    const Body& body_;
    const Lens& lens_;
    const Exposure& exposure_;
    const Scene& scene_;
    cv::Matx33d turn_;  ///< to the coordinates of the board
    cv::Vec3d eye_;     ///< position of the camera in them
    cv::Matx33d response_;
    PixelProfile profile_;
    Sensor sensor_;
};

}  // namespace

RawPicture photograph(const Body& body, const Lens& lens, const Exposure& exposure, const Scene& scene,
                      const Placement& placement, const Progress& progress) {
    RawPicture raw = empty_picture(body, exposure);
    const Shutter shutter(body, lens, exposure, scene, placement);
    parallel_for(
        body.height,
        [&](int row) {
            if (row % 64 == 0) progress.check();
            for (int column = 0; column < body.width; ++column) raw.counts(row, column) = shutter.pixel(row, column);
        },
        8);
    return raw;
}

RawPicture photograph_flat(const Body& body, const Lens& lens, const Exposure& exposure, const Progress& progress) {
    RawPicture raw = empty_picture(body, exposure);
    const std::array<double, 3> white = white_of(body, exposure, false);
    const double pitch = body.pitch_um * 1e-3;
    const double half = 0.5 * std::hypot(body.width, body.height) * pitch;
    const Sensor sensor = sensor_of(body, exposure);
    parallel_for(
        body.height,
        [&](int row) {
            if (row % 64 == 0) progress.check();
            for (int column = 0; column < body.width; ++column) {
                const int channel = body.filter.at(row, column);
                const cv::Vec2d s((column + 0.5 - body.width / 2.0) * pitch, (row + 0.5 - body.height / 2.0) * pitch);
                const double lamp = 1 + exposure.lamp_gradient.dot(s) / half;
                const std::uint64_t key =
                    mix(exposure.seed * 0x100000001ull + static_cast<std::uint64_t>(row) * body.width + column);
                raw.counts(row, column) =
                    sensor.count(row, column, white[channel] * exposure.level * lamp * lens.light(channel, s), key);
            }
        },
        8);
    return raw;
}

}  // namespace optrel::rig

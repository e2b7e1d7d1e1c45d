#include "rig/camera.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/parallel.h"
#include "rig/random.h"

namespace optrel::rig {
namespace {

/// Quantiles of the light-gathering profile of a pixel along one axis: its box, blurred by the lens. Both are
/// separable.
class PixelProfile {
public:
    explicit PixelProfile(double blur_px) : table_(2049) {
        const int n = 8000;
        const double reach = 0.5 + 5 * blur_px;
        const auto cumulative = [&](double x) {  // integral of box * Gaussian up to x
            const auto ramp = [&](double d) {
                const double z = d / blur_px;
                return d * 0.5 * std::erfc(-z / std::sqrt(2.0)) +
                       blur_px * std::exp(-0.5 * z * z) / std::sqrt(2 * 3.14159265358979323846);
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

RawPicture empty_picture(const Body& body) {
    RawPicture raw;
    raw.counts.create(body.height, body.width);
    raw.filter = body.filter;
    raw.black = {{{body.black, body.black}, {body.black, body.black}}};
    raw.white = body.white;
    raw.xyz_to_camera = body.xyz_to_camera;
    raw.has_colour_matrix = true;
    raw.as_shot_neutral = body.neutral;
    return raw;
}

std::uint16_t expose(const Body& body, const Exposure& exposure, double value, std::uint64_t key) {
    const double electrons_at_white = body.full_well * 100 / exposure.iso;
    const double mean = std::max(0.0, value) * electrons_at_white;
    const double electrons = mean + std::sqrt(mean + body.read_noise * body.read_noise) * normal(key);
    const double counts = body.black + electrons / electrons_at_white * (body.white - body.black);
    return static_cast<std::uint16_t>(std::clamp(std::lround(counts), 0l, static_cast<long>(body.white)));
}

}  // namespace

RawPicture photograph(const Body& body, const Lens& lens, const Exposure& exposure, const Scene& scene,
                      const Placement& placement, const Progress& progress) {
    RawPicture raw = empty_picture(body);
    // In the board's own axes: where the camera stands and how its axes lie.
    const cv::Matx33d turn = placement.rotation().t();
    const cv::Vec3d eye = turn * (-placement.translation_mm);
    const cv::Matx33d response = reflectance_to_camera(body);
    const PixelProfile profile(exposure.blur_px);
    const double pitch = body.pitch_um * 1e-3;
    const double reach = 0.5 + 3 * exposure.blur_px;
    parallel_for(
        body.height,
        [&](int row) {
            if (row % 64 == 0) progress.check();
            for (int column = 0; column < body.width; ++column) {
                const int channel = body.filter[row & 1][column & 1];
                const double u = column + 0.5, v = row + 0.5;
                const auto on_plane = [&](double du, double dv) {
                    const cv::Vec2d s((u + du - body.width / 2.0) * pitch, (v + dv - body.height / 2.0) * pitch);
                    const cv::Vec3d ray = turn * lens.look(channel, s);
                    double along = -eye[2] / ray[2];
                    cv::Vec2d p(eye[0] + along * ray[0], eye[1] + along * ray[1]);
                    if (scene.height(1e3, 1e3) != 0)
                        for (int i = 0; i < 6; ++i) {
                            along = (scene.height(p[0], p[1]) - eye[2]) / ray[2];
                            p = {eye[0] + along * ray[0], eye[1] + along * ray[1]};
                        }
                    // Behind the camera, or so grazing that it could be anywhere: far away on the wall.
                    return along > 0 && std::abs(ray[2]) > 1e-9 ? p : cv::Vec2d(1e6, 1e6);
                };
                // Within the few pixels that one pixel gathers light from, the way to the plane is affine to better
                // than 1e-4 px.
                const cv::Vec2d origin = on_plane(0, 0), along_u = on_plane(1, 0) - origin,
                                along_v = on_plane(0, 1) - origin;
                const auto surface = [&](double du, double dv) {
                    return scene.at(origin[0] + du * along_u[0] + dv * along_v[0],
                                    origin[1] + du * along_u[1] + dv * along_v[1]);
                };
                const auto camera_value = [&](const Surface& at) {
                    return response(channel, 0) * at.reflectance[0] + response(channel, 1) * at.reflectance[1] +
                           response(channel, 2) * at.reflectance[2];
                };
                const std::uint64_t key =
                    mix(exposure.seed * 0x100000001ull + static_cast<std::uint64_t>(row) * body.width + column);
                const Surface middle = surface(0, 0);
                double value = camera_value(middle);
                bool even = middle.label != 0;
                if (even)
                    for (const double sx : {-reach, reach})
                        for (const double sy : {-reach, reach}) even = even && surface(sx, sy).label == middle.label;
                if (!even) {
                    // A rank-1 lattice (R2 sequence, Roberts 2018) with a shift of its own for each pixel.
                    const int samples = middle.label != 0 ? 80 : 20;
                    double x = uniform(key ^ 0x1234567), y = uniform(key ^ 0x7654321);
                    double sum = 0;
                    for (int i = 0; i < samples; ++i) {
                        x += 0.7548776662466927;
                        y += 0.5698402909980532;
                        x -= x >= 1;
                        y -= y >= 1;
                        sum += camera_value(surface(profile.quantile(x), profile.quantile(y)));
                    }
                    value = sum / samples;
                }
                const cv::Vec2d s((u - body.width / 2.0) * pitch, (v - body.height / 2.0) * pitch);
                raw.counts(row, column) = expose(body, exposure, value * exposure.level * lens.light(channel, s), key);
            }
        },
        8);
    return raw;
}

RawPicture photograph_flat(const Body& body, const Lens& lens, const Exposure& exposure, const Progress& progress) {
    RawPicture raw = empty_picture(body);
    const double pitch = body.pitch_um * 1e-3;
    const double half = 0.5 * std::hypot(body.width, body.height) * pitch;
    parallel_for(
        body.height,
        [&](int row) {
            if (row % 64 == 0) progress.check();
            for (int column = 0; column < body.width; ++column) {
                const int channel = body.filter[row & 1][column & 1];
                const cv::Vec2d s((column + 0.5 - body.width / 2.0) * pitch, (row + 0.5 - body.height / 2.0) * pitch);
                const double lamp = 1 + exposure.lamp_gradient.dot(s) / half;
                const std::uint64_t key =
                    mix(exposure.seed * 0x100000001ull + static_cast<std::uint64_t>(row) * body.width + column);
                raw.counts(row, column) =
                    expose(body, exposure, body.neutral[channel] * exposure.level * lamp * lens.light(channel, s), key);
            }
        },
        8);
    return raw;
}

}  // namespace optrel::rig

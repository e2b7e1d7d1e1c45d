// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/film.h"

#include <array>
#include <cmath>

#include "base/parallel.h"
#include "films/film_writer.h"

namespace optrel::rig {
namespace {

constexpr double far_away = -1e4;

/// Light of a ruled wall with a lamp that wanders over it, at a place in units of the picture's height.
double wall(const cv::Vec2d& at, int picture) {
    const auto rule = [&](double v) {
        return std::min(1.0, std::abs(std::remainder(v + 2e-4 * picture, 0.11)) / 0.005);
    };
    const cv::Vec2d lamp(0.5 * std::sin(0.03 * picture), 0.25 * std::cos(0.05 * picture));
    const double glow = std::exp(-cv::norm(at - lamp, cv::NORM_L2SQR) / 0.08);
    return 0.08 + (0.35 + 0.3 * glow) * std::min(rule(at[0]), rule(at[1]));
}

}  // namespace

void make_film(const Lens& lens, const FilmScene& scene, const std::filesystem::path& out, Existing existing,
               Progress& progress) {
    const double pitch = scene.area_width_mm / scene.size.width;
    // Where each sample's light comes from does not change with the picture.
    std::array<cv::Mat2d, 3> from;
    std::array<cv::Mat1d, 3> shade;
    for (std::size_t c = 0; c < 3; ++c) {
        from[c].create(scene.size);
        shade[c].create(scene.size);
    }
    parallel_for(scene.size.height, [&](int row) {
        for (int i = 0; i < scene.size.width; ++i)
            for (std::size_t c = 0; c < 3; ++c) {
                const cv::Vec2d s((i + 0.5 - scene.size.width / 2.0) * pitch,
                                  (row + 0.5 - scene.size.height / 2.0) * pitch);
                const cv::Vec3d d = lens.look(static_cast<int>(c), s);
                const double f = lens.focal_mm / (scene.size.height * pitch);
                from[c](row, i) =
                    d[2] > 0 ? cv::Vec2d(f * d[0] / d[2], f * d[1] / d[2]) : cv::Vec2d(far_away, far_away);
                shade[c](row, i) = lens.light(static_cast<int>(c), s);
            }
    });
    write_output_with(out, film_output(), existing, [&](const std::filesystem::path& part) {
        const auto film = begin_film({part, out, FilmCodec::ffv1, "a simulated film"},
                                     FilmShape{scene.size.width, scene.size.height, 25});
        progress.start(scene.pictures, "Making a film on the rig");
        Planes light(scene.size);
        for (int n = 0; n < scene.pictures; ++n) {
            progress.check();
            parallel_for(scene.size.height, [&](int row) {
                for (int i = 0; i < scene.size.width; ++i)
                    for (std::size_t c = 0; c < 3; ++c)
                        light.channel[c](row, i) = static_cast<float>(wall(from[c](row, i), n) * shade[c](row, i));
            });
            film->write(light, n);
            progress.step();
        }
        film->finish();
    });
}

}  // namespace optrel::rig

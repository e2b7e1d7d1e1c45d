// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/scene.h"

#include <cmath>
#include <opencv2/aruco.hpp>
#include <vector>

#include "base/angle.h"

namespace optrel::rig {

cv::Matx33d Placement::rotation() const {
    const double k = degree;
    const double cx = std::cos(k * rotation_degrees[0]), sx = std::sin(k * rotation_degrees[0]);
    const double cy = std::cos(k * rotation_degrees[1]), sy = std::sin(k * rotation_degrees[1]);
    const double cz = std::cos(k * rotation_degrees[2]), sz = std::sin(k * rotation_degrees[2]);
    const cv::Matx33d rx(1, 0, 0, 0, cx, -sx, 0, sx, cx), ry(cy, 0, sy, 0, 1, 0, -sy, 0, cy),
        rz(cz, -sz, 0, sz, cz, 0, 0, 0, 1);
    return rz * ry * rx;
}

double BoardScene::height(double, double y) const {
    const double half = board_.squares_y * board_.square_mm / 2, t = y / half;
    return board_.bow_mm * std::min(1.5, t * t);
}

Surface BoardScene::wall(double x, double y) const {
    if (board_.clutter) {
        // Shelves with books and small labels, and a grille: straight edges and corners that do not belong to the
        // board.
        const double u = x / 23.0, v = y / 140.0;
        const int book = static_cast<int>(std::floor(u)), shelf = static_cast<int>(std::floor(v));
        const double in_book = u - book, in_shelf = v - shelf;
        const std::uint64_t h =
            (static_cast<std::uint64_t>(book + 4096) * 2654435761u) ^ (static_cast<std::uint64_t>(shelf + 64) * 40503u);
        if (in_shelf > 0.94) return {{0.5f, 0.4f, 0.3f}, 100000};
        if ((shelf & 1) == 0) {
            const bool line = std::fmod(std::abs(x), 18.0) < 7 || std::fmod(std::abs(y), 18.0) < 7;
            return line ? Surface{{0.6f, 0.6f, 0.58f}, 0} : Surface{{0.08f, 0.08f, 0.09f}, 0};
        }
        const float tone = 0.05f + 0.1f * static_cast<float>(h % 7);
        if (in_book > 0.25 && in_book < 0.75 && in_shelf > 0.3 && in_shelf < 0.4) return {{0.75f, 0.74f, 0.7f}, 0};
        return {{tone, tone * 0.9f, tone * 0.8f}, 0};
    }
    return {{0.32f, 0.33f, 0.34f}, 1};
}

Surface BoardScene::at(double x, double y) const {
    if (board_.mirrored) x = -x;
    const int nx = board_.squares_x, ny = board_.squares_y;
    const double down = board_.square_mm * (1 + board_.stretch_y);
    const double u = x / board_.square_mm + nx / 2.0, v = y / down + ny / 2.0;
    if (u < -0.7 || v < -0.7 || u > nx + 0.7 || v > ny + 0.7) return wall(x, y);
    const double ev = board_.light_ev[0] * x / (nx * board_.square_mm) + board_.light_ev[1] * y / (ny * down);
    const double light = (1 + 0.03 * x / 300 - 0.02 * y / 300) * std::exp2(ev);
    // Light that changes slowly over the board is constant within the few pixels from which one pixel collects light.
    double glare = 0;
    if (board_.glare_mm[2] > 0) {
        const double dx = (x - board_.glare_mm[0]) / board_.glare_mm[2],
                     dy = (y - board_.glare_mm[1]) / board_.glare_mm[2];
        glare = 0.9 * std::exp(-2 * (dx * dx + dy * dy));
    }
    const auto paint = [&](bool white, int label) {
        const double r = (white ? board_.white : 0.042) * light + glare;
        return Surface{{static_cast<float>(r), static_cast<float>(r * (white ? 1.012 : 0.976)),
                        static_cast<float>(r * (white ? 0.988 : 1.024))},
                       label};
    };
    if (u < 0 || v < 0 || u >= nx || v >= ny) return paint(true, 2);
    const int i = static_cast<int>(u), j = static_cast<int>(v);
    if (!((i + j) & 1)) return paint(false, 3 + j * nx + i);
    if (board_.coded) {
        constexpr double marker = 0.7, margin = (1 - marker) / 2;
        const double mu = (u - i - margin) / marker * 7, mv = (v - j - margin) / marker * 7;
        if (mu >= 0 && mv >= 0 && mu < 7 && mv < 7) {
            static const std::vector<cv::Mat1b> words = [] {
                std::vector<cv::Mat1b> all(1000);
                for (int id = 0; id < 1000; ++id)
                    cv::aruco::drawMarker(cv::aruco::getPredefinedDictionary(cv::aruco::DICT_5X5_1000), id, 7, all[id],
                                          1);
                return all;
            }();
            int id = 0;
            for (int row = 0; row < j; ++row) id += (nx + (row & 1)) / 2;
            id += i / 2;
            return paint(words[id](static_cast<int>(mv), static_cast<int>(mu)) > 0,
                         100000 + (j * nx + i) * 49 + static_cast<int>(mv) * 7 + static_cast<int>(mu));
        }
    }
    return paint(true, 3 + j * nx + i);
}

}  // namespace optrel::rig

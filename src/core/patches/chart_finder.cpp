// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/chart_finder.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace optrel {
namespace {

using Corners = std::array<cv::Point2d, 4>;

constexpr int search_px = 1000;

/// A small picture with all three colours, and its scale.
struct SmallPicture {
    std::array<cv::Mat1f, 3> channel;
    double scale = 1;  ///< px of the frame for one px
    cv::Mat1f grey() const { return channel[1]; }
};

SmallPicture small_of(const MeasuringPicture& picture) {
    SmallPicture out;
    const int longest = std::max(picture.width, picture.height);
    out.scale = std::max(1.0, static_cast<double>(longest) / search_px);
    const cv::Size size(static_cast<int>(picture.width / out.scale), static_cast<int>(picture.height / out.scale));
    for (const Channel c : {Channel::red, Channel::green, Channel::blue}) {
        cv::Mat1f sum;
        for (const SamplePlane* plane : picture.for_search(picture.has(c) ? c : Channel::green)) {
            cv::Mat1f part;
            cv::resize(plane->values, part, size, 0, 0, cv::INTER_AREA);
            if (sum.empty())
                sum = part;
            else
                sum += part;
        }
        out.channel[static_cast<std::size_t>(c)] = sum;
    }
    return out;
}

cv::Matx33d from_cells(const PatchChart& chart, const Corners& corners) {
    const cv::Point2f cells[4] = {{0, 0},
                                  {static_cast<float>(chart.columns), 0},
                                  {static_cast<float>(chart.columns), static_cast<float>(chart.rows)},
                                  {0, static_cast<float>(chart.rows)}};
    cv::Point2f to[4];
    for (std::size_t i = 0; i < 4; ++i) to[i] = corners[i];
    return cv::Matx33d(cv::getPerspectiveTransform(cells, to));
}

/// Bilinear; the nearest edge outside.
float value_at(const cv::Mat1f& image, const cv::Point2d& p) {
    const double x = std::clamp(p.x - 0.5, 0.0, image.cols - 1.001), y = std::clamp(p.y - 0.5, 0.0, image.rows - 1.001);
    const int i = static_cast<int>(x), j = static_cast<int>(y);
    const float a = static_cast<float>(x - i), b = static_cast<float>(y - j);
    return (1 - b) * ((1 - a) * image(j, i) + a * image(j, i + 1)) +
           b * ((1 - a) * image(j + 1, i) + a * image(j + 1, i + 1));
}

/// How well the cells of a chart lie on even patches with a surround of another brightness.
class GridScore {
public:
    GridScore(const cv::Mat1f& grey, const PatchChart& chart) : grey_(grey), chart_(chart) {
        half_ = 0.5 * chart.patch_mm / chart.pitch_mm;
    }

    double of(const cv::Matx33d& to_image) const {
        double contrast = 0, uneven = 0;
        const bool gaps = half_ < 0.47;
        for (const ReferencePatch& p : chart_.patches) {
            double sum = 0, square = 0;
            constexpr int side = 5;
            for (int j = 0; j < side; ++j)
                for (int i = 0; i < side; ++i) {
                    const double x = (i - 2) * 0.42 * half_, y = (j - 2) * 0.42 * half_;
                    const double v = std::log(std::max(1e-4f, at(to_image, p, x, y)));
                    sum += v;
                    square += v * v;
                }
            const double n = side * side, mean = sum / n;
            uneven += std::sqrt(std::max(0.0, square / n - mean * mean));
            if (!gaps) continue;
            double around = 0;
            for (int k = -2; k <= 2; ++k)
                for (const auto& [x, y] : {std::pair(0.5, k * 0.2), {-0.5, k * 0.2}, {k * 0.2, 0.5}, {k * 0.2, -0.5}})
                    around += std::log(std::max(1e-4f, at(to_image, p, x, y))) / 20;
            contrast += std::abs(mean - around);
        }
        const double patches = static_cast<double>(chart_.patches.size());
        return (gaps ? contrast / patches : 0) - 2 * uneven / patches;
    }

private:
    float at(const cv::Matx33d& to_image, const ReferencePatch& p, double x, double y) const {
        return value_at(grey_, through(to_image, p.column + 0.5 + x, p.row + 0.5 + y));
    }

    const cv::Mat1f& grey_;
    const PatchChart& chart_;
    double half_;
};

/// The line through points, as a point and a direction.
cv::Vec4f line_through(const std::vector<cv::Point2f>& points) {
    cv::Vec4f out;
    cv::fitLine(points, out, cv::DIST_HUBER, 0, 0.01, 0.01);
    return out;
}

std::optional<cv::Point2d> crossing(const cv::Vec4f& a, const cv::Vec4f& b) {
    const double d = static_cast<double>(a[0]) * b[1] - static_cast<double>(a[1]) * b[0];
    if (std::abs(d) < 1e-6) return std::nullopt;
    const double t = ((b[2] - a[2]) * b[1] - (b[3] - a[3]) * b[0]) / d;
    return cv::Point2d(a[2] + t * a[0], a[3] + t * a[1]);
}

/// Four corners of a contour, clockwise, with its sides fitted as lines; empty when it is no quadrilateral.
std::optional<Corners> quadrilateral_of(const std::vector<cv::Point>& contour) {
    std::vector<cv::Point> hull, four;
    cv::convexHull(contour, hull);
    const double length = cv::arcLength(hull, true), area = cv::contourArea(hull);
    for (double share = 0.01; share < 0.12; share += 0.005) {
        cv::approxPolyDP(hull, four, share * length, true);
        if (four.size() <= 4) break;
    }
    if (four.size() != 4 || cv::contourArea(four) < 0.85 * area) return std::nullopt;
    if (cv::contourArea(four, true) < 0) std::reverse(four.begin(), four.end());
    std::array<cv::Vec4f, 4> sides;
    for (std::size_t k = 0; k < 4; ++k) {
        const cv::Point2d a = four[k], b = four[(k + 1) % 4], along = b - a;
        const double size = cv::norm(along);
        std::vector<cv::Point2f> near;
        for (const cv::Point& p : contour) {
            const cv::Point2d d = cv::Point2d(p) - a;
            const double t = d.dot(along) / (size * size), away = std::abs(d.cross(along)) / size;
            if (t > 0.08 && t < 0.92 && away < 0.02 * size + 2) near.emplace_back(p);
        }
        if (near.size() < 8) return std::nullopt;
        sides[k] = line_through(near);
    }
    Corners out;
    for (std::size_t k = 0; k < 4; ++k) {
        const auto corner = crossing(sides[(k + 3) % 4], sides[k]);
        if (!corner) return std::nullopt;
        out[k] = *corner + cv::Point2d(0.5, 0.5);
    }
    return out;
}

/// Outlines of dark areas on a lighter ground, at several thresholds: shade moves the best one.
std::vector<Corners> dark_frames(const cv::Mat1f& grey) {
    cv::Mat1f tones;
    cv::log(cv::max(grey, 1e-4f), tones);
    cv::GaussianBlur(tones, tones, {0, 0}, 1);
    cv::Mat1f surround;
    cv::blur(tones, surround, {grey.cols / 2 | 1, grey.rows / 2 | 1}, {-1, -1}, cv::BORDER_REFLECT);
    std::vector<Corners> out;
    for (const float below : {0.3f, 0.7f, 0.1f, 1.2f}) {
        cv::Mat1b dark = tones < surround - below;
        cv::morphologyEx(dark, dark, cv::MORPH_CLOSE, cv::getStructuringElement(cv::MORPH_RECT, {5, 5}));
        std::vector<std::vector<cv::Point>> contours;
        cv::findContours(dark, contours, cv::RETR_EXTERNAL, cv::CHAIN_APPROX_NONE);
        for (const auto& contour : contours) {
            if (cv::boundingRect(contour).area() < 0.01 * static_cast<double>(grey.total())) continue;
            if (const auto quad = quadrilateral_of(contour)) out.push_back(*quad);
        }
    }
    return out;
}

/// Corners of the grid inside a frame that is `border` cells wide.
Corners grid_inside(const PatchChart& chart, const Corners& frame, double border) {
    const double w = chart.columns + 2 * border, h = chart.rows + 2 * border;
    const cv::Point2f outer[4] = {
        {0, 0}, {static_cast<float>(w), 0}, {static_cast<float>(w), static_cast<float>(h)}, {0, static_cast<float>(h)}};
    cv::Point2f to[4];
    for (std::size_t i = 0; i < 4; ++i) to[i] = frame[i];
    const cv::Matx33d m(cv::getPerspectiveTransform(outer, to));
    return {through(m, border, border), through(m, border + chart.columns, border),
            through(m, border + chart.columns, border + chart.rows), through(m, border, border + chart.rows)};
}

/// Moves each corner as long as the score grows.
double settle(const GridScore& score, const PatchChart& chart, Corners& corners) {
    double best = score.of(from_cells(chart, corners));
    const double cell = cv::norm(corners[1] - corners[0]) / chart.columns;
    for (double step = 0.16 * cell; step > 0.01 * cell; step /= 2)
        for (int round = 0; round < 6; ++round) {
            const double before = best;
            for (cv::Point2d& corner : corners)
                for (const cv::Point2d& move : {cv::Point2d(step, 0), {-step, 0}, {0, step}, {0, -step}}) {
                    corner += move;
                    if (const double now = score.of(from_cells(chart, corners)); now > best)
                        best = now;
                    else
                        corner -= move;
                }
            if (best <= before) break;
        }
    return best;
}

/// R^2 of the best linear map from the patches' colours to the reference: 1 for the right chart, the right way round.
double correlation_of(const SmallPicture& small, const PatchChart& chart, const cv::Matx33d& to_image) {
    const Eigen::Index n = static_cast<Eigen::Index>(chart.patches.size());
    Eigen::MatrixXd seen(n, 3), wanted(n, 3);
    for (Eigen::Index i = 0; i < n; ++i) {
        const ReferencePatch& p = chart.patches[static_cast<std::size_t>(i)];
        const cv::Point2d at = through(to_image, p.column + 0.5, p.row + 0.5);
        for (int c = 0; c < 3; ++c) {
            seen(i, c) = value_at(small.channel[static_cast<std::size_t>(c)], at);
            wanted(i, c) = p.xyz_d50[c];
        }
    }
    const Eigen::MatrixXd map = seen.colPivHouseholderQr().solve(wanted);
    const Eigen::MatrixXd centred = wanted.rowwise() - wanted.colwise().mean();
    return std::max(0.0, 1 - (seen * map - wanted).squaredNorm() / std::max(1e-12, centred.squaredNorm()));
}

Corners turned(const Corners& corners, int quarter_turns) {
    Corners out;
    for (std::size_t i = 0; i < 4; ++i) out[i] = corners[(i + static_cast<std::size_t>(quarter_turns)) % 4];
    return out;
}

/// How a chart whose first corner is at `corners[0]` is turned against the frame.
int turns_of(const Corners& corners) {
    const cv::Point2d along = corners[1] - corners[0];
    if (std::abs(along.x) >= std::abs(along.y)) return along.x >= 0 ? 0 : 2;
    return along.y >= 0 ? 1 : 3;
}

}  // namespace

cv::Point2d through(const cv::Matx33d& homography, double x, double y) {
    const cv::Vec3d v = homography * cv::Vec3d(x, y, 1);
    return {v[0] / v[2], v[1] / v[2]};
}

ChartPlace place_by_corners(const MeasuringPicture& picture, const PatchChart& chart, const Corners& corners) {
    const SmallPicture small = small_of(picture);
    Corners scaled;
    for (std::size_t i = 0; i < 4; ++i) scaled[i] = corners[i] / small.scale;
    ChartPlace out;
    out.to_frame = from_cells(chart, corners);
    out.score = GridScore(small.channel[1], chart).of(from_cells(chart, scaled));
    out.correlation = correlation_of(small, chart, from_cells(chart, scaled));
    out.quarter_turns = turns_of(corners);
    return out;
}

std::optional<ChartPlace> find_chart(const MeasuringPicture& picture, const PatchChart& chart) {
    const SmallPicture small = small_of(picture);
    const cv::Mat1f grey = small.grey();
    const GridScore score(grey, chart);
    std::optional<ChartPlace> best;
    Corners best_corners;
    for (const Corners& frame : dark_frames(grey))
        for (int turn = 0; turn < 2; ++turn) {
            const Corners sides = turned(frame, turn);
            Corners first{};
            double first_score = -1e9;
            for (double border = 0; border <= 1.5; border += 0.05) {
                const Corners grid = grid_inside(chart, sides, border);
                const double here = score.of(from_cells(chart, grid));
                if (here <= first_score) continue;
                first_score = here;
                first = grid;
            }
            const double settled = settle(score, chart, first);
            if (best && settled <= best->score) continue;
            best.emplace();
            best->score = settled;
            best_corners = first;
        }
    // Patches that touch have no surround to stand out of: they are even, at least.
    const double least = chart.patch_mm < 0.94 * chart.pitch_mm ? 0.05 : -0.25;
    if (!best || best->score < least) return std::nullopt;
    // Half a turn does not change the grid, and a square chart fits every quarter.
    const Corners found = best_corners;
    for (const int turn : {0, 2, 1, 3}) {
        const Corners corners = turned(found, turn);
        if (turn % 2 == 1 && chart.columns != chart.rows) continue;
        const double r = correlation_of(small, chart, from_cells(chart, corners));
        if (r > best->correlation) {
            best->next_correlation = best->correlation;
            best->correlation = r;
            best_corners = corners;
        } else {
            best->next_correlation = std::max(best->next_correlation, r);
        }
    }
    for (cv::Point2d& p : best_corners) p *= small.scale;
    best->to_frame = from_cells(chart, best_corners);
    best->quarter_turns = turns_of(best_corners);
    return best;
}

}  // namespace optrel

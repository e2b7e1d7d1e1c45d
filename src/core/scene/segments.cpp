// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/segments.h"

#include <Eigen/Core>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "base/median.h"
#include "base/parallel.h"
#include "optics/linear.h"
#include "scene/edge_fit.h"

namespace optrel {

ScenePicture scene_picture(const MeasuringPicture& picture) {
    const std::vector<const SamplePlane*> greens = picture.for_search(Channel::green);
    ScenePicture out;
    const SamplePlane& first = *greens.front();
    out.step = first.step;
    out.u0 = first.u0;
    out.v0 = first.v0;
    if (greens.size() == 2) {
        const cv::Rect both({0, 0}, cv::Size(std::min(first.values.cols, greens[1]->values.cols),
                                             std::min(first.values.rows, greens[1]->values.rows)));
        out.light = 0.5f * (first.values(both) + greens[1]->values(both));
        out.u0 = 0.5 * (first.u0 + greens[1]->u0);
        out.v0 = 0.5 * (first.v0 + greens[1]->v0);
        return out;
    }
    out.light = first.values;
    constexpr int large = 3'000'000;
    if (out.light.total() > large) {
        const cv::Rect whole(0, 0, out.light.cols / 2 * 2, out.light.rows / 2 * 2);
        cv::Mat1f small;
        cv::resize(out.light(whole), small, whole.size() / 2, 0, 0, cv::INTER_AREA);
        out.light = small;
        out.u0 += 0.5 * out.step;
        out.v0 += 0.5 * out.step;
        out.step *= 2;
    }
    return out;
}

namespace {

/// Locates one stretch of an edge or of a thin line; false when there is neither. Uses less of the surround when
/// something else is near.
bool locate_stretch(const MeasuringPicture& picture, const Vec2& from, const Vec2& to, double widest,
                    std::vector<Vec2>& points) {
    const double length = (to - from).norm();
    const Vec2 middle = 0.5 * (from + to), along = (to - from) / length, across(-along.y(), along.x());
    constexpr std::size_t enough = 40;
    constexpr double piece = 10, narrow = 4;
    for (const double half_width : {widest, narrow})
        for (const EdgeShape shape : {EdgeShape::step, EdgeShape::ridge}) {
            const std::vector<EdgeSample> samples = samples_along(picture, Channel::green, from, to, half_width);
            if (samples.size() < enough) return false;
            const StepFit fit = fit_step(samples, 0.5 * length, half_width, shape);
            const double off = std::abs(fit.p(2)) + std::abs(fit.p(3)) + std::abs(fit.p(4));
            if (std::abs(fit.step()) < 0.01 || fit.rms > 0.15 * std::abs(fit.step()) || off > 0.7 * half_width)
                continue;
            for (const Vec2& p : places_of_pieces(samples, fit, piece))
                points.push_back(middle + along * p.x() + across * p.y());
            return true;
        }
    return false;
}

/// Locates the edge between two places in stretches, because a long edge is bent by the lens.
Segment located(const MeasuringPicture& picture, const Vec2& from, const Vec2& to, double half_width) {
    Segment out;
    out.from = from;
    out.to = to;
    constexpr double shortest = 12, stretch = 120;
    const double length = (to - from).norm();
    if (length < shortest) return out;
    const int count = static_cast<int>(std::ceil(length / stretch));
    int found = 0;
    for (int k = 0; k < count; ++k) {
        const Vec2 step = (to - from) / count;
        found += locate_stretch(picture, from + k * step, from + (k + 1) * step, half_width, out.points);
    }
    if (2 * found < count) out.points.clear();
    return out;
}

/// Light in the form that the detector needs: eight bits, with noise that is equal at all levels.
cv::Mat1b for_detector(const cv::Mat1f& light) {
    cv::Mat1f root;
    cv::sqrt(cv::max(light, 0), root);
    double most = 0;
    cv::minMaxLoc(root, nullptr, &most);
    cv::Mat1b out;
    root.convertTo(out, CV_8U, most > 0 ? 255 / most : 0);
    return out;
}

}  // namespace

std::vector<Segment> find_segments(const MeasuringPicture& picture, double least_px, const Progress& progress) {
    const ScenePicture scene = scene_picture(picture);
    std::vector<cv::Vec4f> found;
    cv::createLineSegmentDetector(cv::LSD_REFINE_STD)->detect(for_detector(scene.light), found);
    progress.check();
    std::vector<Segment> segments(found.size());
    parallel_for(static_cast<int>(found.size()), [&](int i) {
        const cv::Vec4f& f = found[i];
        const Vec2 from = scene.place({f[0], f[1]}), to = scene.place({f[2], f[3]});
        if (progress.cancelled() || (to - from).norm() < least_px) return;
        // The ends are cut a little, because other edges meet there.
        const Vec2 cut = 0.05 * (to - from);
        constexpr double half_width = 7;
        segments[i] = located(picture, from + cut, to - cut, half_width);
    });
    progress.check();
    segments.erase(
        std::remove_if(segments.begin(), segments.end(), [](const Segment& s) { return s.points.size() < 4; }),
        segments.end());
    return segments;
}

Segment locate_segment(const MeasuringPicture& picture, const Vec2& from, const Vec2& to, double within_px) {
    return located(picture, from, to, within_px);
}

Vec3 StraightLine::normal(const Vec2& centre, double focal_px) const {
    const auto ray = [&](const Vec2& p) {
        const Vec2 flat = (p - centre) / focal_px;
        return Vec3(flat.x(), flat.y(), 1);
    };
    const Vec2 half = 0.5 * std::max(1.0, length) * direction;
    return ray(middle - half).cross(ray(middle + half)).normalized();
}

FittedLine::FittedLine(const std::vector<Vec2>& points) {
    for (const Vec2& p : points) middle += p / static_cast<double>(points.size());
    Eigen::Matrix2d spread = Eigen::Matrix2d::Zero();
    for (const Vec2& p : points) spread += (p - middle) * (p - middle).transpose();
    direction = symmetric_modes(spread).vectors.col(1);
}

std::optional<StraightLine> straight_line(const Segment& segment, const FrameMap& lens) {
    std::vector<Vec2> points;
    for (const Vec2& p : segment.points)
        if (const auto at = lens.ideal(p)) points.push_back(*at);
    constexpr std::size_t least = 4;
    StraightLine out;
    for (int round = 0; round < 4; ++round) {
        if (points.size() < least) return std::nullopt;
        const FittedLine line(points);
        out.middle = line.middle;
        out.direction = line.direction;
        std::vector<double> off;
        double low = 0, high = 0, along = 0, square = 0;
        for (const Vec2& p : points) {
            const double t = line.along(p), d = line.across(p);
            off.push_back(std::abs(d));
            low = std::min(low, t);
            high = std::max(high, t);
            along += t * t;
            square += d * d;
        }
        const auto n = static_cast<double>(points.size());
        out.length = high - low;
        out.rms_px = std::sqrt(square / n);
        // The ends of an edge have an uncertainty of at least a fiftieth of a pixel.
        out.sigma = std::hypot(std::sqrt(square / std::max(1.0, n - 2) / along), 0.02 / std::max(1.0, out.length));
        const double limit = std::max(0.05, 3 * 1.4826 * median(off));
        std::vector<Vec2> kept;
        for (std::size_t i = 0; i < points.size(); ++i)
            if (off[i] <= limit) kept.push_back(points[i]);
        if (kept.size() == points.size()) break;
        points = std::move(kept);
    }
    return out;
}

}  // namespace optrel

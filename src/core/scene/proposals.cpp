// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/proposals.h"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>

#include "base/error.h"

namespace optrel {

namespace {

/// Distances (px, without distortion) of points from the straight line fitted to each segment.
std::vector<double> bows(const std::vector<Segment>& lines, const FrameMap& lens) {
    std::vector<double> out;
    for (const Segment& s : lines) {
        std::vector<Vec2> points;
        for (const Vec2& p : s.points)
            if (const auto at = lens.ideal(p)) points.push_back(*at);
        if (points.size() < 8) continue;
        const FittedLine line(points);
        for (const Vec2& p : points) out.push_back(line.across(p));
    }
    return out;
}

double root_mean_square(const std::vector<double>& v) {
    double sum = 0;
    for (const double x : v) sum += x * x;
    return v.empty() ? 0 : std::sqrt(sum / static_cast<double>(v.size()));
}

}  // namespace

DistortionProposal propose_distortion(const std::vector<Segment>& lines, const std::function<FrameMap(double)>& with) {
    DistortionProposal out;
    out.lines = static_cast<int>(lines.size());
    std::vector<double> now = bows(lines, with(0));
    if (now.empty())
        throw input_error(
            "No line is long enough to say how the lens distorts; mark edges that are straight and long.");
    out.before_px = root_mean_square(now);
    double d = 0, information = 0, variance = 0;
    constexpr double step = 1e-4, most = 0.3;
    for (int round = 0; round < 20; ++round) {
        const std::vector<double> here = bows(lines, with(d)), more = bows(lines, with(d + step)),
                                  less = bows(lines, with(d - step));
        if (more.size() != here.size() || less.size() != here.size()) break;  // a point left the range of the lens
        information = 0;
        double right = 0;
        // Huber's weights, so that an obstacle before the edge does not bend the line.
        const double knee = std::max(0.05, 1.5 * root_mean_square(here));
        for (std::size_t i = 0; i < here.size(); ++i) {
            const double by = (more[i] - less[i]) / (2 * step),
                         weight = std::min(1.0, knee / std::max(1e-9, std::abs(here[i])));
            information += weight * by * by;
            right += weight * by * here[i];
        }
        if (!(information > 0)) break;
        const double change = std::clamp(-right / information, -0.05, 0.05);
        d = std::clamp(d + change, -most, most);
        variance = std::pow(root_mean_square(here), 2);
        if (std::abs(change) < 1e-8) break;
    }
    out.distortion = d;
    out.after_px = root_mean_square(bows(lines, with(d)));
    // Neighbouring points share their samples, so they are not independent.
    out.sigma = information > 0 ? std::sqrt(2 * std::max(variance, 1e-4) / information) : 1;
    constexpr double useless = 0.02;
    if (out.sigma > useless)
        throw input_error(
            "The marked lines do not say how the lens distorts: they are short, or pass through the middle; mark long "
            "ones "
            "near the edges of the picture.");
    return out;
}

double straightening_distortion(const Vec2& from, const Vec2& middle, const Vec2& to,
                                const std::function<FrameMap(double)>& with) {
    // Distance of the middle point from the line, px.
    const auto beside = [&](double d) -> std::optional<double> {
        const FrameMap lens = with(d);
        const auto a = lens.ideal(from), m = lens.ideal(middle), b = lens.ideal(to);
        if (!a || !m || !b || (*b - *a).norm() < 1) return std::nullopt;
        const Vec2 along = (*b - *a).normalized();
        return along.x() * (*m - *a).y() - along.y() * (*m - *a).x();
    };
    constexpr double most = 0.3, step = 1e-3;
    double d = 0;
    for (int round = 0; round < 40; ++round) {
        const auto here = beside(d), more = beside(d + step), less = beside(d - step);
        if (!here || !more || !less) break;
        const double slope = (*more - *less) / (2 * step);
        // Distortion must be effective: one percent moves the point by at least a tenth of a pixel.
        if (std::abs(slope) < 10)
            throw input_error(
                "That line passes so near the middle of the picture that distortion leaves it straight; bend one "
                "further out.");
        const double change = std::clamp(-*here / slope, -0.05, 0.05);
        d += change;
        if (std::abs(d) > most) break;
        if (std::abs(change) < 1e-7) return d;
    }
    throw input_error("No distortion within 30 % makes that line straight; bend it less.");
}

namespace {

/// The light of a small part of an area as log2, with its field height.
struct LightBlock {
    double height, light;
};

/// Blocks of green light, corrected by the lens. Throws when the area is clipped.
std::vector<LightBlock> light_blocks(const MeasuringPicture& picture, const cv::Rect& area, const FrameMap& lens) {
    constexpr int across = 24;
    const double half = lens.geometry().half_diagonal_px();
    const double wide = double(area.width) / across, high = double(area.height) / across;
    std::vector<LightBlock> blocks;
    double clipped = 0, all = 0;
    for (const SamplePlane& p : picture.planes) {
        if (p.channel != Channel::green) continue;
        const auto sample = [&](double place, double origin) { return static_cast<int>((place - origin) / p.step); };
        for (int j = 0; j < across; ++j)
            for (int i = 0; i < across; ++i) {
                const double u = area.x + (i + 0.5) * wide, v = area.y + (j + 0.5) * high;
                const cv::Rect cell =
                    cv::Rect(cv::Point(sample(u - 0.4 * wide, p.u0), sample(v - 0.4 * high, p.v0)),
                             cv::Point(sample(u + 0.4 * wide, p.u0) + 1, sample(v + 0.4 * high, p.v0) + 1)) &
                    cv::Rect({0, 0}, p.values.size());
                if (cell.area() < 4) continue;
                const cv::Mat1f values = p.values(cell);
                clipped += cv::countNonZero(values >= 0.995f);
                all += cell.area();
                const double light = cv::mean(values)[0] * lens.gain(Channel::green, {u, v});
                if (light > 1e-4)
                    blocks.push_back({(Vec2(u, v) - lens.falloff_centre()).norm() / half, std::log2(light)});
            }
    }
    if (clipped > 0.01 * all) throw input_error("The marked area is clipped; mark one that is not at the white level.");
    return blocks;
}

/// Least squares of light = level - ev t^2, starting at a height; and the remaining sum of squares.
struct LightFit {
    double ev = 0, sigma = 0, left = 1e300;
};
LightFit fit_light(const std::vector<LightBlock>& blocks, double from) {
    const auto term = [&](const LightBlock& b) {
        const double beyond = std::max(0.0, (b.height - from) / (1 - from));
        return -beyond * beyond;
    };
    double st = 0, stt = 0, sl = 0, stl = 0;
    for (const LightBlock& b : blocks) {
        const double t = term(b);
        st += t;
        stt += t * t;
        sl += b.light;
        stl += t * b.light;
    }
    const auto n = static_cast<double>(blocks.size());
    const double det = n * stt - st * st;
    LightFit out;
    if (det < 1e-6 * n) return out;
    out.ev = (n * stl - st * sl) / det;
    const double level = (sl - out.ev * st) / n;
    out.left = 0;
    for (const LightBlock& b : blocks) out.left += std::pow(b.light - level - out.ev * term(b), 2);
    out.sigma = std::sqrt(out.left / (n - 3) * n / det);
    return out;
}

}  // namespace

LightProposal propose_light(const MeasuringPicture& picture, const cv::Rect& area, const FrameMap& lens) {
    const std::vector<LightBlock> blocks = light_blocks(picture, area, lens);
    const auto lower = [](const LightBlock& a, const LightBlock& b) { return a.height < b.height; };
    const auto [low, high] = std::minmax_element(blocks.begin(), blocks.end(), lower);
    if (blocks.size() < 30 || high->height - low->height < 0.35)
        throw input_error(
            "The marked area is too small to say how the light falls off; mark one that reaches from near the middle "
            "towards a corner.");
    LightProposal out;
    LightFit best;
    for (int percent = 0; percent <= 80; ++percent) {
        const LightFit fit = fit_light(blocks, percent / 100.0);
        if (fit.left >= best.left) continue;
        best = fit;
        out.light_from = percent / 100.0;
    }
    out.light_ev = std::clamp(best.ev, -4.0, 4.0);
    out.sigma_ev = best.sigma;
    double mean = 0, before = 0;
    const auto n = static_cast<double>(blocks.size());
    for (const LightBlock& b : blocks) mean += b.light / n;
    for (const LightBlock& b : blocks) before += std::pow(b.light - mean, 2);
    const auto percent = [&](double square) { return 100 * (std::exp2(std::sqrt(square / n)) - 1); };
    out.before_percent = percent(before);
    out.after_percent = percent(best.left);
    return out;
}

}  // namespace optrel

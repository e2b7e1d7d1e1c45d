// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/dust.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "base/error.h"
#include "base/median.h"
#include "base/words.h"
#include "frames/picture.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr int edge_px = 24;

/// The green light of a frame on a regular grid.
struct Light {
    cv::Mat1f values;
    double u0 = 0, v0 = 0, step = 1;
};

Light light_of(const MeasuringPicture& picture) {
    Light out;
    const std::vector<const SamplePlane*> planes = picture.for_search(Channel::green);
    for (const SamplePlane* plane : planes) {
        out.step = plane->step;
        out.u0 += plane->u0 / static_cast<double>(planes.size());
        out.v0 += plane->v0 / static_cast<double>(planes.size());
        if (out.values.empty()) {
            out.values = plane->values.clone();
            continue;
        }
        const cv::Rect common(0, 0, std::min(out.values.cols, plane->values.cols),
                              std::min(out.values.rows, plane->values.rows));
        out.values = out.values(common) + plane->values(common);
    }
    return out;
}

/// Light over its surround, less 1. The surround is a median over some tens of samples, which no spot moves.
cv::Mat1f relative_to_surround(const cv::Mat1f& light) {
    constexpr int block = 16;
    const cv::Size blocks(std::max(1, light.cols / block), std::max(1, light.rows / block));
    cv::Mat1f small, smooth, surround;
    cv::resize(light, small, blocks, 0, 0, cv::INTER_AREA);
    cv::copyMakeBorder(small, smooth, 3, 3, 3, 3, cv::BORDER_REFLECT);
    cv::medianBlur(smooth, smooth, 5);
    cv::GaussianBlur(smooth, smooth, {5, 5}, 1);
    cv::resize(smooth(cv::Rect({3, 3}, blocks)), surround, light.size(), 0, 0, cv::INTER_CUBIC);
    cv::Mat1f out;
    cv::divide(light, cv::max(surround, 1e-6f), out);
    return out - 1.f;
}

/// Dust covers a small part of a flat field; edges and detail cover more.
constexpr double most_uneven = 0.02;

/// Share of the picture that differs from its surround by more than a tenth, noise aside.
double uneven_share(const cv::Mat1f& light) {
    cv::Mat1f calm;
    cv::GaussianBlur(relative_to_surround(light), calm, {0, 0}, 2);
    return static_cast<double>(cv::countNonZero(cv::abs(calm) > 0.1f)) / static_cast<double>(calm.total());
}

/// Throws Error(input) for a frame that is dark, overexposed or no flat field. `planes`: summed in the light.
void require_flat(const Light& light, std::size_t planes, const fs::path& path) {
    const double mean = cv::mean(light.values)[0] / static_cast<double>(std::max<std::size_t>(1, planes));
    if (mean < 0.02 || mean > 0.95)
        throw input_error(fmt::format("{} is {}; expose a flat field at about half of the white level.",
                                      printable(path.string()), mean < 0.02 ? "too dark to show dust" : "overexposed"));
    if (uneven_share(light.values) > most_uneven)
        throw input_error(
            fmt::format("{} shows more than an even surface, so shadows on it tell nothing of dust; use flat fields.",
                        printable(path.string())));
}

/// One sigma of values, whatever a few spots do.
double spread_of(const cv::Mat1f& values) {
    std::vector<double> sizes;
    const int step = std::max(1, static_cast<int>(std::sqrt(values.total() / 60000.0)));
    for (int y = 0; y < values.rows; y += step)
        for (int x = 0; x < values.cols; x += step) sizes.push_back(std::abs(values(y, x)));
    return sizes.empty() ? 0 : 1.4826 * median(sizes);
}

cv::Mat1f reduced_to_look_at(const cv::Mat1f& relative) {
    constexpr int most = 1200;
    if (relative.cols <= most) return relative.clone();
    cv::Mat1f out;
    cv::resize(relative, out, {most, std::max(1, relative.rows * most / relative.cols)}, 0, 0, cv::INTER_AREA);
    return out;
}

struct Candidate {
    cv::Point at;
    double scale, sigmas;
};

/// Local minima of the smoothed light, at scales from 1 to 16 samples.
class Scales {
public:
    explicit Scales(const cv::Mat1f& relative) {
        for (double scale = 1; scale <= 16; scale *= 2) {
            Level level{scale, {}, 0};
            cv::GaussianBlur(relative, level.smooth, {0, 0}, scale, scale, cv::BORDER_REFLECT_101);
            // What is slower than the spot is falloff that the surround left.
            cv::Mat1f slow;
            cv::GaussianBlur(relative, slow, {0, 0}, 4 * scale, 4 * scale, cv::BORDER_REFLECT_101);
            level.smooth -= slow;
            level.spread = std::max(1e-7, spread_of(level.smooth));
            levels_.push_back(std::move(level));
        }
    }

    std::vector<Candidate> candidates(int margin) const {
        std::vector<Candidate> out;
        for (const Level& level : levels_) {
            cv::Mat1f lowest;
            const int reach = 2 * static_cast<int>(std::ceil(level.scale)) + 1;
            cv::erode(level.smooth, lowest, cv::getStructuringElement(cv::MORPH_RECT, {reach, reach}));
            for (int y = margin; y < level.smooth.rows - margin; ++y)
                for (int x = margin; x < level.smooth.cols - margin; ++x) {
                    const double v = level.smooth(y, x);
                    if (v >= 0 || v > lowest(y, x)) continue;
                    if (const double sigmas = -v / level.spread; sigmas >= dust_sigmas)
                        out.push_back({{x, y}, level.scale, sigmas});
                }
        }
        std::sort(out.begin(), out.end(), [](const Candidate& a, const Candidate& b) { return a.sigmas > b.sigmas; });
        return out;
    }

private:
    struct Level {
        double scale;
        cv::Mat1f smooth;
        double spread;
    };
    std::vector<Level> levels_;
};

/// A Gaussian shadow on an even surround, by least squares over radii.
DustSpot fitted(const cv::Mat1f& relative, const Candidate& c) {
    DustSpot best;
    double least = 1e300;
    const int reach = static_cast<int>(std::ceil(5 * c.scale)) + 3;
    const cv::Rect around =
        cv::Rect(c.at.x - reach, c.at.y - reach, 2 * reach + 1, 2 * reach + 1) & cv::Rect({0, 0}, relative.size());
    // The middle: the centroid of what is dark near the minimum.
    double weight = 0, mx = 0, my = 0;
    const double near = 2 * c.scale;
    for (int y = around.y; y < around.br().y; ++y)
        for (int x = around.x; x < around.br().x; ++x) {
            if (std::hypot(x - c.at.x, y - c.at.y) > near) continue;
            const double dark = std::max(0.f, -relative(y, x));
            weight += dark;
            mx += dark * x;
            my += dark * y;
        }
    const double cx = weight > 0 ? mx / weight : c.at.x, cy = weight > 0 ? my / weight : c.at.y;
    for (double radius = 0.4 * c.scale; radius <= 2.6 * c.scale; radius *= 1.08) {
        double n = 0, g1 = 0, g2 = 0, v1 = 0, gv = 0, v2 = 0;
        for (int y = around.y; y < around.br().y; ++y)
            for (int x = around.x; x < around.br().x; ++x) {
                const double d = std::hypot(x - cx, y - cy) / radius, g = -std::exp(-0.5 * d * d), v = relative(y, x);
                n += 1;
                g1 += g;
                g2 += g * g;
                v1 += v;
                gv += g * v;
                v2 += v * v;
            }
        const double spread = n * g2 - g1 * g1;
        if (!(spread > 1e-9)) continue;
        const double depth = (n * gv - g1 * v1) / spread, level = (v1 - depth * g1) / n;
        const double left = v2 - depth * gv - level * v1;
        if (left >= least) continue;
        least = left;
        best.place = {cx, cy};
        best.radius_px = radius;
        best.depth_percent = 100 * depth;
        best.sigma_percent = 100 * std::sqrt(std::max(0.0, left) / std::max(1.0, n - 3) * n / spread);
    }
    return best;
}

}  // namespace

DustFound find_dust(const std::vector<fs::path>& flats, Progress& progress) {
    DustFound out;
    Light sum;
    int used = 0;
    progress.start(static_cast<int>(flats.size()), "Reading flat fields");
    for (const fs::path& path : flats) {
        progress.check();
        try {
            const MeasuringPicture picture = read_for_measuring(path);
            Light light = light_of(picture);
            require_flat(light, picture.for_search(Channel::green).size(), path);
            if (used > 0 && light.values.size() != sum.values.size())
                throw input_error(
                    fmt::format("{} has another size than the flat fields before it; use flat fields of one "
                                "body.",
                                printable(path.string())));
            if (used++ == 0) {
                sum = std::move(light);
                out.width = picture.width;
                out.height = picture.height;
            } else {
                sum.values += light.values;
            }
        } catch (const Cancelled&) {
            throw;
        } catch (const std::exception& error) {
            out.problems.push_back(reason_for(path, error));
        }
        progress.step();
    }
    if (used == 0)
        throw input_error(out.problems.empty() ? "There is no flat field to look for dust on; name some."
                                               : out.problems.front());
    // Single samples that are defect are no dust.
    cv::Mat1f calm;
    cv::medianBlur(sum.values, calm, 3);
    const cv::Mat1f relative = relative_to_surround(calm);
    out.evenness = reduced_to_look_at(relative);
    progress.check();
    for (const Candidate& c : Scales(relative).candidates(static_cast<int>(edge_px / sum.step) + 1)) {
        progress.check();
        DustSpot spot = fitted(relative, c);
        if (!(spot.depth_percent > dust_sigmas * spot.sigma_percent)) continue;
        spot.place = Vec2(sum.u0, sum.v0) + spot.place * sum.step;
        spot.radius_px *= sum.step;
        const bool known = std::any_of(out.spots.begin(), out.spots.end(), [&](const DustSpot& other) {
            return (other.place - spot.place).norm() < 2.5 * std::max(other.radius_px, spot.radius_px);
        });
        if (!known) out.spots.push_back(spot);
    }
    std::sort(out.spots.begin(), out.spots.end(),
              [](const DustSpot& a, const DustSpot& b) { return a.depth_percent > b.depth_percent; });
    return out;
}

}  // namespace optrel

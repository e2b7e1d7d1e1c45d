// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/opcode_fit.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "optics/linear.h"
#include "optics/picture_view.h"

namespace optrel {

namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

constexpr std::array<Channel, 3> channels{Channel::red, Channel::green, Channel::blue};

/// Positions in the frame of the light of one place of the corrected picture, by plane.
struct Pair {
    Vec2 place;
    std::array<Vec2, 3> frame;
};

/// The picture scaled about the lens axis, which a warp does not move.
PictureView view_of(const FrameMap& lens, double scale) {
    PictureView::Settings settings;
    settings.scale = scale;
    settings.shift = (lens.centre() - lens.geometry().middle()) * (1 - scale);
    return {lens, settings};
}

/// Pairs over a grid, within the frame.
std::vector<Pair> pairs_of(const FrameMap& lens, double scale, int across, int down) {
    const PictureView view = view_of(lens, scale);
    std::vector<Pair> out;
    for (const Vec2& place : picture_grid(lens.geometry(), across, down)) {
        const std::optional<Vec2> green = view.green(place);
        if (!green || !lens.geometry().contains(*green)) continue;
        Pair pair{place, {}};
        for (int c = 0; c < 3; ++c)
            pair.frame[c] = channels[c] == Channel::green ? *green : lens.fringe(channels[c], *green);
        out.push_back(pair);
    }
    return out;
}

/// The terms of a warp at d = (place - centre) / m: columns, each a displacement in units of m.
struct RectilinearTerms {
    static constexpr int count = 6;
    static Eigen::Matrix<double, 2, count> at(const Vec2& d) {
        const double q = d.squaredNorm(), xy = 2 * d.x() * d.y();
        Eigen::Matrix<double, 2, count> out;
        out << d, q * d, q * q * d, q * q * q * d, Vec2(xy, q + 2 * d.y() * d.y()), Vec2(q + 2 * d.x() * d.x(), xy);
        return out;
    }
    using Warp = WarpRectilinear;
};
struct FisheyeTerms {
    static constexpr int count = 4;
    static Eigen::Matrix<double, 2, count> at(const Vec2& d) {
        const double r = d.norm(), a = std::atan(r), q = a * a;
        const Vec2 unit = r < 1e-9 ? d : Vec2(a / r * d);
        Eigen::Matrix<double, 2, count> out;
        out << unit, q * unit, q * q * unit, q * q * q * unit;
        return out;
    }
    using Warp = WarpFisheye;
};

/// The best coefficients for one centre, and their residuals (px), plane after plane.
template <class Terms>
struct Fit {
    std::array<std::array<double, Terms::count>, 3> planes;
    VectorXd left;
};

template <class Terms>
Fit<Terms> fit_at(const std::vector<Pair>& pairs, const OpcodeFrame& frame) {
    const Eigen::Index rows = 2 * static_cast<Eigen::Index>(pairs.size());
    MatrixXd terms(rows, Terms::count);
    for (Eigen::Index i = 0; i < rows / 2; ++i)
        terms.middleRows<2>(2 * i) = Terms::at((pairs[i].place - frame.centre) / frame.m);
    const LeastSquares solver(terms);
    Fit<Terms> out;
    out.left.resize(3 * rows);
    for (int c = 0; c < 3; ++c) {
        VectorXd wanted(rows);
        for (Eigen::Index i = 0; i < rows / 2; ++i)
            wanted.segment<2>(2 * i) = (pairs[i].frame[c] - frame.centre) / frame.m;
        const VectorXd k = solver.solve(wanted);
        std::copy(k.begin(), k.end(), out.planes[c].begin());
        out.left.segment(c * rows, rows) = frame.m * (terms * k - wanted);
    }
    return out;
}

Vec2 relative(const Vec2& centre, const PictureGeometry& g) {
    return {(centre.x() - 0.5) / (g.width - 1), (centre.y() - 0.5) / (g.height - 1)};
}

/// Gauss-Newton on the centre; the coefficients are eliminated (variable projection). `pairs` may depend on the
/// distance of the farthest corner.
template <class Terms, class Pairs>
Vec2 best_centre(const PictureGeometry& g, Vec2 centre, const Pairs& pairs) {
    const auto left = [&](const Vec2& at) {
        const OpcodeFrame frame = opcode_frame(relative(at, g), g);
        return fit_at<Terms>(pairs(frame), frame).left;
    };
    constexpr double step = 0.5;
    VectorXd now = left(centre);
    for (int i = 0; i < 8; ++i) {
        MatrixXd slope(now.size(), 2);
        slope.col(0) = (left(centre + Vec2(step, 0)) - left(centre - Vec2(step, 0))) / (2 * step);
        slope.col(1) = (left(centre + Vec2(0, step)) - left(centre - Vec2(0, step))) / (2 * step);
        const Eigen::Matrix2d normal = slope.transpose() * slope;
        if (!(normal.determinant() > 1e-12)) break;  // without distortion the centre is arbitrary
        const Vec2 downhill = slope.transpose() * now;
        Vec2 move = -solve_symmetric(normal, downhill);
        const double longest = 0.02 * g.half_diagonal_px();
        if (move.norm() > longest) move *= longest / move.norm();
        const VectorXd then = left(centre + move);
        if (!(then.squaredNorm() < now.squaredNorm())) break;
        centre += move;
        now = then;
        if (move.norm() < 1e-3) break;
    }
    return centre;
}

void judge(OpcodeWarp& out, const std::vector<Pair>& pairs, const PictureGeometry& g) {
    double sum = 0;
    for (const Pair& p : pairs)
        for (int c = 0; c < 3; ++c) {
            const auto* straight = std::get_if<WarpRectilinear>(&out.warp.what);
            const Vec2 at = straight ? warped(*straight, c, p.place, g)
                                     : warped(std::get<WarpFisheye>(out.warp.what), c, p.place, g);
            const double miss = (at - p.frame[c]).norm();
            sum += miss * miss;
            out.largest_px = std::max(out.largest_px, miss);
            if (channels[c] == Channel::green) out.green_largest_px = std::max(out.green_largest_px, miss);
        }
    out.rms_px = std::sqrt(sum / (3 * static_cast<double>(pairs.size())));
}

template <class Terms, class Scale>
OpcodeWarp carried(const FrameMap& lens, const Scale& scale_for) {
    const PictureGeometry& g = lens.geometry();
    const auto pairs = [&](const OpcodeFrame& frame) { return pairs_of(lens, scale_for(frame), 41, 31); };
    if (pairs(opcode_frame(relative(lens.centre(), g), g)).size() < 100)
        throw input_error("The lens model reaches too little of the picture for a raw copy to carry it; use a TIFF.");
    const Vec2 centre = best_centre<Terms>(g, lens.centre(), pairs);
    const OpcodeFrame frame = opcode_frame(relative(centre, g), g);
    const Fit<Terms> fit = fit_at<Terms>(pairs(frame), frame);
    typename Terms::Warp warp;
    warp.planes.assign(fit.planes.begin(), fit.planes.end());
    warp.centre = relative(centre, g);
    OpcodeWarp out;
    out.warp.what = warp;
    out.scale = scale_for(frame);
    judge(out, pairs_of(lens, out.scale, 67, 51), g);
    return out;
}

double percent(double factor) { return 100 * (factor - 1); }

FixVignetteRadial radial_fit(const FrameMap& lens, const std::vector<Vec2>& places) {
    const PictureGeometry& g = lens.geometry();
    FixVignetteRadial out;
    out.centre = relative(lens.falloff_centre(), g);
    const OpcodeFrame frame = opcode_frame(out.centre, g);
    // Fits relative errors of the mean gain of the planes.
    MatrixXd terms(static_cast<Eigen::Index>(places.size()), 5);
    VectorXd wanted(terms.rows());
    for (Eigen::Index i = 0; i < terms.rows(); ++i) {
        double mean = 0;
        for (const Channel c : channels) mean += lens.gain(c, places[i]) / 3;
        const double q = (places[i] - frame.centre).squaredNorm() / (frame.m * frame.m);
        double power = 1;
        for (int k = 0; k < 5; ++k) terms(i, k) = (power *= q) / mean;
        wanted[i] = 1 - 1 / mean;
    }
    const VectorXd k = least_squares(terms, wanted);
    std::copy(k.begin(), k.end(), out.k.begin());
    return out;
}

GainMap map_of(const FrameMap& lens, Channel channel) {
    const PictureGeometry& g = lens.geometry();
    GainMap out;
    out.bottom = static_cast<std::uint32_t>(g.height);
    out.right = static_cast<std::uint32_t>(g.width);
    out.across = 65;
    out.down = 49;
    out.spacing_across = 1.0 / (out.across - 1);
    out.spacing_down = 1.0 / (out.down - 1);
    for (const Vec2& place : picture_grid(g, static_cast<int>(out.across), static_cast<int>(out.down)))
        out.gain.push_back(static_cast<float>(lens.gain(channel, place)));
    return out;
}

/// Errors of `gain(channel, place)` against the lens over the frame.
template <class Gain>
void judge(OpcodeGain& out, const FrameMap& lens, const std::vector<Vec2>& places, const Gain& gain) {
    double sum = 0;
    out.largest_percent = 0;
    for (const Vec2& place : places)
        for (int c = 0; c < 3; ++c) {
            const double miss = std::abs(percent(gain(c, place) / lens.gain(channels[c], place)));
            sum += miss * miss;
            out.largest_percent = std::max(out.largest_percent, miss);
        }
    out.rms_percent = std::sqrt(sum / (3 * static_cast<double>(places.size())));
}

}  // namespace

OpcodeWarp carried_geometry(const FrameMap& lens, double scale, bool angular) {
    OpcodeWarp straight = carried<RectilinearTerms>(lens, [=](const OpcodeFrame&) { return scale; });
    if (!angular) return straight;
    OpcodeWarp turned =
        carried<FisheyeTerms>(lens, [&](const OpcodeFrame& frame) { return frame.m / lens.focal_px(); });
    return turned.largest_px < straight.largest_px ? turned : straight;
}

OpcodeGain carried_falloff(const FrameMap& lens, SampleLayout layout, const SitePattern<int>& filter, double enough) {
    const PictureGeometry& g = lens.geometry();
    const std::vector<Vec2> places = picture_grid(g, 67, 45);
    OpcodeGain out;
    const FixVignetteRadial radial = radial_fit(lens, places);
    judge(out, lens, places, [&](int, const Vec2& place) { return gain_at(radial, place, g); });
    if (out.largest_percent <= enough) {
        out.opcodes = {{radial}};
        return out;
    }
    out.in_mosaic = layout == SampleLayout::bayer;
    std::array<GainMap, 3> of_channel;
    if (out.in_mosaic) {
        for (int row = 0; row < 2; ++row)
            for (int column = 0; column < 2; ++column) {
                const int channel = filter.at(row, column);
                GainMap& map = of_channel[channel] = map_of(lens, static_cast<Channel>(channel));
                map.top = static_cast<std::uint32_t>(row);
                map.left = static_cast<std::uint32_t>(column);
                map.row_pitch = map.column_pitch = 2;
                out.opcodes.push_back({map});
            }
    } else if (layout == SampleLayout::monochrome) {
        of_channel.fill(map_of(lens, Channel::green));
        out.opcodes.push_back({of_channel[0]});
    } else {
        for (int c = 0; c < 3; ++c) {
            of_channel[c] = map_of(lens, channels[c]);
            of_channel[c].plane = static_cast<std::uint32_t>(c);
            out.opcodes.push_back({of_channel[c]});
        }
    }
    judge(out, lens, places, [&](int c, const Vec2& place) { return gain_at(of_channel[c], 0, place, g); });
    return out;
}

double gain_at(const GainMap& map, int map_plane, const Vec2& place, const PictureGeometry& geometry) {
    const auto along = [](double at, double origin, double spacing, std::uint32_t points) {
        const double i = spacing > 0 ? (at - origin) / spacing : 0;
        return std::clamp(i, 0.0, double(points - 1));
    };
    const double x = along(place.x() / geometry.width, map.origin_across, map.spacing_across, map.across),
                 y = along(place.y() / geometry.height, map.origin_down, map.spacing_down, map.down);
    const auto i = static_cast<std::uint32_t>(x), j = static_cast<std::uint32_t>(y);
    const std::uint32_t right = std::min(i + 1, map.across - 1), below = std::min(j + 1, map.down - 1);
    const auto at = [&](std::uint32_t row, std::uint32_t column) {
        return double(map.gain[(std::size_t(row) * map.across + column) * map.map_planes + map_plane]);
    };
    const double top = at(j, i) + (x - i) * (at(j, right) - at(j, i)),
                 bottom = at(below, i) + (x - i) * (at(below, right) - at(below, i));
    return top + (y - j) * (bottom - top);
}

}  // namespace optrel

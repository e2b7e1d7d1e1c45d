// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/inside_crop.h"

#include <fmt/format.h>

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <vector>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"
#include "optics/linear.h"

namespace optrel {

namespace {

Error no_crop(const std::string& text) {
    return input_error(
        fmt::format("'{}' is no crop; write none, largest, largest as frame, largest and a proportion such as 3:2, or "
                    "at with left, top, width and height in percent, for instance at 10 5 80 90.",
                    text));
}

}  // namespace

CropRequest crop_wish(const std::string& text) {
    CropRequest wish;
    if (text == "none") return wish;
    if (text == "largest" || text == "largest as frame") {
        wish.kind = text == "largest" ? CropRequest::Kind::largest : CropRequest::Kind::as_frame;
        return wish;
    }
    if (text.rfind("largest ", 0) == 0) {
        const auto sides = parse_pair(std::string_view(text).substr(8), ':');
        if (!sides) throw no_crop(text);
        const double proportion = sides->first / sides->second;
        if (!(proportion >= 0.05 && proportion <= 20))
            throw input_error(
                fmt::format("The proportion in '{}' is out of range; choose one between 1:20 and 20:1.", text));
        wish.kind = CropRequest::Kind::proportion;
        wish.proportion = proportion;
        return wish;
    }
    if (text.rfind("at ", 0) != 0) throw no_crop(text);
    std::vector<double> share;
    for (const std::string& part : listed(std::string_view(text).substr(3), ' ')) {
        const std::optional<double> percent = parse_number(part);
        if (!percent) throw no_crop(text);
        share.push_back(*percent / 100);
    }
    if (share.size() != 4) throw no_crop(text);
    wish.kind = CropRequest::Kind::at;
    wish.share = {share[0], share[1], share[2], share[3]};
    const Crop& s = wish.share;
    if (!(s.width >= 0.01 && s.height >= 0.01))
        throw input_error(fmt::format("The crop '{}' keeps nothing; keep at least 1 percent each way.", text));
    if (!(s.left >= 0 && s.top >= 0 && s.left + s.width <= 1 + 1e-9 && s.top + s.height <= 1 + 1e-9))
        throw input_error(
            fmt::format("The crop '{}' reaches beyond the picture; keep left plus width, and top plus height, within "
                        "100 percent.",
                        text));
    return wish;
}

std::string to_text(const CropRequest& wish) {
    switch (wish.kind) {
        case CropRequest::Kind::none: return "none";
        case CropRequest::Kind::largest: return "largest";
        case CropRequest::Kind::as_frame: return "largest as frame";
        case CropRequest::Kind::proportion: return fmt::format("largest {:.6g}:1", wish.proportion);
        case CropRequest::Kind::at: break;
    }
    return fmt::format("at {:.6g} {:.6g} {:.6g} {:.6g}", 100 * wish.share.left, 100 * wish.share.top,
                       100 * wish.share.width, 100 * wish.share.height);
}

namespace {

using Rect = Eigen::Vector4d;  ///< left, top, right, bottom

/// Rectangles as a linear function of the free parameters: all four sides, or the middle and width when the proportion
/// is fixed.
struct Shape {
    Eigen::MatrixXd sides;  ///< 4 x unknowns

    explicit Shape(double proportion) {
        if (proportion <= 0) {
            sides = Eigen::Matrix4d::Identity();
            return;
        }
        sides.resize(4, 3);
        sides << 1, 0, -0.5, 0, 1, -0.5 / proportion, 1, 0, 0.5, 0, 1, 0.5 / proportion;
    }
};

/// Places along the border of a rectangle, as shares of its width and height.
std::vector<Vec2> border_shares(int each) {
    std::vector<Vec2> out;
    for (int i = 0; i < each; ++i) {
        const double t = i / double(each);
        out.insert(out.end(), {Vec2(t, 0), Vec2(1, t), Vec2(1 - t, 1), Vec2(0, 1 - t)});
    }
    return out;
}

Vec2 at(const Rect& r, const Vec2& share) {
    return {r(0) + share.x() * (r(2) - r(0)), r(1) + share.y() * (r(3) - r(1))};
}

/// The smallest margin along the border of a rectangle.
double least_margin(const PictureView& view, const Rect& r, int each) {
    const PictureGeometry& g = view.geometry();
    double least = std::min({r(0), r(1), g.width - r(2), g.height - r(3)});
    for (const Vec2& share : border_shares(each)) least = std::min(least, view.margin(at(r, share)));
    return least;
}

/// The value of the barrier function with its derivatives by the sides of the rectangle; minus infinity outside.
struct Barrier {
    const PictureView& view;
    std::vector<Vec2> shares = border_shares(48);

    double value(const Rect& r, double weight, Eigen::Vector4d* slope = nullptr,
                 Eigen::Matrix4d* curvature = nullptr) const {
        const double w = r(2) - r(0), h = r(3) - r(1);
        if (!(w > 0 && h > 0)) return -INFINITY;
        const Eigen::Vector4d by_w(-1 / w, 0, 1 / w, 0), by_h(0, -1 / h, 0, 1 / h);
        double total = std::log(w) + std::log(h);
        if (slope) *slope = by_w + by_h;
        if (curvature) *curvature = by_w * by_w.transpose() + by_h * by_h.transpose();
        const double each = weight / static_cast<double>(shares.size());
        const auto hold = [&](double distance, const Eigen::Vector4d& by_sides) {
            if (!(distance > 0)) return false;
            total += each * std::log(distance);
            if (slope) *slope += each / distance * by_sides;
            if (curvature) *curvature += each / (distance * distance) * by_sides * by_sides.transpose();
            return true;
        };
        const PictureGeometry& g = view.geometry();
        if (!hold(r(0), {1, 0, 0, 0}) || !hold(r(1), {0, 1, 0, 0}) || !hold(g.width - r(2), {0, 0, -1, 0}) ||
            !hold(g.height - r(3), {0, 0, 0, -1}))
            return -INFINITY;
        for (const Vec2& share : shares)
            if (!hold_place(r, share, slope != nullptr, hold)) return -INFINITY;
        return total;
    }

    /// Distances of one place from all sides of the frame, for each colour.
    template <class Hold>
    bool hold_place(const Rect& r, const Vec2& share, bool derivatives, const Hold& hold) const {
        const Vec2 p = at(r, share);
        const std::optional<Vec2> green = view.green(p);
        if (!green) return false;
        Eigen::Matrix2d by_place = Eigen::Matrix2d::Zero();
        if (derivatives) {
            const std::optional<Eigen::Matrix2d> slope = view.slope(p, 0.5);
            if (!slope) return false;
            by_place = *slope;
        }
        Eigen::Matrix<double, 2, 4> by_sides = Eigen::Matrix<double, 2, 4>::Zero();
        by_sides.col(0) = (1 - share.x()) * by_place.col(0);
        by_sides.col(1) = (1 - share.y()) * by_place.col(1);
        by_sides.col(2) = share.x() * by_place.col(0);
        by_sides.col(3) = share.y() * by_place.col(1);
        const PictureGeometry& g = view.geometry();
        for (const Channel channel : {Channel::red, Channel::green, Channel::blue}) {
            // Red and blue follow green to within a thousandth.
            const Vec2 f = channel == Channel::green ? *green : view.lens().fringe(channel, *green);
            const Eigen::Vector4d x = by_sides.row(0).transpose(), y = by_sides.row(1).transpose();
            if (!hold(f.x(), x) || !hold(f.y(), y) || !hold(g.width - f.x(), -x) || !hold(g.height - f.y(), -y))
                return false;
        }
        return true;
    }
};

/// A place well inside the picture, as a start.
Vec2 innermost(const PictureView& view) {
    const PictureGeometry& g = view.geometry();
    Vec2 best = g.middle() + view.settings().shift;
    double most = view.margin(best);
    for (const Vec2& p : picture_grid(g, 33, 33)) {
        const double inside = std::min({p.x(), p.y(), g.width - p.x(), g.height - p.y()});
        const double margin = std::min(view.margin(p), inside);
        if (margin > most) {
            most = margin;
            best = p;
        }
    }
    if (most < 2)
        throw input_error(
            "Nothing of the frame is left in the corrected picture; turn, move or scale it less before cropping.");
    return best;
}

/// Scales a rectangle about its middle until its border just touches the edge.
Rect just_inside(const PictureView& view, const Rect& r) {
    const Rect middle(0.5 * (r(0) + r(2)), 0.5 * (r(1) + r(3)), 0.5 * (r(0) + r(2)), 0.5 * (r(1) + r(3)));
    double low = 0.5, high = 1.05;
    for (int i = 0; i < 40; ++i) {
        const double factor = 0.5 * (low + high);
        (least_margin(view, middle + factor * (r - middle), 384) < 0 ? high : low) = factor;
    }
    return middle + low * (r - middle);
}

}  // namespace

Crop largest_inside(const PictureView& view, double proportion) {
    const Barrier barrier{view};
    const Shape shape(proportion);
    const Vec2 start = innermost(view);
    Rect r;
    for (double size = 0.2 * view.geometry().height;; size *= 0.5) {
        const double tall = proportion > 0 ? size / proportion : size;
        r << start.x() - size / 2, start.y() - tall / 2, start.x() + size / 2, start.y() + tall / 2;
        if (barrier.value(r, 1) > -INFINITY) break;
        if (size < 0.1) throw input_error("The crop would be of nothing; turn, move or scale the picture less.");
    }
    for (double weight = 1; weight > 1e-7; weight *= 0.3)
        for (int step = 0; step < 12; ++step) {
            Eigen::Vector4d slope;
            Eigen::Matrix4d curvature;
            const double before = barrier.value(r, weight, &slope, &curvature);
            const Eigen::MatrixXd inner = shape.sides.transpose() * curvature * shape.sides;
            const Eigen::VectorXd outer = shape.sides.transpose() * slope;
            const Rect way = shape.sides * solve_symmetric(inner, outer);
            const double gain = slope.dot(way);
            double length = 1;
            while (length > 1e-6 && !(barrier.value(r + length * way, weight) > before + 0.1 * length * gain))
                length *= 0.5;
            if (length <= 1e-6) break;
            r += length * way;
            if (gain < 1e-9 * weight) break;
        }
    r = just_inside(view, r);
    return {r(0), r(1), r(2) - r(0), r(3) - r(1)};
}

}  // namespace optrel

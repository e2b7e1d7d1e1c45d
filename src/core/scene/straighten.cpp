// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/straighten.h"

#include <fmt/format.h>

#include <Eigen/Core>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <random>

#include "base/angle.h"
#include "base/error.h"
#include "base/median.h"
#include "frames/orientation.h"
#include "optics/linear.h"

namespace optrel {
namespace {

/// Typical accuracy of straight lines in a scene, radians: 0.02 degrees.
constexpr double built = 0.02 * degree;
/// A line that deviates more than this belongs to something else.
constexpr double strange = 0.7 * degree;
constexpr double most_roll = 45 * degree, most_pitch = 60 * degree;

/// Signed angle (radians) between the picture of a line and vertical or horizontal.
double off(const Vec3& n, bool vertical) {
    const double across = std::hypot(n.x(), n.y());
    return std::asin(std::clamp((vertical ? n.y() : n.x()) / std::max(1e-12, across), -1.0, 1.0));
}

Eigen::Matrix3d turn_of(const Vec3& angles) {
    return CameraTurn{angles.x() / degree, angles.y() / degree, angles.z() / degree}.matrix();
}

/// True when a line is closer to vertical than to horizontal in the frame.
bool looks_vertical(const SceneLine& line) { return std::abs(line.normal.x()) > std::abs(line.normal.y()); }

bool may_be(const SceneLine& line, bool vertical) {
    if (line.sense == LineSense::open) return looks_vertical(line) == vertical;
    return line.sense == (vertical ? LineSense::vertical : LineSense::horizontal);
}

/// The total length of agreeing lines; each counts for a few hundred px at most, so that one line does not decide.
double support(const std::vector<SceneLine>& lines, const Eigen::Matrix3d& turn, bool vertical) {
    double sum = 0;
    for (const SceneLine& line : lines) {
        if (!may_be(line, vertical)) continue;
        const double d = off(turn * line.normal, vertical) / strange;
        if (std::abs(d) < 1) sum += std::min(line.length_px, 400.0) * (1 - d * d);
    }
    return sum;
}

/// Roll (and pitch) with which most vertical lines agree, from trials with one or two lines each.
Vec3 first_roll_pitch(const std::vector<SceneLine>& lines, bool with_pitch) {
    std::vector<const SceneLine*> verticals;
    for (const SceneLine& line : lines)
        if (may_be(line, true)) verticals.push_back(&line);
    std::sort(verticals.begin(), verticals.end(),
              [](const SceneLine* a, const SceneLine* b) { return a->length_px > b->length_px; });
    Vec3 best = Vec3::Zero();
    double most = support(lines, Eigen::Matrix3d::Identity(), true);
    const auto attempt = [&](const Vec3& direction) {
        // The vertical of the scene in the camera: (cos p sin r, cos p cos r, -sin p).
        const Vec3 d = (direction.y() < 0 ? -direction : direction).normalized();
        const Vec3 angles(std::atan2(d.x(), d.y()), std::asin(std::clamp(-d.z(), -1.0, 1.0)), 0);
        if (std::abs(angles.x()) > most_roll || std::abs(angles.y()) > most_pitch) return;
        const double sum = support(lines, turn_of(angles), true);
        if (sum > most) {
            most = sum;
            best = angles;
        }
    };
    if (!with_pitch) {
        for (const SceneLine* line : verticals) attempt(line->normal.cross(Vec3::UnitZ()));
        return best;
    }
    const std::size_t n = verticals.size();
    constexpr std::size_t all_pairs_of = 40;
    if (n <= all_pairs_of) {
        for (std::size_t i = 0; i < n; ++i)
            for (std::size_t k = i + 1; k < n; ++k) attempt(verticals[i]->normal.cross(verticals[k]->normal));
        return best;
    }
    std::mt19937 random(1);
    std::uniform_int_distribution<std::size_t> any(0, n - 1), longer(0, std::min<std::size_t>(n, 60) - 1);
    for (int trial = 0; trial < 1500; ++trial) {
        const std::size_t i = longer(random), k = any(random);
        if (i != k) attempt(verticals[i]->normal.cross(verticals[k]->normal));
    }
    return best;
}

/// Yaw with which most horizontal lines agree when roll and pitch are known; or the roll, when only roll is solved.
void first_from_horizontals(const std::vector<SceneLine>& lines, TurnAngles which, Vec3& angles) {
    double most = support(lines, turn_of(angles), false);
    const Vec3 start = angles;
    if (which == TurnAngles::roll) most += support(lines, turn_of(angles), true);
    for (const SceneLine& line : lines) {
        if (!may_be(line, false)) continue;
        Vec3 trial = start;
        if (which == TurnAngles::roll) {
            trial.x() = std::atan2(line.normal.x(), line.normal.y());
            if (trial.x() > 90 * degree) trial.x() -= 180 * degree;
            if (trial.x() < -90 * degree) trial.x() += 180 * degree;
            if (std::abs(trial.x()) > most_roll) continue;
        } else {
            const Vec3 m = turn_of(start) * line.normal;
            trial.z() = std::atan2(-m.x(), m.z());
            if (trial.z() > 90 * degree) trial.z() -= 180 * degree;
            if (trial.z() < -90 * degree) trial.z() += 180 * degree;
            if (std::abs(trial.z()) > most_pitch) continue;
        }
        double sum = support(lines, turn_of(trial), false);
        if (which == TurnAngles::roll) sum += support(lines, turn_of(trial), true);
        if (sum > most) {
            most = sum;
            angles = trial;
        }
    }
}

struct Member {
    const SceneLine* line;
    int index;
    bool vertical;
};

std::vector<Member> members_of(const std::vector<SceneLine>& lines, TurnAngles which, const Vec3& angles,
                               double limit) {
    std::vector<Member> out;
    const Eigen::Matrix3d turn = turn_of(angles);
    for (std::size_t i = 0; i < lines.size(); ++i)
        for (const bool vertical : {true, false}) {
            if (!may_be(lines[i], vertical)) continue;
            if (!vertical && which == TurnAngles::roll_pitch)
                continue;  // horizontal lines converge when yaw is not solved
            const bool said = lines[i].sense != LineSense::open;
            if (said || std::abs(off(turn * lines[i].normal, vertical)) < limit)
                out.push_back({&lines[i], static_cast<int>(i), vertical});
        }
    return out;
}

/// Gauss-Newton with Cauchy weights, and the covariance of the free angles.
struct Refined {
    Vec3 angles = Vec3::Zero();
    Eigen::MatrixXd covariance;
    double scale = 1;  ///< robust ratio of residuals to their sigmas
};

Refined refine(const std::vector<Member>& members, int unknowns, Vec3 angles) {
    Refined out;
    const auto residual = [&](const Member& m, const Vec3& at) {
        return off(turn_of(at) * m.line->normal, m.vertical);
    };
    for (int round = 0; round < 30; ++round) {
        std::vector<double> sizes;
        for (const Member& m : members)
            sizes.push_back(std::abs(residual(m, angles)) / std::hypot(m.line->sigma, built));
        // Few residuals give an unreliable scale, so eight more of the expected size are
        // added.
        constexpr double usual = 8;
        const auto n = static_cast<double>(members.size());
        const double seen = 1.4826 * median(sizes) * std::sqrt(n / std::max(0.5, n - unknowns));
        out.scale = std::max(0.1, std::sqrt((usual + n * seen * seen) / (usual + n)));
        Eigen::MatrixXd information = Eigen::MatrixXd::Zero(unknowns, unknowns);
        Eigen::VectorXd right = Eigen::VectorXd::Zero(unknowns);
        for (const Member& m : members) {
            const double sigma = out.scale * std::hypot(m.line->sigma, built), r = residual(m, angles);
            Eigen::VectorXd by(unknowns);
            constexpr double step = 1e-6;
            for (int k = 0; k < unknowns; ++k) {
                const Vec3 d = step * Vec3::Unit(k);
                by(k) = (residual(m, angles + d) - residual(m, angles - d)) / (2 * step);
            }
            const double in_sigmas = r / sigma, weight = 1 / (1 + in_sigmas * in_sigmas / 6);
            information += weight / (sigma * sigma) * by * by.transpose();
            right += weight / (sigma * sigma) * by * r;
        }
        const Eigen::VectorXd change = solve_symmetric(information, right);
        if (!change.allFinite()) break;
        for (int k = 0; k < unknowns; ++k) angles(k) -= change(k);
        out.covariance = inverse_of(information);
        if (change.norm() < 1e-10) break;
    }
    out.angles = angles;
    return out;
}

int unknowns_of(TurnAngles which) {
    if (which == TurnAngles::roll) return 1;
    return which == TurnAngles::roll_pitch ? 2 : 3;
}

void require_enough(const std::vector<Member>& members, TurnAngles which) {
    int verticals = 0, horizontals = 0, said = 0;
    for (const Member& m : members) {
        ++(m.vertical ? verticals : horizontals);
        said += m.line->sense != LineSense::open;
    }
    // Lines marked by a person need no third line to confirm them.
    const bool sure = said == static_cast<int>(members.size());
    const int least = sure ? 2 : 3;
    if (which == TurnAngles::roll && verticals + horizontals >= (sure ? 1 : 3)) return;
    if (which == TurnAngles::roll_pitch && verticals >= least) return;
    if (which == TurnAngles::roll_pitch_yaw && verticals >= least && horizontals >= (sure ? 1 : 3)) return;
    static constexpr const char* needed[] = {"three lines that are vertical or horizontal", "three vertical ones",
                                             "three of each"};
    throw input_error(
        fmt::format("There is too little to straighten by: {} vertical and {} horizontal lines agree, and {} "
                    "are needed; mark lines by hand, or solve fewer angles.",
                    verticals, horizontals, needed[static_cast<int>(which)]));
}

}  // namespace

TurnAngles turn_angles(const std::string& text) {
    if (text == "roll") return TurnAngles::roll;
    if (text == "roll+pitch") return TurnAngles::roll_pitch;
    if (text == "roll+pitch+yaw") return TurnAngles::roll_pitch_yaw;
    throw usage_error(fmt::format("'{}' is no choice of angles; write roll, roll+pitch or roll+pitch+yaw.", text));
}

SceneLine scene_line(const StraightLine& line, const FrameMap& lens, int orientation) {
    SceneLine out;
    const cv::Matx22d axes = axes_as_held(orientation);
    const Vec3 n = line.normal(lens.centre(), lens.focal_px());
    out.normal = {axes(0, 0) * n.x() + axes(0, 1) * n.y(), axes(1, 0) * n.x() + axes(1, 1) * n.y(), n.z()};
    out.sigma = line.sigma;
    out.length_px = line.length;
    return out;
}

Straightened straighten(const std::vector<SceneLine>& lines, TurnAngles which) {
    Vec3 angles = first_roll_pitch(lines, which != TurnAngles::roll);
    if (which != TurnAngles::roll_pitch) first_from_horizontals(lines, which, angles);
    Refined refined;
    std::vector<Member> members;
    double limit = strange;
    for (int round = 0; round < 4; ++round) {
        members = members_of(lines, which, angles, limit);
        require_enough(members, which);
        refined = refine(members, unknowns_of(which), angles);
        angles = refined.angles;
        limit = std::clamp(4 * refined.scale * built, 0.08 * degree, strange);
    }
    const Eigen::Matrix3d turn = turn_of(angles);
    Straightened out;
    out.turn = {angles.x() / degree, angles.y() / degree, angles.z() / degree};
    out.used.assign(lines.size(), LineSense::neither);
    double square = 0;
    for (const Member& m : members) {
        const double d = off(turn * m.line->normal, m.vertical);
        if (m.line->sense != LineSense::open && std::abs(d) > 2 * degree)
            throw input_error(
                fmt::format("The marked lines contradict each other: one stays {:.1f} degrees from {} when the others "
                            "are straight; "
                            "strike it out, or mark it as what it is.",
                            std::abs(d) / degree, m.vertical ? "vertical" : "horizontal"));
        out.used[m.index] = m.vertical ? LineSense::vertical : LineSense::horizontal;
        const double end = 0.5 * m.line->length_px * std::sin(d);
        square += end * end;
    }
    out.lines_used = static_cast<int>(members.size());
    out.residual_px = std::sqrt(square / std::max<std::size_t>(1, members.size()));
    const auto sigma = [&](int k) {
        return k < refined.covariance.rows() ? std::sqrt(std::max(0.0, refined.covariance(k, k))) / degree : 0.0;
    };
    out.sigma = {sigma(0), sigma(1), sigma(2)};
    constexpr double useless = 2;  // degrees
    if (std::max({out.sigma.roll_deg, out.sigma.pitch_deg, out.sigma.yaw_deg}) > useless)
        throw input_error(fmt::format(
            "The lines do not say how the camera was held: one sigma of an angle would be {:.1f} degrees; mark longer "
            "lines, further apart, or solve fewer angles.",
            std::max({out.sigma.roll_deg, out.sigma.pitch_deg, out.sigma.yaw_deg})));
    return out;
}

namespace {

CameraTurn level_rectangle(const std::vector<Vec2>& corners, const FrameMap& lens, int orientation) {
    if (corners.size() != 4) throw input_error("A rectangle has four corners; mark all four.");
    std::vector<Vec2> at;
    Vec2 middle = Vec2::Zero();
    for (const Vec2& c : corners) {
        const auto ideal = lens.ideal(c);
        if (!ideal) throw input_error("A corner lies where the lens model does not reach; mark one further inside.");
        at.push_back(*ideal);
        middle += 0.25 * *ideal;
    }
    std::sort(at.begin(), at.end(), [&](const Vec2& a, const Vec2& b) {
        return std::atan2(a.y() - middle.y(), a.x() - middle.x()) < std::atan2(b.y() - middle.y(), b.x() - middle.x());
    });
    std::vector<SceneLine> lines;
    for (int i = 0; i < 4; ++i) {
        const Vec2 a = at[i], b = at[(i + 1) % 4], c = at[(i + 2) % 4];
        const double area = std::abs((b - a).x() * (c - a).y() - (b - a).y() * (c - a).x());
        if (area < 0.02 * (b - a).norm() * (c - b).norm() || (b - a).norm() < 4)
            throw input_error("Three of the corners lie on one line; mark the four corners of a rectangle.");
        StraightLine side;
        side.middle = 0.5 * (a + b);
        side.direction = (b - a).normalized();
        side.length = (b - a).norm();
        side.sigma = 0.5 / side.length;
        lines.push_back(scene_line(side, lens, orientation));
    }
    // Opposite sides form pairs; the pair that looks more vertical is vertical.
    const auto steepness = [&](int i) {
        return std::abs(lines[i].normal.x()) - std::abs(lines[i].normal.y()) + std::abs(lines[i + 2].normal.x()) -
               std::abs(lines[i + 2].normal.y());
    };
    const int vertical = steepness(0) > steepness(1) ? 0 : 1;
    for (int i = 0; i < 4; ++i) lines[i].sense = i % 2 == vertical ? LineSense::vertical : LineSense::horizontal;
    return straighten(lines, TurnAngles::roll_pitch_yaw).turn;
}

}  // namespace

RectangleTurn turn_of_rectangle(const std::vector<Vec2>& corners, const FrameMap& lens, int orientation,
                                double mark_px) {
    RectangleTurn out{level_rectangle(corners, lens, orientation), {}};
    Vec3 square = Vec3::Zero();
    for (std::size_t corner = 0; corner < corners.size(); ++corner)
        for (int axis = 0; axis < 2; ++axis) {
            std::vector<Vec2> moved = corners;
            moved[corner](axis) += mark_px;
            const CameraTurn t = level_rectangle(moved, lens, orientation);
            square +=
                Vec3(t.roll_deg - out.turn.roll_deg, t.pitch_deg - out.turn.pitch_deg, t.yaw_deg - out.turn.yaw_deg)
                    .cwiseAbs2();
        }
    out.sigma = {std::sqrt(square.x()), std::sqrt(square.y()), std::sqrt(square.z())};
    return out;
}

}  // namespace optrel

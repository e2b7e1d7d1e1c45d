// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/embedded_profile.h"

#include <fmt/format.h>

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <set>

#include "base/error.h"
#include "base/figure_text.h"
#include "optics/linear.h"
#include "studio/calibration/profile_of_frame.h"

namespace optrel {

namespace {

/// Either kind of warp: position in the frame for a position in its picture.
class Warp {
public:
    Warp(const Opcode& opcode, const PictureGeometry& geometry) : opcode_(opcode), geometry_(geometry) {}

    Vec2 operator()(int plane, const Vec2& place) const {
        if (const auto* w = std::get_if<WarpFisheye>(&opcode_.what)) return warped(*w, plane, place, geometry_);
        return warped(std::get<WarpRectilinear>(opcode_.what), plane, place, geometry_);
    }

private:
    const Opcode& opcode_;
    const PictureGeometry& geometry_;
};

constexpr const char* mirrored = "The warp that this frame carries turns the picture inside out; it is of no use.";

/// The middle plane, or the only one.
template <class Plane>
const Plane& green_of(const std::vector<Plane>& planes) {
    return planes.size() == 3 ? planes[1] : planes.front();
}

/// WarpRectilinear in the terms of the radial-tangential form. With F the focal length in px, a direction x of the lens
/// stands at F x / k0 in the warp's picture, in units of m at s x, s = F / (k0 m).
void take_rectilinear(const WarpRectilinear& warp, const OpcodeFrame& frame, double focal_px, ProfileNode& node) {
    const auto& k = green_of(warp.planes);
    if (!(k[0] > 0)) throw input_error(mirrored);
    const double s = focal_px / (k[0] * frame.m), q = s * s;
    LensModel::Coefficients c = LensModel(LensModelKind::radial_tangential).coefficients();
    c[0] = k[1] / k[0] * q;
    c[1] = k[2] / k[0] * q * q;
    c[2] = k[3] / k[0] * q * q * q;
    c[3] = k[4] * s / k[0];
    c[4] = k[5] * s / k[0];
    node.model = LensModel(LensModelKind::radial_tangential, c);
}

/// WarpFisheye as an equidistant model; its picture is a perspective one with focal length m.
void take_fisheye(const WarpFisheye& warp, const OpcodeFrame& frame, double& focal_px, ProfileNode& node) {
    const auto& k = green_of(warp.planes);
    if (!(k[0] > 0)) throw input_error(mirrored);
    focal_px = k[0] * frame.m;
    LensModel::Coefficients c = LensModel(LensModelKind::equidistant).coefficients();
    for (int i = 0; i < 3; ++i) c[i] = k[i + 1] / k[0];
    node.model = LensModel(LensModelKind::equidistant, c);
}

/// Displacement of red or blue from green, least squares over the picture.
LateralChromatic fringe_of(const Warp& warp, int plane, const Vec2& centre, const PictureGeometry& g) {
    const std::vector<Vec2> places = picture_grid(g, 31, 23);
    const auto n = static_cast<Eigen::Index>(places.size());
    Eigen::MatrixXd a = Eigen::MatrixXd::Zero(2 * n, 5);
    Eigen::VectorXd b(2 * n);
    for (Eigen::Index i = 0; i < n; ++i) {
        const Vec2 green = warp(1, places[i]), d = warp(plane, places[i]) - green, s = green - centre;
        const double q = s.squaredNorm() / (g.half_diagonal_px() * g.half_diagonal_px());
        for (int axis = 0; axis < 2; ++axis) {
            a.row(2 * i + axis).head<3>() << s(axis), s(axis) * q, s(axis) * q * q;
            a(2 * i + axis, 3 + axis) = 1;
            b(2 * i + axis) = d(axis);
        }
    }
    const Eigen::VectorXd x = least_squares(a, b);
    LateralChromatic out;
    out.c0 = x(0);
    out.c1 = x(1);
    out.c2 = x(2);
    out.shift_mm = g.pitch_mm() * Vec2(x(3), x(4));
    return out;
}

/// Keeps four of five terms; least squares when all five are used.
Falloff falloff_of(const FixVignetteRadial& fix, const PictureGeometry& g) {
    const OpcodeFrame frame = opcode_frame(fix.centre, g);
    const auto gain = [&](double height) {
        const double there = gain_at(fix, frame.centre + Vec2(height * g.half_diagonal_px(), 0), g);
        if (!(there > 0))
            throw input_error("The falloff that this frame carries takes light below zero; it is of no use.");
        constexpr double most = 1000;
        if (there > most)
            throw input_error("The falloff that this frame carries multiplies light a thousandfold; it is of no use.");
        return there;
    };
    Falloff out = falloff_undone_by(gain, frame.m / g.half_diagonal_px());
    out.centre_mm = g.to_sensor(frame.centre);
    return out;
}

/// Deviation of the profile from the warp, whose picture is the ideal one scaled around the centre.
double missed_px(const Warp& warp, const FrameMap& lens, const Vec2& centre, double scale) {
    const PictureGeometry& g = lens.geometry();
    double worst = 0;
    int reached = 0;
    constexpr int across = 41, down = 31;
    for (const Vec2& place : picture_grid(g, across, down)) {
        const Vec2 ideal = lens.centre() + scale * (place - centre);
        if (!g.contains(warp(1, place))) continue;
        ++reached;
        if (!lens.reaches(ideal))
            throw input_error("The warp that this frame carries folds back inside the picture; it is of no use.");
        const Vec2 green = lens.green(ideal);
        for (int plane = 0; plane < 3; ++plane) {
            const Vec2 there = warp(plane, place);
            // No real lens separates colours by a tenth of this.
            if ((there - warp(1, place)).norm() > 0.02 * g.half_diagonal_px())
                throw input_error("The warp that this frame carries tears its colours apart; it is of no use.");
            worst = std::max(worst, (lens.fringe(static_cast<Channel>(plane), green) - there).norm());
        }
    }
    if (2 * reached < across * down)
        throw input_error(
            "The warp that this frame carries finds too little of its picture in the frame; it is of no use.");
    return worst;
}

double missed_percent(const FixVignetteRadial& fix, const ProfileNode& node, const PictureGeometry& g) {
    double worst = 0;
    for (const Vec2& place : picture_grid(g, 41, 31)) {
        const double relative = node.falloff->relative(Channel::green, g.to_sensor(place), g.half_diagonal_mm());
        worst = std::max(worst, 100 * std::abs(gain_at(fix, place, g) * relative - 1));
    }
    return worst;
}

/// Converts the opcodes that a profile can represent, and lists the others.
struct Holdable {
    const Opcode* warp = nullptr;
    const FixVignetteRadial* light = nullptr;
    std::set<std::string> rest;
};

Holdable holdable(const EmbeddedCorrection& embedded) {
    Holdable out;
    for (const EmbeddedOpcode& e : embedded.opcodes) {
        const bool warps = std::holds_alternative<WarpRectilinear>(e.opcode.what) ||
                           std::holds_alternative<WarpFisheye>(e.opcode.what);
        const auto* fix = std::get_if<FixVignetteRadial>(&e.opcode.what);
        if (warps && !out.warp)
            out.warp = &e.opcode;
        else if (fix && !out.light)
            out.light = fix;
        else
            out.rest.insert(name_of(e.opcode));
    }
    return out;
}

/// Adds the warp to the node; returns the deviation in px.
double take_warp(const Opcode& opcode, const PictureGeometry& g, double focal_px, ProfileNode& node) {
    const auto* flat = std::get_if<WarpRectilinear>(&opcode.what);
    const auto* round = std::get_if<WarpFisheye>(&opcode.what);
    const OpcodeFrame middle = opcode_frame(flat ? flat->centre : round->centre, g);
    double scale = 1;
    if (flat) {
        take_rectilinear(*flat, middle, focal_px, node);
        scale = green_of(flat->planes)[0];
    } else {
        take_fisheye(*round, middle, focal_px, node);
        scale = focal_px / middle.m;
    }
    const Warp warp(opcode, g);
    if ((flat ? flat->planes.size() : round->planes.size()) == 3) {
        node.red = fringe_of(warp, 0, middle.centre, g);
        node.blue = fringe_of(warp, 2, middle.centre, g);
    }
    node.focal_mm = focal_px * g.pitch_mm();
    node.centre_mm = g.to_sensor(middle.centre);
    return missed_px(warp, FrameMap(node, g, g), middle.centre, scale);
}

}  // namespace

std::string EmbeddedProfile::followed() const {
    std::string said;
    if (largest_px) said = figure_text(figures::shift, *largest_px);
    if (largest_percent) said += (largest_px ? " and " : "") + figure_text(figures::fine_share, *largest_percent);
    return fmt::format("A profile follows it to {}.", said);
}

EmbeddedProfile profile_embedded(const std::filesystem::path& frame, const Metadata& metadata,
                                 const EmbeddedCorrection& embedded, const std::string& author) {
    const Holdable held = holdable(embedded);
    if (!held.warp && !held.light)
        throw input_error(
            fmt::format("{} carries no warp and no radial falloff that a profile could hold.", frame.string()));
    EmbeddedProfile out;
    out.profile = profile_of_frame(frame, metadata, MeasurementOrigin::embedded, author);
    out.left_out.assign(held.rest.begin(), held.rest.end());
    const PictureGeometry& g = out.profile.geometry;
    const double focal_px = metadata.focal_mm > 0 ? metadata.focal_mm / g.pitch_mm() : 2 * g.half_diagonal_px();
    ProfileNode node;
    node.setting = {metadata.focal_mm, metadata.aperture, metadata.distance_m};
    node.focal_mm = focal_px * g.pitch_mm();
    node.largest_radius_mm = g.half_diagonal_mm();
    node.quality.largest_height = 1;
    if (held.warp) out.largest_px = take_warp(*held.warp, g, focal_px, node);
    if (held.light) {
        node.falloff = falloff_of(*held.light, g);
        out.largest_percent = missed_percent(*held.light, node, g);
    }
    out.profile.nodes = {node};
    out.profile.provenance.note = fmt::format("Embedded in {}: {}", frame.filename().string(), embedded.in_words());
    return out;
}

EmbeddedComparison compare_carried(const std::filesystem::path& frame, const FrameDevelopment& development,
                                   const std::string& author) {
    EmbeddedComparison out;
    out.carried = embedded_correction(frame, development.metadata);
    out.made = profile_embedded(frame, development.metadata, out.carried, author);
    if (development.profile) out.difference = embedded_difference(out.carried, *development.profile);
    out.profile = development.chosen;
    return out;
}

std::string EmbeddedComparison::in_words() const {
    std::string text = fmt::format("The file carries {}.\n{}\n", carried.in_words(), made.followed());
    if (!made.left_out.empty()) text += fmt::format("Not in the profile: {}.\n", fmt::join(made.left_out, ", "));
    if (!difference) return text + "No profile corrects this frame now.\n";
    text += fmt::format("Beside {}:\n", profile);
    if (difference->largest_px)
        text += fmt::format("  green differs by {} RMS, {} at most\n", figure_text(figures::shift, *difference->rms_px),
                            figure_text(figures::shift, *difference->largest_px));
    if (difference->colour_largest_px)
        text +=
            fmt::format("  red and blue by {} at most\n", figure_text(figures::shift, *difference->colour_largest_px));
    if (difference->falloff_largest_percent)
        text += fmt::format("  light by {} at most\n",
                            figure_text(figures::fine_share, *difference->falloff_largest_percent));
    return text;
}

}  // namespace optrel

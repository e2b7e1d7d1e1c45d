// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/plausible.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"

namespace optrel {
namespace {

constexpr double least_light = 1.0 / 64, most_light = 4, most_displacement = 0.05;
constexpr int steps = 64;
constexpr const char* colours[] = {"red", "green", "blue"};

[[noreturn]] void refuse(const Profile& profile, const ProfileNode& node, const std::string& what) {
    throw input_error(
        fmt::format("The profile of {} is not kept: at {} {}, which no lens does; measure the lens again.",
                    profile.name.empty() ? profile.lens : profile.name, to_string(node.setting), what));
}

}  // namespace

void require_plausible(const Profile& profile) {
    const double half = profile.geometry.half_diagonal_mm();
    for (const ProfileNode& node : profile.nodes)
        for (int i = 0; i <= steps; ++i) {
            const double radius = half * i / steps, q = radius * radius / (half * half);
            if (node.falloff)
                for (int c = 0; c < 3; ++c) {
                    const double light = node.falloff->relative(static_cast<Channel>(c),
                                                                node.falloff->centre_mm + Vec2(radius, 0), half);
                    if (!(light >= least_light && light <= most_light))
                        refuse(profile, node,
                               fmt::format("{} has {:.3g} times the light of the centre at field height {:.2f}",
                                           colours[c], light, radius / half));
                }
            for (const auto* fringe : {&node.red, &node.blue}) {
                if (!*fringe) continue;
                const LateralChromatic& f = **fringe;
                const double moved = radius * std::abs(f.c0 + q * (f.c1 + q * f.c2)) + f.shift_mm.norm();
                if (!(moved <= most_displacement * half))
                    refuse(profile, node,
                           fmt::format("{} is displaced by {:.3g} mm at field height {:.2f}",
                                       fringe == &node.red ? "red" : "blue", moved, radius / half));
            }
        }
}

void require_unfolded(const Profile& p) {
    for (const ProfileNode& n : p.nodes) {
        const FrameMap map(n, p.geometry, p.geometry);
        for (const Vec2& at : picture_grid(p.geometry, 13, 9)) {
            const double radius = p.geometry.to_sensor(at).norm();
            if (radius > std::max(n.largest_radius_mm, 0.5 * p.geometry.half_diagonal_mm())) continue;
            const std::optional<Vec2> ideal = map.ideal(at);
            const std::optional<Vec3> ray = map.ray(at);
            const bool angular = n.model.kind()->angular();
            const bool sound = ray && (angular || (ideal && map.reaches(*ideal)));
            if (!sound)
                throw input_error(
                    fmt::format("The profile '{}' folds back {:.1f} mm from the middle at {}, inside what "
                                "it says was measured; it is of no use.",
                                p.name, radius, to_string(n.setting)));
        }
    }
}

}  // namespace optrel

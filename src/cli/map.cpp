// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "commands.h"
#include "optics/frame_map.h"
#include "optics/uncertainty.h"
#include "studio/profile_file.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct MapOptions {
    std::string profile, size, of = "ideal", grid = "31x21";
    double pitch_um = 0;
    LensSetting setting;
    bool json = false;
};

json pair(const Vec2& v) { return {v.x(), v.y()}; }

json ideal_point(const FrameMap& map, const Vec2& at, double sigma) {
    if (!map.reaches(at))
        return {{"ideal", pair(at)}, {"green", nullptr}, {"red", nullptr},
                {"blue", nullptr},   {"gain", nullptr},  {"sigma_px", nullptr}};
    const Vec2 green = map.green(at);
    return {{"ideal", pair(at)},
            {"green", pair(green)},
            {"red", pair(map.fringe(Channel::red, green))},
            {"blue", pair(map.fringe(Channel::blue, green))},
            {"gain", {map.gain(Channel::red, green), map.gain(Channel::green, green), map.gain(Channel::blue, green)}},
            {"sigma_px", std::isfinite(sigma) ? json(sigma) : json(nullptr)}};
}

json frame_point(const FrameMap& map, const Vec2& at) {
    const auto ray = map.ray(at);
    return {{"frame", pair(at)}, {"ray", ray ? json{ray->x(), ray->y(), ray->z()} : json(nullptr)}};
}

void run(const MapOptions& o) {
    const Profile profile = read_profile(o.profile);
    const auto [width, height] = whole_pair(o.size, "pixels of the size", 2, 200000);
    const auto [across, down] = whole_pair(o.grid, "points of the grid", 2, 200000);
    if (static_cast<long>(across) * down > 4000000)
        throw usage_error("The grid has more than 4 million points; choose a coarser one.");
    if (o.of != "ideal" && o.of != "frame")
        throw usage_error(fmt::format("--of takes ideal or frame, not '{}'.", o.of));
    if (const auto range = focal_range(profile); o.setting.focal_mm == 0 && range.second > 1.01 * range.first)
        throw usage_error(
            fmt::format("The profile was measured from {:g} to {:g} mm; say with --focal at which focal length to map.",
                        range.first, range.second));
    // A profile that assumed its pitch knows lengths only in pixels of its own sensor, so that sensor keeps the assumed
    // one.
    const bool own_sensor = width == profile.geometry.width && height == profile.geometry.height;
    const double pitch =
        o.pitch_um > 0 && !(profile.pitch_assumed && own_sensor) ? o.pitch_um : profile.geometry.pitch_um;
    const PictureGeometry geometry{width, height, pitch};
    const PlacedNode placed = node_at(profile, o.setting);
    const FrameMap map(placed.node, profile.geometry, geometry);
    const std::vector<Vec2> grid = picture_grid(geometry, across, down);
    json points = json::array();
    if (o.of == "frame") {
        for (const Vec2& at : grid) points.push_back(frame_point(map, at));
    } else {
        const std::vector<double> sigma = mapping_sigma_px(profile, placed, geometry, grid);
        for (std::size_t i = 0; i < grid.size(); ++i) points.push_back(ideal_point(map, grid[i], sigma[i]));
    }
    print_json({{"size", {width, height}},
                {"centre", pair(map.centre())},
                {"focal_px", map.focal_px()},
                {"placement", to_string(placed.placement)},
                {"points", points}});
}

}  // namespace

void add_map(CLI::App& app) {
    auto* command = add_command(app, "map", "Print where points of the ideal picture land in the frame",
                                "map --profile profile.json --size 6000x4000 --focal 35 --grid 31x21 --json");
    auto o = std::make_shared<MapOptions>();
    command->add_option("--profile", o->profile, "The profile (JSON)")->required();
    command->add_option("--size", o->size, "Size of the picture in pixels, as in 6000x4000")->required();
    command->add_option("--pitch-um", o->pitch_um, "Pixel pitch in micrometres [default: of the profile]")
        ->check(between(0.3, 100));
    command->add_option("--focal", o->setting.focal_mm, "Focal length in mm; needed for a zoom [default: as measured]")
        ->check(between(0.5, 5000));
    command->add_option("--aperture", o->setting.aperture, "f-number [default: the nearest measured]")
        ->check(between(0.3, 512));
    command->add_option("--distance", o->setting.distance_m, "Focus distance in m [default: the nearest measured]")
        ->check(between(0.001, 1e5));
    command
        ->add_option("--of", o->of,
                     "ideal: a grid over the ideal picture; frame: over the frame, with viewing directions")
        ->capture_default_str();
    command->add_option("--grid", o->grid, "Points across x down")->capture_default_str();
    command->add_flag("--json", o->json, "Print JSON (the only form)");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

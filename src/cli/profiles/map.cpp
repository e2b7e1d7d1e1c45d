// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "cli/commands.h"
#include "cli/profiles/lens_at.h"
#include "optics/frame_map.h"
#include "optics/uncertainty.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct MapOptions {
    LensOptions lens;
    std::string of = "ideal", grid = "31x21";
    bool json = false;
};

json pair(const Vec2& v) { return {v.x(), v.y()}; }

json ideal_point(const FrameMap& map, const Vec2& at, double sigma) {
    if (!map.reaches(at))
        return {{"ideal", pair(at)}, {"green", nullptr}, {"red", nullptr},
                {"blue", nullptr},   {"gain", nullptr},  {"sigma_px", nullptr}};
    const Vec2 green = map.green(at), red = map.fringe(Channel::red, green), blue = map.fringe(Channel::blue, green);
    // Each colour is brightened at the position of its own light.
    return {{"ideal", pair(at)},
            {"green", pair(green)},
            {"red", pair(red)},
            {"blue", pair(blue)},
            {"gain", {map.gain(Channel::red, red), map.gain(Channel::green, green), map.gain(Channel::blue, blue)}},
            {"sigma_px", std::isfinite(sigma) ? json(sigma) : json(nullptr)}};
}

json frame_point(const FrameMap& map, const Vec2& at) {
    const auto ray = map.ray(at);
    return {{"frame", pair(at)}, {"ray", ray ? json{ray->x(), ray->y(), ray->z()} : json(nullptr)}};
}

void run(const MapOptions& o) {
    const auto [across, down] = whole_pair(o.grid, "points of the grid", 2, 200000);
    if (static_cast<long>(across) * down > 4000000)
        throw usage_error("The grid has more than 4 million points; choose a coarser one.");
    if (o.of != "ideal" && o.of != "frame")
        throw usage_error(fmt::format("--of takes ideal or frame, not '{}'.", o.of));
    const LensAt lens = lens_at(o.lens);
    const PlacedNode& placed = lens.placed;
    const PictureGeometry& geometry = lens.geometry;
    const FrameMap map = lens.map();
    const std::vector<Vec2> grid = picture_grid(geometry, across, down);
    json points = json::array();
    if (o.of == "frame") {
        for (const Vec2& at : grid) points.push_back(frame_point(map, at));
    } else {
        const std::vector<double> sigma = mapping_sigma_px(lens.profile, placed, geometry, grid);
        for (std::size_t i = 0; i < grid.size(); ++i) points.push_back(ideal_point(map, grid[i], sigma[i]));
    }
    print_json({{"size", {geometry.width, geometry.height}},
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
    add_lens_options(*command, o->lens);
    command
        ->add_option("--of", o->of,
                     "ideal: a grid over the ideal picture; frame: over the frame, with viewing directions")
        ->capture_default_str();
    command->add_option("--grid", o->grid, "Points across x down")->capture_default_str();
    command->add_flag("--json", o->json, "Print JSON (the only form)");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

#include <fmt/format.h>

#include <cstdio>

#include "base/files.h"
#include "commands.h"
#include "optics/frame_map.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string profile, size, of = "ideal", grid = "31x21";
    double pitch_um = 0;
    LensSetting setting;
    bool json = false;
};

std::pair<int, int> two(const std::string& text, const char* what) {
    int a = 0, b = 0;
    char rest = 0;
    if (std::sscanf(text.c_str(), "%dx%d%c", &a, &b, &rest) != 2 || a < 2 || b < 2 || a > 200000 || b > 200000)
        throw usage_error(fmt::format("The {} '{}' is not understood; write two numbers of at least 2, as in 6000x4000.", what, text));
    return {a, b};
}

void run(const Options& o) {
    using nlohmann::json;
    const Profile profile = profile_from_json(read_file(o.profile), o.profile);
    const auto [width, height] = two(o.size, "size");
    const auto [across, down] = two(o.grid, "grid");
    if (static_cast<long>(across) * down > 4000000) throw usage_error("The grid has more than 4 million points; choose a coarser one.");
    if (o.of != "ideal" && o.of != "frame") throw usage_error(fmt::format("--of takes ideal or frame, not '{}'.", o.of));
    // A profile that assumed its pitch knows lengths only in pixels of its own sensor, so that sensor keeps the assumed one.
    const bool own_sensor = width == profile.geometry.width && height == profile.geometry.height;
    const double pitch = o.pitch_um > 0 && !(profile.pitch_assumed && own_sensor) ? o.pitch_um : profile.geometry.pitch_um;
    const PictureGeometry geometry{width, height, pitch};
    const PlacedNode placed = node_at(profile, o.setting);
    const ProfileNode& node = placed.node;
    const FrameMap map(node, profile.geometry, geometry);
    const std::vector<Vec2> grid = picture_grid(geometry, across, down);
    const std::vector<double> sigma = o.of == "ideal" ? field_sigma_px(node, geometry, grid) : std::vector<double>();
    const auto pair = [](const Vec2& v) { return json{v.x(), v.y()}; };
    json points = json::array();
    for (std::size_t i = 0; i < grid.size(); ++i) {
        if (o.of == "frame") {
            const auto ray = map.ray(grid[i]);
            points.push_back({{"frame", pair(grid[i])}, {"ray", ray ? json{ray->x(), ray->y(), ray->z()} : json(nullptr)}});
            continue;
        }
        if (!map.reaches(grid[i])) {
            points.push_back({{"ideal", pair(grid[i])}, {"green", nullptr}, {"red", nullptr}, {"blue", nullptr}, {"gain", nullptr}, {"sigma_px", nullptr}});
            continue;
        }
        const Vec2 green = map.green(grid[i]);
        points.push_back({{"ideal", pair(grid[i])},
                          {"green", pair(green)},
                          {"red", pair(map.fringe(Channel::red, green))},
                          {"blue", pair(map.fringe(Channel::blue, green))},
                          {"gain", {map.gain(Channel::red, green), map.gain(Channel::green, green), map.gain(Channel::blue, green)}},
                          {"sigma_px", sigma[i]}});
    }
    print_json({{"size", {width, height}}, {"centre", pair(map.centre())}, {"focal_px", map.focal_px()}, {"placement", to_string(placed.placement)}, {"points", points}});
}

}  // namespace

void add_map(CLI::App& app) {
    auto* command = app.add_subcommand("map", "Print where points of the ideal picture land in the frame");
    auto o = std::make_shared<Options>();
    command->add_option("--profile", o->profile, "The profile (JSON)")->required();
    command->add_option("--size", o->size, "Size of the picture in pixels, as in 6000x4000")->required();
    command->add_option("--pitch-um", o->pitch_um, "Pixel pitch in micrometres (default: of the profile)")->check(CLI::PositiveNumber);
    command->add_option("--focal", o->setting.focal_mm, "Focal length in mm");
    command->add_option("--aperture", o->setting.aperture, "f-number");
    command->add_option("--distance", o->setting.distance_m, "Focus distance in m");
    command->add_option("--of", o->of, "ideal: a grid over the ideal picture; frame: over the frame, with viewing directions");
    command->add_option("--grid", o->grid, "Points across x down");
    command->add_flag("--json", o->json, "Print JSON (the only form)");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

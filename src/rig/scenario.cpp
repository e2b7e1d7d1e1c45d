// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/scenario.h"

#include <fmt/format.h>

#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <ctime>
#include <map>
#include <nlohmann/json.hpp>
#include <string_view>

#include "base/choose.h"
#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/words.h"
#include "demo_scenario.h"
#include "frames/dng_writer.h"
#include "rig/camera.h"
#include "rig/colours.h"
#include "rig/scenario_form.h"
#include "rig/truth.h"

namespace optrel::rig {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

cv::Vec2d vec2(const json& j) { return {j.at(0).get<double>(), j.at(1).get<double>()}; }
cv::Vec3d vec3(const json& j) { return {j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>()}; }

Lens lens_from(const json& j) {
    Lens lens;
    const std::string projection = j.value("projection", "rectilinear");
    lens.projection = first_of<Projection>({{projection == "equisolid", Projection::equisolid},
                                            {projection == "stereographic", Projection::stereographic}},
                                           Projection::rectilinear);
    lens.focal_mm = j.at("focal_mm");
    lens.centre_mm = vec2(j.at("centre_mm"));
    lens.reference_mm = j.at("reference_mm");
    lens.division = j.at("division").get<std::array<double, 3>>();
    lens.tilt = vec2(j.at("tilt"));
    const char* names[] = {"red", "green", "blue"};
    for (int c = 0; c < 3; ++c) {
        if (j.at("stretch").contains(names[c])) lens.stretch[c] = j["stretch"][names[c]].get<std::array<double, 2>>();
        if (j.at("shift_mm").contains(names[c])) lens.shift_mm[c] = vec2(j["shift_mm"][names[c]]);
        lens.mechanical[c] = j.at("mechanical").at(names[c]);
    }
    lens.cosine_power = j.at("cosine_power");
    lens.falloff_centre_mm = vec2(j.at("falloff_centre_mm"));
    return lens;
}

void take_filter(const std::string& name, Body& body) {
    if (name == "none") {
        body.layout = SampleLayout::monochrome;
        body.filter = SitePattern<int>(1);
    } else if (name == "6x6") {
        body.layout = SampleLayout::six_by_six;
        body.filter = {6, [](int row, int column) {
                           // Every row and column has each colour, and a green within two samples of any other.
                           const char* rows[] = {"GBGGRG", "RGRBGB", "GBGGRG", "GRGGBG", "BGBRGR", "GRGGBG"};
                           return static_cast<int>(std::string_view("RGB").find(rows[row][column]));
                       }};
    } else {
        body.filter = {
            2, [&](int row, int column) {
                return static_cast<int>(std::string_view("RGB").find(name[static_cast<std::size_t>(2 * row + column)]));
            }};
    }
}

SensorTraits traits_from(const json& j, const std::string& serial) {
    SensorTraits out;
    out.prnu = j.value("prnu_percent", 0.0) / 100;
    out.dsnu = j.value("dsnu_e", 0.0);
    out.row_noise = j.value("row_noise_e", 0.0);
    out.late_noise = j.value("late_noise_e", 0.0);
    out.digital_above_iso = j.value("digital_above_iso", 0);
    out.hot_per_million = j.value("hot_per_million", 0.0);
    out.hot_at_s = j.value("hot_at_s", 0.0);
    out.unstable_per_million = j.value("unstable_per_million", 0.0);
    out.dead_per_million = j.value("dead_per_million", 0.0);
    out.bad_columns = j.value("bad_columns", 0);
    out.dust_specks = j.value("dust_specks", 0);
    out.seed = fnv1a(j.value("copy", serial));
    return out;
}

Sensitivity sensitivity_from(const json& j) {
    Sensitivity out;
    if (j.contains("centre_nm")) out.centre_nm = j["centre_nm"].get<std::array<double, 3>>();
    if (j.contains("width_nm")) out.width_nm = j["width_nm"].get<std::array<double, 3>>();
    out.leak = j.value("leak", out.leak);
    out.infrared = j.value("infrared", 0.0);
    out.gain_ev = j.value("gain_ev", 0.0);
    return out;
}

Body body_from(const json& j) {
    Body body;
    body.maker = j.at("maker");
    body.model = j.at("model");
    body.serial = j.at("serial");
    body.width = j.at("width");
    body.height = j.at("height");
    body.pitch_um = j.at("pitch_um");
    take_filter(j.at("filter"), body);
    if (j.contains("sensor")) body.sensor = traits_from(j["sensor"], body.serial);
    const auto m = j.at("xyz_to_camera").get<std::array<double, 9>>();
    body.xyz_to_camera = cv::Matx33d(m.data());
    body.neutral = j.at("neutral").get<std::array<double, 3>>();
    body.full_well = j.at("full_well");
    body.read_noise = j.at("read_noise");
    if (j.contains("spectral")) body.spectral = sensitivity_from(j["spectral"]);
    body.spectral_model = j.contains("spectral_model") ? sensitivity_from(j["spectral_model"]) : body.spectral;
    if (j.contains("records")) {
        const json& r = j["records"];
        body.contrast = r.value("contrast", -1);
        body.saturation = r.value("saturation", -1);
        body.baseline_exposure = r.value("baseline_exposure", 0.0);
        if (r.contains("sharpness_from_iso"))
            body.sharpness_from_iso = r["sharpness_from_iso"].get<std::vector<std::pair<int, int>>>();
    }
    return body;
}

Board board_from(const json& chart, const json& shot) {
    json j = chart;
    if (shot.contains("chart")) j.update(shot["chart"]);
    Board b;
    b.squares_x = j.at("squares_x");
    b.squares_y = j.at("squares_y");
    b.square_mm = j.at("square_mm");
    b.coded = j.value("coded", false);
    b.stretch_y = j.value("stretch_y", 0.0);
    b.bow_mm = j.value("bow_mm", 0.0);
    if (j.contains("light_ev")) b.light_ev = vec2(j["light_ev"]);
    if (j.contains("glare_mm")) b.glare_mm = vec3(j["glare_mm"]);
    b.white = j.value("white", 0.84);
    b.clutter = j.value("clutter", false);
    b.mirrored = j.value("mirrored", false);
    return b;
}

struct Shot {
    fs::path path;
    json description;
};

/// A path below the output folder. Throws for one that would lead out of it.
fs::path inside(const fs::path& out, const fs::path& relative) {
    if (relative.is_absolute() || std::find(relative.begin(), relative.end(), "..") != relative.end())
        throw input_error(
            fmt::format("The scenario cannot be used: '{}' leads out of the output folder; name a place below it.",
                        printable(relative.string())));
    return out / relative;
}

/// An id that becomes part of a file's name.
std::string file_name(const std::string& id) {
    if (id.empty() || id.find('/') != std::string::npos)
        throw input_error(fmt::format(
            "The scenario cannot be used: '{}' becomes part of a file's name and is empty or holds a slash; choose "
            "another one.",
            printable(id)));
    return id;
}

/// A scenario that was read whole before anything is made of it.
struct Scenario {
    json whole;
    std::vector<Shot> shots;
    Lens studio_lens;
    std::map<std::string, Body> bodies;
    std::vector<std::pair<fs::path, std::string>> colour_files;  ///< their bytes
};

Scenario scenario_from(const std::string& text, const fs::path& out) {
    Scenario s;
    s.whole = parse_json(text, "The scenario");
    check_scenario(s.whole);
    s.studio_lens = lens_from(s.whole["lens"]);
    for (const json& b : s.whole["bodies"]) s.bodies[file_name(b["id"].get<std::string>())] = body_from(b);
    for (const json& shot : s.whole["shots"]) {
        const std::string name = file_name(shot["name"].get<std::string>()) + ".dng";
        s.shots.push_back({inside(out, fs::path(shot["folder"].get<std::string>()) / name), shot});
        if (shot.contains("lens")) file_name(shot["lens"].value("id", "other"));
    }
    for (const json& c : s.whole.value("colour_files", json::array()))
        s.colour_files.emplace_back(inside(out, c["file"].get<std::string>()),
                                    colour_file(s.bodies.at(c["body"].get<std::string>()), c["name"]));
    return s;
}

void make_folders(const Scenario& s, const fs::path& out) {
    std::error_code failed;
    fs::create_directories(out / "truth", failed);
    for (const Shot& shot : s.shots)
        if (!failed) fs::create_directories(shot.path.parent_path(), failed);
    for (const auto& [path, bytes] : s.colour_files)
        if (!failed) fs::create_directories(path.parent_path(), failed);
    if (failed)
        throw file_error(
            fmt::format("Cannot make folders below {}: {}; choose another folder.", out.string(), failed.message()));
}

Exposure exposure_of(const Shot& shot) {
    const json& r = shot.description;
    Exposure exposure;
    exposure.iso = r.at("iso");
    exposure.seconds = r.value("exposure_s", 0.0);
    exposure.level = r.value("level", 0.6);
    exposure.blur_px = r.value("blur_px", 0.55);
    exposure.seed = fnv1a(shot.path.stem().string());
    exposure.light = r.value("light", "");
    return exposure;
}

RawPicture picture_of(const Shot& shot, const json& scenario, const Body& body, const Lens& lens, Progress& progress) {
    const json& r = shot.description;
    Exposure exposure = exposure_of(shot);
    const std::string kind = r.at("kind");
    if (kind == "flat") {
        exposure.lamp_gradient = vec2(r.at("lamp"));
        return photograph_flat(body, lens, exposure, progress);
    }
    Placement placement;
    if (r.contains("rotation")) placement.rotation_degrees = vec3(r["rotation"]);
    if (r.contains("translation")) placement.translation_mm = vec3(r["translation"]);
    if (kind == "chart") {
        const BoardScene board(board_from(scenario.at("chart"), r));
        return photograph(body, lens, exposure, board, placement, progress);
    }
    if (kind == "patches")
        return photograph(body, lens, exposure, PatchScene(body.spectral, light_named(exposure.light)), placement,
                          progress);
    return photograph(body, lens, exposure, SpecimenScene(exposure.seed), placement, progress);
}

Metadata metadata_of(const json& r, const json& lens, const Body& body) {
    Metadata m;
    m.maker = body.maker;
    m.model = body.model;
    m.body_serial = body.serial;
    m.lens = lens.at("text");
    m.lens_serial = lens.at("serial");
    m.focal_mm = lens.at("nominal_mm");
    m.aperture = r.value("aperture", 4.0);
    m.iso = r.at("iso");
    m.exposure_s = r.value("exposure_s", 0.0);
    m.distance_m = r.value("distance_m", 1.0);
    m.pitch_um = body.pitch_um;
    m.time = r.at("time");
    m.recorded_contrast = body.contrast;
    m.recorded_saturation = body.saturation;
    m.baseline_exposure = body.baseline_exposure;
    for (const auto& [from, sharpness] : body.sharpness_from_iso)
        if (m.iso >= from) m.recorded_sharpness = sharpness;
    // A lens without contacts tells the body nothing.
    if (m.lens.empty()) m.focal_mm = m.aperture = m.distance_m = 0;
    return m;
}

/// A zoom, or another copy: a shot may change what the lens is.
json lens_of(const Shot& shot, const Scenario& s) {
    json out = s.whole.at("lens");
    if (shot.description.contains("lens")) out.update(shot.description["lens"]);
    return out;
}

/// Makes one frame, unless it is there and its description is what it was.
void make_frame(const Shot& shot, const Scenario& s, const fs::path& out, Progress& progress) {
    const json& r = shot.description;
    const std::string body_id = r.at("body");
    const Body& body = s.bodies.at(body_id);
    const json own_lens = lens_of(shot, s);
    if (r.contains("lens"))
        write_atomic(out / "truth" / fmt::format("lens-{}-on-{}.json", r["lens"].value("id", "other"), body_id),
                     truth_json(lens_from(own_lens), body));
    // The description's fingerprint beside the frame tells whether it has to be made again.
    const std::string description =
        s.whole.at("lens").dump() + s.whole.at("bodies").dump() + s.whole.value("chart", json()).dump() + r.dump();
    const std::string fingerprint = fmt::format("{:016x}", fnv1a(description));
    const fs::path mark = out / "truth" / (shot.path.stem().string() + ".description");
    if (fs::exists(shot.path) && fs::exists(mark) && read_file(mark) == fingerprint) return;
    const RawPicture raw = picture_of(shot, s.whole, body, lens_from(own_lens), progress);
    write_dng(shot.path, raw, metadata_of(r, own_lens, body), Existing::replace_ours);
    write_atomic(mark, fingerprint);
}

}  // namespace

std::string demo_scenario() { return demo_scenario_json; }

Lens scenario_lens(const std::string& scenario_json) { return scenario_from(scenario_json, "").studio_lens; }

void make_frames(const std::string& scenario_json, const fs::path& out, Progress& progress) {
    const Scenario scenario = scenario_from(scenario_json, out);
    make_folders(scenario, out);
    progress.start(static_cast<int>(scenario.shots.size()), "Making frames on the rig");
    for (const Shot& shot : scenario.shots) {
        progress.check();
        make_frame(shot, scenario, out, progress);
        progress.step();
    }
    for (const auto& [path, bytes] : scenario.colour_files) write_atomic(path, bytes);
    for (const auto& [id, body] : scenario.bodies) {
        write_atomic(out / "truth" / ("lens-on-" + id + ".json"), truth_json(scenario.studio_lens, body));
        write_atomic(out / "truth" / ("sensor-of-" + id + ".json"), sensor_truth_json(body));
    }
}

fs::path shoot(const std::string& scenario_json, const std::string& body, const fs::path& camera, Progress& progress) {
    const Scenario s = scenario_from(scenario_json, "");
    const auto like = std::find_if(s.shots.begin(), s.shots.end(), [&](const Shot& shot) {
        return shot.description.at("body") == body && shot.description.at("kind") == "specimen";
    });
    if (like == s.shots.end())
        throw input_error(fmt::format("No body '{}' takes specimens in the scenario; name one that does.", body));
    std::error_code failed;
    if (!fs::is_directory(camera, failed))
        throw file_error(
            fmt::format("There is no camera in {}; make the folder, or plug it in again.", camera.string()));
    const fs::path folder = camera / "DCIM" / "100RIG";
    fs::create_directories(folder, failed);
    Shot shot = *like;
    // Its name is its seed: another one for each press, also of several at once.
    static std::atomic<unsigned> presses{0};
    shot.path =
        fmt::format("{}-{}-{}", std::chrono::system_clock::now().time_since_epoch().count(), ::getpid(), presses++);
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    ::localtime_r(&now, &local);
    char time[32];
    std::strftime(time, sizeof time, "%Y:%m:%d %H:%M:%S", &local);
    shot.description["time"] = time;
    const json lens = lens_of(shot, s);
    const Body& of = s.bodies.at(body);
    const RawPicture raw = picture_of(shot, s.whole, of, lens_from(lens), progress);
    for (int number = 1;; ++number) {
        const fs::path path = folder / fmt::format("RG{:04d}.dng", number);
        if (fs::exists(path, failed)) continue;
        try {
            write_dng(path, raw, metadata_of(shot.description, lens, of), Existing::keep);
            return path;
        } catch (const Error&) {
            if (!fs::exists(path, failed)) throw;  // else another press took the number meanwhile
        }
    }
}

}  // namespace optrel::rig

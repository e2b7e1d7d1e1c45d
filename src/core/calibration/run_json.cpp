// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/run_json.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/path_text.h"

namespace optrel {
namespace {

using nlohmann::json;

json fit_to_json(const CornerFit& f) {
    if (!f.ok) return nullptr;
    return {f.position.x(),     f.position.y(), f.covariance(0, 0), f.covariance(0, 1),
            f.covariance(1, 1), f.blur_px,      f.amplitude,        f.base};
}

CornerFit fit_from_json(const json& j) {
    CornerFit f;
    if (j.is_null()) return f;
    f.ok = true;
    f.position = {j.at(0).get<double>(), j.at(1).get<double>()};
    const double cross = j.at(3);
    f.covariance << j.at(2).get<double>(), cross, cross, j.at(4).get<double>();
    f.blur_px = j.at(5);
    f.amplitude = j.at(6);
    if (j.size() > 7) f.base = j.at(7);
    return f;
}

json flat_to_json(const FlatField& f) {
    json blocks = json::array();
    for (const FlatField::Block& b : f.blocks)
        blocks.push_back({b.uv.x(), b.uv.y(), static_cast<int>(b.channel), b.mean});
    return {{"clipped", f.clipped}, {"level", f.level}, {"blocks", blocks}};
}

FlatField flat_from_json(const json& j, const std::string& name) {
    FlatField f;
    f.name = name;
    f.clipped = j.at("clipped");
    f.level = j.at("level");
    for (const json& b : j.at("blocks"))
        f.blocks.push_back({Vec2(b.at(0).get<double>(), b.at(1).get<double>()),
                            static_cast<Channel>(b.at(2).get<int>()), b.at(3).get<double>()});
    return f;
}

/// A row for each edge and colour: u, v, channel, run, angle, MTF50, sigma, modulation.
json resolution_to_json(const std::vector<ResolutionPoint>& points) {
    json out = json::array();
    for (const ResolutionPoint& p : points)
        out.push_back({p.place.x(), p.place.y(), static_cast<int>(p.channel), static_cast<int>(p.run), p.angle_deg,
                       p.mtf50, p.sigma, p.modulation.values});
    return out;
}

std::vector<ResolutionPoint> resolution_from_json(const json& rows, const RunFrame& frame) {
    const PictureGeometry g{frame.width, frame.height, 1};
    std::vector<ResolutionPoint> out;
    for (const json& row : rows) {
        ResolutionPoint p;
        p.place = {row.at(0).get<double>(), row.at(1).get<double>()};
        p.height = (p.place - g.middle()).norm() / g.half_diagonal_px();
        p.channel = static_cast<Channel>(std::clamp(row.at(2).get<int>(), 0, 2));
        p.run = static_cast<LineRun>(std::clamp(row.at(3).get<int>(), 0, 2));
        p.angle_deg = row.at(4);
        p.mtf50 = row.at(5);
        p.sigma = row.at(6);
        p.modulation.values = row.at(7).get<std::array<double, Modulation::count>>();
        out.push_back(p);
    }
    return out;
}

}  // namespace

std::string run_frame_to_json(const RunFrame& f) {
    const Metadata& m = f.metadata;
    json out = {{"path", path_to_text(f.path.native())},
                {"hash", f.hash},
                {"size", {f.width, f.height}},
                {"role", static_cast<int>(f.role)},
                {"problem", f.problem},
                {"dropped", f.dropped},
                {"metadata",
                 {{"rendered", m.kind == FrameKind::rendered},
                  {"maker", m.maker},
                  {"model", m.model},
                  {"body_serial", m.body_serial},
                  {"lens", m.lens},
                  {"lens_serial", m.lens_serial},
                  {"focal_mm", m.focal_mm},
                  {"aperture", m.aperture},
                  {"iso", m.iso},
                  {"equivalent_mm", m.equivalent_mm},
                  {"distance_m", m.distance_m},
                  {"pitch_um", m.pitch_um},
                  {"time", m.time},
                  {"orientation", m.orientation}}}};
    if (f.detection.found()) {
        const ChartDetection& d = f.detection;
        json corners = json::array();
        for (const ChartCorner& c : d.corners)
            corners.push_back(
                {c.column, c.row, fit_to_json(c.channel[0]), fit_to_json(c.channel[1]), fit_to_json(c.channel[2])});
        out["detection"] = {{"extent", {d.columns, d.rows}},
                            {"whole", d.whole_board},
                            {"rejected", d.rejected},
                            {"blur_px", d.blur_px},
                            {"contrast", d.contrast},
                            {"clipped", d.clipped},
                            {"corners", corners},
                            {"identified", d.identified},
                            {"markers", d.markers},
                            {"mirrored", d.mirrored}};
    }
    if (!f.flat.blocks.empty()) out["flat"] = flat_to_json(f.flat);
    if (!f.whites.blocks.empty()) out["whites"] = flat_to_json(f.whites);
    if (!f.resolution.empty()) out["resolution"] = resolution_to_json(f.resolution);
    for (const auto& [column, row] : f.dropped_corners) out["dropped_corners"].push_back({column, row});
    return json_text(out);
}

RunFrame run_frame_from_json(const std::string& text, const std::string& where) {
    try {
        const json j = json::parse(text);
        RunFrame f;
        f.path = path_from_text(j.at("path").get<std::string>());
        f.hash = j.at("hash");
        f.width = j.at("size").at(0);
        f.height = j.at("size").at(1);
        f.role = static_cast<RunRole>(j.at("role").get<int>());
        f.problem = j.at("problem");
        f.dropped = j.at("dropped");
        const json& m = j.at("metadata");
        f.metadata.kind = m.at("rendered").get<bool>() ? FrameKind::rendered : FrameKind::raw;
        f.metadata.maker = m.at("maker");
        f.metadata.model = m.at("model");
        f.metadata.body_serial = m.at("body_serial");
        f.metadata.lens = m.at("lens");
        f.metadata.lens_serial = m.at("lens_serial");
        f.metadata.focal_mm = m.at("focal_mm");
        f.metadata.aperture = m.at("aperture");
        f.metadata.iso = m.at("iso");
        f.metadata.equivalent_mm = m.value("equivalent_mm", 0);
        f.metadata.distance_m = m.at("distance_m");
        f.metadata.pitch_um = m.at("pitch_um");
        f.metadata.time = m.at("time");
        f.metadata.orientation = m.value("orientation", 1);
        f.metadata.width = f.width;
        f.metadata.height = f.height;
        if (j.contains("detection")) {
            const json& d = j["detection"];
            f.detection.columns = d.at("extent").at(0);
            f.detection.rows = d.at("extent").at(1);
            f.detection.whole_board = d.at("whole");
            f.detection.rejected = d.at("rejected");
            f.detection.blur_px = d.at("blur_px");
            f.detection.contrast = d.at("contrast");
            f.detection.clipped = d.at("clipped");
            f.detection.identified = d.value("identified", false);
            f.detection.markers = d.value("markers", 0);
            f.detection.mirrored = d.value("mirrored", false);
            for (const json& c : d.at("corners")) {
                ChartCorner corner;
                corner.column = c.at(0);
                corner.row = c.at(1);
                for (int k = 0; k < 3; ++k) corner.channel[k] = fit_from_json(c.at(2 + k));
                f.detection.corners.push_back(corner);
            }
        }
        if (j.contains("flat")) f.flat = flat_from_json(j["flat"], f.name());
        if (j.contains("whites")) f.whites = flat_from_json(j["whites"], f.name());
        if (j.contains("resolution")) f.resolution = resolution_from_json(j["resolution"], f);
        for (const json& c : j.value("dropped_corners", json::array()))
            f.dropped_corners.emplace(c.at(0).get<int>(), c.at(1).get<int>());
        return f;
    } catch (const json::exception& error) {
        throw store_error(
            fmt::format("A frame of {} is damaged ({}); delete that run and measure it again.", where, error.what()));
    }
}

}  // namespace optrel

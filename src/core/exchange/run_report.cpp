// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/run_report.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "optics/curves.h"
#include "optics/frame_map.h"

namespace optrel {
namespace {

using nlohmann::json;

json fringe_report(const LateralChromatic& f) {
    return {{"c", {f.c0, f.c1, f.c2}},
            {"shift_mm", {f.shift_mm.x(), f.shift_mm.y()}},
            {"residual_p95_px", f.residual_p95_px}};
}

json falloff_report(const Falloff& f, double half_diagonal_mm) {
    json at = json::object();
    const std::pair<const char*, Channel> channels[] = {
        {"red", Channel::red}, {"green", Channel::green}, {"blue", Channel::blue}};
    for (const auto& [name, channel] : channels) {
        json values = json::array();
        for (const double h : {0.25, 0.5, 0.75, 1.0}) values.push_back(falloff_ev(f, channel, h, half_diagonal_mm));
        at[name] = values;
    }
    return {{"ev_at_heights_0.25_0.5_0.75_1", at},
            {"green", f.a[1]},
            {"form", f.reciprocal ? "reciprocal" : "polynomial"},
            {"centre_mm", {f.centre_mm.x(), f.centre_mm.y()}},
            {"centre_measured", f.centre_measured},
            {"from_chart", f.from_chart},
            {"residual_percent", f.residual_percent},
            {"sigma_percent", f.sigma_percent}};
}

json curve_report(const std::vector<LensCurve>& curves) {
    static constexpr const char* names[] = {"red", "green", "blue"};
    json out = json::object();
    for (const LensCurve& curve : curves) {
        json heights = json::array(), values = json::array(), sigmas = json::array();
        for (const CurveSample& sample : curve.samples) {
            heights.push_back(sample.height);
            values.push_back(sample.value);
            sigmas.push_back(sample.sigma);
        }
        out[curve.run ? to_string(*curve.run) : names[static_cast<int>(curve.channel)]] = {
            {"field_height", heights}, {"value", values}, {"one_sigma", sigmas}};
    }
    return out;
}

json curves_report(const Profile& profile, int node) {
    const LensCurves curves = lens_curves(profile, measured_node(profile, node), 20);
    return {{"distortion_percent", curve_report(curves.distortion)},
            {"fringe_px", curve_report(curves.fringe)},
            {"falloff_ev", curve_report(curves.falloff)},
            {"mtf50_green", curve_report(curves.resolution)}};
}

json node_report(const RunSolution& s, std::size_t n) {
    const ProfileNode& node = s.profile.nodes[n];
    const NodeQuality& q = node.quality;
    const PictureGeometry& g = s.profile.geometry;
    const Vec2 centre = g.to_image(node.centre_mm);
    json trials = json::array();
    for (const ModelTrial& t : s.nodes[n].trials)
        trials.push_back({{"model", t.name()},
                          {"rms_px", t.rms_px},
                          {"held_out_rms_px", t.unseen.rms_px},
                          {"held_out_sigmas", std::sqrt(t.unseen.weighted / 2)},
                          {"taken", t.taken}});
    json out = {
        {"setting",
         {{"focal_mm", node.setting.focal_mm},
          {"aperture", node.setting.aperture},
          {"distance_m", node.setting.distance_m}}},
        {"frames_used", q.frames_used},
        {"corners", q.corners},
        {"rms_px", q.rms_px},
        {"held_out_rms_px", q.held_out_rms_px},
        {"model", to_string(node.model.kind())},
        {"coefficients", std::vector<double>(node.model.coefficients().begin(), node.model.coefficients().end())},
        {"models_tried", trials},
        {"focal_px", node.focal_mm / g.pitch_mm()},
        {"focal_mm", node.focal_mm},
        {"centre", {centre.x(), centre.y()}},
        {"coverage", q.coverage},
        {"largest_field_height", q.largest_height},
        {"max_sigma_px", q.max_sigma_px},
        {"distortion_extreme_percent", q.distortion_extreme_percent},
        {"straightness", {{"before_px", q.straightness_before_px}, {"after_px", q.straightness_after_px}}}};
    out["curves"] = curves_report(s.profile, static_cast<int>(n));
    if (node.mapping_from_aperture > 0) out["mapping_from_aperture"] = node.mapping_from_aperture;
    if (s.nodes[n].lens.board_free) {
        const BoardShape& b = s.nodes[n].lens.board;
        out["board"] = {{"stretch_y", b.stretch_y},
                        {"bow", {b.bow_xx, b.bow_xy, b.bow_yy}},
                        {"bow_length_mm", BoardShape::length_mm}};
    }
    if (node.red) out["fringe"]["red"] = fringe_report(*node.red);
    if (node.blue) out["fringe"]["blue"] = fringe_report(*node.blue);
    if (node.falloff) out["falloff"] = falloff_report(*node.falloff, g.half_diagonal_mm());
    return out;
}

/// The use of each frame: chart frames that were used, those that were not, and the number of flat fields.
json frames_report(const std::vector<RunFrame>& frames, const RunSolution& s) {
    json dropped = json::array(), views = json::array();
    int flats = 0;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const FrameOutcome& o = s.outcomes[i];
        const std::string path = frames[i].path.string();
        if (!o.used) {
            dropped.push_back({{"frame", path}, {"reason", o.reason}});
            continue;
        }
        flats += frames[i].role != RunRole::chart;
        if (frames[i].role != RunRole::chart) continue;
        const auto rejected =
            std::count_if(o.view.points.begin(), o.view.points.end(), [](const ViewPoint& p) { return p.rejected; });
        views.push_back({{"frame", path},
                         {"node", o.node},
                         {"rms_px", o.view.rms_px},
                         {"corners", o.view.points.size()},
                         {"corners_rejected", rejected},
                         {"tilt_degrees", o.view.tilt_degrees()},
                         {"blur_px", frames[i].detection.blur_px}});
    }
    return {{"frames", views}, {"frames_dropped", dropped}, {"flats_used", flats}};
}

json findings_report(const std::vector<RunFrame>& frames, const RunSolution& s) {
    json out = json::array();
    for (const Finding& f : s.findings) {
        json finding = {{"name", f.name}, {"text", f.text}, {"remedy", f.remedy}, {"serious", f.serious}};
        if (f.frame >= 0) finding["frame"] = frames[f.frame].path.string();
        if (f.place) finding["place"] = {f.place->x(), f.place->y()};
        for (const SeriousFinding& kept : s.profile.findings)
            if (f.serious && kept.name == f.name && kept.accepted())
                finding["accepted"] = {{"by", kept.accepted_by}, {"reason", kept.reason}, {"time", kept.time}};
        out.push_back(finding);
    }
    return out;
}

json nodes_report(const RunSolution& s) {
    json nodes = json::array(), between = json::array();
    int used = 0, corners = 0;
    for (std::size_t n = 0; n < s.profile.nodes.size(); ++n) {
        nodes.push_back(node_report(s, n));
        if (s.profile.nodes[n].mapping_from_aperture > 0) continue;
        used += s.profile.nodes[n].quality.frames_used;
        corners += s.profile.nodes[n].quality.corners;
    }
    for (const LeftOut& l : leave_one_out(s.profile))
        between.push_back({{"node", l.node},
                           {"setting", to_string(s.profile.nodes[l.node].setting)},
                           {"rms_px", l.rms_px},
                           {"largest_px", l.largest_px},
                           {"falloff_ev", l.falloff_ev}});
    return {{"nodes", nodes}, {"left_out_nodes", between}, {"frames_used", used}, {"corners", corners}};
}

json provenance_report(const Provenance& p) {
    json sources = json::array();
    for (const auto& [name, hash] : p.frames) sources.push_back({{"name", name}, {"sha256", hash}});
    return {{"author", p.author}, {"time", p.time}, {"program", p.program},
            {"chart", p.chart},   {"note", p.note}, {"frames", sources}};
}

}  // namespace

double falloff_ev(const Falloff& falloff, Channel channel, double height, double half_diagonal_mm) {
    const double relative =
        falloff.relative(channel, falloff.centre_mm + Vec2(height * half_diagonal_mm, 0), half_diagonal_mm);
    return std::log2(std::max(1e-6, relative));
}

json run_report(const std::vector<RunFrame>& frames, const RunSolution& s) {
    const json nodes = nodes_report(s);
    // The keys of the first lens setting are repeated at the top.
    json out = nodes["nodes"].front();
    out.update(frames_report(frames, s));
    out.update(nodes);
    const PictureGeometry& g = s.profile.geometry;
    out.update({{"format", "optrel-run-report"},
                {"lens", s.profile.lens},
                {"lens_serial", s.profile.lens_serial},
                {"camera", s.profile.camera},
                {"size", {g.width, g.height}},
                {"pitch_um", g.pitch_um},
                {"findings", findings_report(frames, s)},
                {"provenance", provenance_report(s.profile.provenance)},
                {"seconds", s.seconds}});
    return out;
}

}  // namespace optrel

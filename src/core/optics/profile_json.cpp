// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "optics/profile.h"

namespace optrel {
namespace {

using nlohmann::json;

/// 2: the axis of a tilted sensor is a turn; uncertainties of red, blue and falloff. 3: the distortion's centre as
/// well, which format 1 had instead of the turn, and the growth of the tangential terms.
/// 8: serious findings, which lower the grade of a profile where they concern its mapping; the aspect of pixels.
constexpr int format_version = 8;
/// Profiles measured here are written in the older format that earlier readers know. Those readers must not take other
/// origins for measured here.
int format_of(const Profile& p) {
    const auto stretched = [](const ProfileNode& n) { return n.model.aspect() != 1; };
    if (!p.findings.empty() || std::any_of(p.nodes.begin(), p.nodes.end(), stretched)) return 8;
    if (p.taken_in) return 7;
    switch (p.origin) {
        case MeasurementOrigin::by_hand: return 4;
        case MeasurementOrigin::embedded: return 5;
        case MeasurementOrigin::calibration_file: return 6;
        default: return 3;
    }
}

constexpr const char* channel_names[] = {"red", "green", "blue"};

json to_json(const Vec2& v) { return json::array({v.x(), v.y()}); }
Vec2 vec2(const json& j) { return {j.at(0).get<double>(), j.at(1).get<double>()}; }

json matrix_json(const Eigen::MatrixXd& m) {
    json rows = json::array();
    for (Eigen::Index r = 0; r < m.rows(); ++r) {
        json row = json::array();
        for (Eigen::Index c = 0; c < m.cols(); ++c) row.push_back(m(r, c));
        rows.push_back(row);
    }
    return rows;
}
/// A covariance matrix of a given size: symmetric, without negative variances.
Eigen::MatrixXd square(const json& rows, Eigen::Index size) {
    if (size > 64 || static_cast<Eigen::Index>(rows.size()) != size)
        throw input_error("one of its covariances has the wrong size");
    Eigen::MatrixXd out(size, size);
    for (Eigen::Index r = 0; r < size; ++r)
        for (Eigen::Index c = 0; c < size; ++c)
            out(r, c) = rows.at(static_cast<std::size_t>(r)).at(static_cast<std::size_t>(c)).get<double>();
    if (!out.allFinite() || (out.diagonal().array() < 0).any()) throw input_error("one of its covariances is none");
    return out;
}

json to_json(const LateralChromatic& f) {
    return {{"c", {f.c0, f.c1, f.c2}},
            {"shift_mm", to_json(f.shift_mm)},
            {"residual_p95_px", f.residual_p95_px},
            {"covariance", matrix_json(f.covariance)},
            {"misfit_px", f.misfit_px}};
}
LateralChromatic fringe(const json& j) {
    LateralChromatic f;
    f.c0 = j.at("c").at(0);
    f.c1 = j.at("c").at(1);
    f.c2 = j.at("c").at(2);
    f.shift_mm = vec2(j.at("shift_mm"));
    f.residual_p95_px = j.value("residual_p95_px", 0.0);
    if (j.contains("covariance")) f.covariance = square(j["covariance"], 5);
    f.misfit_px = j.value("misfit_px", 0.0);
    return f;
}

json to_json(const Falloff& f) {
    return {{"a", {{"red", f.a[0]}, {"green", f.a[1]}, {"blue", f.a[2]}}},
            {"form", f.reciprocal ? "reciprocal" : "polynomial"},
            {"centre_mm", to_json(f.centre_mm)},
            {"residual_percent", f.residual_percent},
            {"sigma_percent", f.sigma_percent},
            {"covariance",
             {{"red", matrix_json(f.covariance[0])},
              {"green", matrix_json(f.covariance[1])},
              {"blue", matrix_json(f.covariance[2])}}},
            {"misfit_percent", f.misfit_percent},
            {"centre_measured", f.centre_measured},
            {"from_chart", f.from_chart}};
}
Falloff falloff(const json& j) {
    Falloff f;
    for (int c = 0; c < 3; ++c) {
        const auto terms = j.at("a").at(channel_names[c]).get<std::vector<double>>();
        if (terms.size() < 3 || terms.size() > 4) throw input_error("its falloff has not three or four terms");
        std::copy(terms.begin(), terms.end(), f.a[c].begin());
    }
    const std::string form = j.value("form", "polynomial");
    if (form != "polynomial" && form != "reciprocal")
        throw input_error("its falloff has a form that this version does not know");
    f.reciprocal = form == "reciprocal";
    f.centre_mm = vec2(j.at("centre_mm"));
    f.residual_percent = j.value("residual_percent", std::array<double, 3>{});
    f.sigma_percent = j.value("sigma_percent", 0.0);
    f.centre_measured = j.value("centre_measured", false);
    f.misfit_percent = j.value("misfit_percent", std::array<double, 3>{});
    if (j.contains("covariance"))
        for (int c = 0; c < 3; ++c) f.covariance[c] = square(j["covariance"].at(channel_names[c]), 4);
    f.from_chart = j.value("from_chart", false);
    return f;
}

json to_json(const NodeQuality& q) {
    return {{"frames_used", q.frames_used},
            {"frames_dropped", q.frames_dropped},
            {"corners", q.corners},
            {"rms_px", q.rms_px},
            {"held_out_rms_px", q.held_out_rms_px},
            {"max_sigma_px", q.max_sigma_px},
            {"coverage", q.coverage},
            {"largest_height", q.largest_height},
            {"distortion_extreme_percent", q.distortion_extreme_percent},
            {"straightness_before_px", q.straightness_before_px},
            {"straightness_after_px", q.straightness_after_px}};
}
NodeQuality quality(const json& j) {
    NodeQuality q;
    q.frames_used = j.value("frames_used", 0);
    q.frames_dropped = j.value("frames_dropped", 0);
    q.corners = j.value("corners", 0);
    q.rms_px = j.value("rms_px", 0.0);
    q.held_out_rms_px = j.value("held_out_rms_px", 0.0);
    q.max_sigma_px = j.value("max_sigma_px", 0.0);
    q.coverage = j.value("coverage", 0.0);
    q.largest_height = j.value("largest_height", 0.0);
    q.distortion_extreme_percent = j.value("distortion_extreme_percent", 0.0);
    q.straightness_before_px = j.value("straightness_before_px", 0.0);
    q.straightness_after_px = j.value("straightness_after_px", 0.0);
    return q;
}

json to_json(const ResolutionCell& c) {
    return {{"place_mm", to_json(c.place_mm)},
            {"height", c.height},
            {"plane", channel_names[static_cast<int>(c.channel)]},
            {"direction", to_string(c.run)},
            {"edges", c.mean.count},
            {"mtf50", c.mean.mtf50},
            {"sigma", c.mean.sigma},
            {"spread", c.mean.spread},
            {"modulation", c.mean.modulation.values}};
}
/// Index of a text in a list of names; throws for other texts.
template <std::size_t N>
int which(const std::string& text, const char* const (&names)[N]) {
    for (std::size_t i = 0; i < N; ++i)
        if (text == names[i]) return static_cast<int>(i);
    throw input_error(fmt::format("its resolution field speaks of '{}', which this version does not know", text));
}
ResolutionCell resolution_cell(const json& j) {
    constexpr const char* runs[] = {"sagittal", "tangential"};
    ResolutionCell c;
    c.place_mm = vec2(j.at("place_mm"));
    c.height = j.at("height");
    c.channel = static_cast<Channel>(which(j.at("plane").get<std::string>(), channel_names));
    c.run = static_cast<LineRun>(which(j.at("direction").get<std::string>(), runs));
    c.mean = {j.at("edges"), j.at("mtf50"), j.at("sigma"), j.at("spread"), {}};
    c.mean.modulation.values = j.at("modulation").get<std::array<double, Modulation::count>>();
    if (!(c.mean.mtf50 > 0) || c.mean.count < 1 || !(c.mean.sigma >= 0) || !(c.height >= 0))
        throw input_error("its resolution field has a figure that is none");
    return c;
}

json to_json(const ProfileNode& n) {
    json out = {
        {"setting",
         {{"focal_mm", n.setting.focal_mm}, {"aperture", n.setting.aperture}, {"distance_m", n.setting.distance_m}}},
        {"focal_mm", n.focal_mm},
        {"centre_mm", to_json(n.centre_mm)},
        {"model", to_string(n.model.kind())},
        {"coefficients", std::vector<double>(n.model.coefficients().begin(), n.model.coefficients().end())},
        {"largest_radius_mm", n.largest_radius_mm},
        {"quality", to_json(n.quality)}};
    if (n.model.aspect() != 1) out["aspect"] = n.model.aspect();
    out["covariance"] = matrix_json(n.covariance);
    out["misfit_px"] = n.misfit_px;
    if (n.mapping_from_aperture > 0) out["mapping_from_aperture"] = n.mapping_from_aperture;
    if (n.red) out["red"] = to_json(*n.red);
    if (n.blue) out["blue"] = to_json(*n.blue);
    if (n.falloff) out["falloff"] = to_json(*n.falloff);
    for (const ResolutionCell& c : n.resolution) out["resolution"].push_back(to_json(c));
    return out;
}

/// Reads model and covariance. Coefficients that older formats lack are exactly zero.
void read_model(const json& j, int version, ProfileNode& n) {
    const LensModelKind kind = lens_model_kind(j.at("model").get<std::string>());
    const auto c = j.at("coefficients").get<std::vector<double>>();
    const int count = kind->coefficient_count(), given = static_cast<int>(c.size());
    if (given > largest_coefficient_count) throw input_error("it has more lens coefficients than any model");
    Eigen::MatrixXd own;
    if (j.contains("covariance") && !j["covariance"].empty())
        own = square(j["covariance"], static_cast<Eigen::Index>(j["covariance"].size()));
    LensModel::Coefficients all = Eigen::Map<const Eigen::VectorXd>(c.data(), given);
    if (version >= 3 || given != count - kind->optional_count()) {
        n.model = LensModel(kind, all);
        n.covariance = own;
        return;
    }
    // Index of a coefficient of the file in today's order: format 1 had the centre of distortion in the place of the
    // axis.
    const auto place = [&](int k) { return version < 2 && k >= given - 2 ? k + 2 : k; };
    all.setZero(count);
    for (int k = 0; k < given; ++k) all[place(k)] = c[static_cast<std::size_t>(k)];
    n.model = LensModel(kind, all);
    if (own.rows() != 3 + given) return;
    n.covariance.setZero(3 + count, 3 + count);
    const auto row = [&](int i) { return i < 3 ? i : 3 + place(i - 3); };
    for (int i = 0; i < 3 + given; ++i)
        for (int k = 0; k < 3 + given; ++k) n.covariance(row(i), row(k)) = own(i, k);
}

json to_json(const SeriousFinding& f) {
    json out = {{"name", f.name}, {"text", f.text}, {"of_mapping", f.of_mapping}};
    if (f.accepted()) out["accepted"] = {{"by", f.accepted_by}, {"reason", f.reason}, {"time", f.time}};
    return out;
}
SeriousFinding serious_finding(const json& j) {
    SeriousFinding f{j.at("name"), j.at("text"), j.at("of_mapping"), "", "", ""};
    if (f.name.empty()) throw input_error("it has a finding without a name");
    if (j.contains("accepted")) {
        const json& a = j["accepted"];
        f.accepted_by = a.at("by");
        f.reason = a.value("reason", "");
        f.time = a.value("time", "");
    }
    return f;
}

ProfileNode node(const json& j, int version) {
    ProfileNode n;
    const json& setting = j.at("setting");
    n.setting = {setting.value("focal_mm", 0.0), setting.value("aperture", 0.0), setting.value("distance_m", 0.0)};
    n.focal_mm = j.at("focal_mm");
    n.mapping_from_aperture = j.value("mapping_from_aperture", 0.0);
    n.centre_mm = vec2(j.at("centre_mm"));
    read_model(j, version, n);
    if (j.contains("aspect")) n.model = n.model.with_aspect(j["aspect"].get<double>());
    n.largest_radius_mm = j.value("largest_radius_mm", 0.0);
    n.misfit_px = j.value("misfit_px", 0.0);
    if (j.contains("red")) n.red = fringe(j["red"]);
    if (j.contains("blue")) n.blue = fringe(j["blue"]);
    if (j.contains("falloff")) n.falloff = falloff(j["falloff"]);
    for (const json& c : j.value("resolution", json::array())) n.resolution.push_back(resolution_cell(c));
    if (j.contains("quality")) n.quality = quality(j["quality"]);
    if (!(n.focal_mm > 0)) throw input_error("its focal length is not positive");
    return n;
}

}  // namespace

namespace {

/// JSON would write a value that is not finite as null, which no reader accepts.
void require_finite(const json& j, const std::string& name) {
    if (j.is_number_float() && !std::isfinite(j.get<double>()))
        throw input_error(fmt::format(
            "The profile of {} holds a value that is no finite number, so that it is not kept; solve the lens again.",
            name));
    if (j.is_structured())
        for (const json& part : j) require_finite(part, name);
}

}  // namespace

std::string profile_to_json(const Profile& p) {
    json nodes = json::array();
    for (const ProfileNode& n : p.nodes) nodes.push_back(to_json(n));
    json frames = json::array();
    for (const auto& [name, hash] : p.provenance.frames) frames.push_back({{"name", name}, {"hash", hash}});
    json out = {{"format", "optrel-profile"},
                {"format_version", format_of(p)},
                {"id", p.id},
                {"version", p.version},
                {"name", p.name},
                {"lens", p.lens},
                {"lens_serial", p.lens_serial},
                {"camera", p.camera},
                {"sensor",
                 {{"width", p.geometry.width},
                  {"height", p.geometry.height},
                  {"pitch_um", p.geometry.pitch_um},
                  {"pitch_assumed", p.pitch_assumed}}},
                {"nodes", nodes},
                {"provenance",
                 {{"author", p.provenance.author},
                  {"time", p.provenance.time},
                  {"program", p.provenance.program},
                  {"chart", p.provenance.chart},
                  {"note", p.provenance.note},
                  {"frames", frames}}}};
    for (const SeriousFinding& f : p.findings) out["findings"].push_back(to_json(f));
    if (p.origin == MeasurementOrigin::by_hand) out["by_hand"] = true;
    if (p.origin == MeasurementOrigin::embedded) out["embedded"] = true;
    if (p.origin == MeasurementOrigin::calibration_file) out["calibration_file"] = true;
    if (p.taken_in)
        out["taken_in"] = {{"way", p.taken_in->way},       {"source", p.taken_in->source}, {"key", p.taken_in->key},
                           {"signer", p.taken_in->signer}, {"author", p.taken_in->author}, {"time", p.taken_in->time}};
    require_finite(out, p.name);
    return json_text(out, 2) + "\n";
}

Profile profile_from_json(const std::string& text, const std::string& where) {
    try {
        const json j = parse_json(text, where);
        if (!j.is_object() || j.value("format", "") != "optrel-profile")
            throw input_error(
                fmt::format("{} is not a lens profile; choose a file that Optrel wrote as a profile.", where));
        if (j.value("format_version", 0) > format_version)
            throw input_error(
                fmt::format("{} is a lens profile of format {}, newer than this program reads ({}); update Optrel.",
                            where, j.value("format_version", 0), format_version));
        Profile p;
        p.id = j.at("id");
        p.version = j.value("version", 0);
        p.name = j.value("name", "");
        if (j.value("by_hand", false)) p.origin = MeasurementOrigin::by_hand;
        if (j.value("embedded", false)) p.origin = MeasurementOrigin::embedded;
        if (j.value("calibration_file", false)) p.origin = MeasurementOrigin::calibration_file;
        p.lens = j.value("lens", "");
        p.lens_serial = j.value("lens_serial", "");
        p.camera = j.value("camera", "");
        const json& sensor = j.at("sensor");
        p.geometry = {sensor.at("width"), sensor.at("height"), sensor.at("pitch_um")};
        p.pitch_assumed = sensor.value("pitch_assumed", false);
        if (p.geometry.width <= 0 || p.geometry.height <= 0 || !(p.geometry.pitch_um > 0))
            throw input_error("its sensor size is not positive");
        for (const json& n : j.at("nodes")) p.nodes.push_back(node(n, j.value("format_version", 0)));
        if (p.nodes.empty()) throw input_error("it holds no lens setting");
        if (j.contains("provenance")) {
            const json& v = j["provenance"];
            p.provenance = {v.value("author", ""), v.value("time", ""), v.value("program", ""),
                            v.value("chart", ""),  v.value("note", ""), {}};
            for (const json& f : v.value("frames", json::array()))
                p.provenance.frames.emplace_back(f.value("name", ""), f.value("hash", ""));
        }
        for (const json& f : j.value("findings", json::array())) p.findings.push_back(serious_finding(f));
        if (j.contains("taken_in")) {
            const json& t = j["taken_in"];
            p.taken_in = MeasurementSource{t.at("way"),    t.at("source"), t.at("key"),
                                           t.at("signer"), t.at("author"), t.at("time")};
            if (!p.taken_in->key.empty()) p.taken_in->standing = Standing::unknown;
        }
        return p;
    } catch (const json::exception& error) {
        throw input_error(
            fmt::format("{} cannot be read as a lens profile ({}); export it again.", where, error.what()));
    } catch (const Error& error) {
        const std::string said = error.what();
        if (said.rfind("it", 0) != 0) throw;
        throw input_error(fmt::format("{} cannot be used as a lens profile: {}; solve the lens again.", where, said));
    }
}

}  // namespace optrel

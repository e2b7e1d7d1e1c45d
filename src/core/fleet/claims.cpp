// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/claims.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/path_text.h"
#include "optics/lens_text.h"

namespace optrel {

int Claim::weight() const {
    return (frames.empty() ? 0 : 32) + (serial.empty() && lens_serial.empty() ? 0 : 16) + (lens_text.empty() ? 0 : 8) +
           (from.empty() && to.empty() ? 0 : 4) + (folder.empty() ? 0 : 2) + (body.empty() && camera.empty() ? 0 : 1);
}

namespace {

bool within(const std::filesystem::path& path, const std::string& folder) {
    const std::string p = path.string();
    const std::string f = !folder.empty() && folder.back() == '/' ? folder.substr(0, folder.size() - 1) : folder;
    return p.size() > f.size() && p.compare(0, f.size(), f) == 0 && p[f.size()] == '/';
}

}  // namespace

bool claim_holds(const Claim& c, const std::filesystem::path& path, const Metadata& m, const std::string& body) {
    if (!c.frames.empty() && std::find(c.frames.begin(), c.frames.end(), path.string()) == c.frames.end()) return false;
    if (!c.camera.empty() && c.camera != camera_name(m)) return false;
    if (!c.serial.empty() && c.serial != m.body_serial &&
        std::find(m.other_serials.begin(), m.other_serials.end(), c.serial) == m.other_serials.end())
        return false;
    if (!c.lens_text.empty() && canonical_lens_text(c.lens_text) != canonical_lens_text(m.lens)) return false;
    if (!c.lens_serial.empty() && c.lens_serial != m.lens_serial) return false;
    if (!c.body.empty() && c.body != body) return false;
    if (!c.folder.empty() && !within(path, c.folder)) return false;
    if (!c.from.empty() && (m.time.empty() || m.time < c.from)) return false;
    if (!c.to.empty() && (m.time.empty() || m.time.substr(0, c.to.size()) > c.to)) return false;
    return true;
}

std::string describe(const Claim& c) {
    std::string out;
    const auto add = [&](const std::string& part) { out += (out.empty() ? "" : ", ") + part; };
    if (!c.camera.empty()) add(c.camera);
    if (!c.serial.empty()) add("number " + c.serial);
    if (!c.lens_text.empty()) add("lens " + c.lens_text);
    if (!c.lens_serial.empty()) add("lens number " + c.lens_serial);
    if (!c.body.empty()) add("frames of " + c.body);
    if (!c.folder.empty()) add("in " + c.folder);
    if (!c.from.empty() && !c.to.empty())
        add(c.from + " to " + c.to);
    else if (!c.from.empty())
        add("from " + c.from);
    else if (!c.to.empty())
        add("until " + c.to);
    if (!c.frames.empty()) add(c.frames.size() == 1 ? "one frame" : fmt::format("{} frames", c.frames.size()));
    if (c.focal_mm > 0) add(fmt::format("at {:g} mm", c.focal_mm));
    if (c.aperture > 0) add(fmt::format("f/{:g}", c.aperture));
    if (c.fingerprint_figure > 0)
        add(fmt::format("by their fingerprint (figure {:.0f} or more)", c.fingerprint_figure));
    return out;
}

std::string claim_to_json(const Claim& c) {
    nlohmann::json j = {{"id", c.id},
                        {"of", c.of == Claim::Of::body ? "body" : "lens"},
                        {"target", c.target},
                        {"author", c.author},
                        {"time", c.time}};
    const auto put = [&](const char* key, const std::string& value) {
        if (!value.empty()) j[key] = value;
    };
    put("camera", c.camera);
    put("serial", c.serial);
    put("lens_text", c.lens_text);
    put("lens_serial", c.lens_serial);
    put("body", c.body);
    put("folder", path_to_text(c.folder));
    put("from", c.from);
    put("to", c.to);
    put("note", c.note);
    for (const std::string& f : c.frames) j["frames"].push_back(path_to_text(f));
    if (c.focal_mm > 0) j["focal_mm"] = c.focal_mm;
    if (c.aperture > 0) j["aperture"] = c.aperture;
    if (c.fingerprint_figure > 0) j["fingerprint_figure"] = c.fingerprint_figure;
    return json_text(j);
}

Claim claim_from_json(const std::string& text, const std::string& where) {
    try {
        const nlohmann::json j = parse_json(text, "The claim in " + where);
        Claim c;
        c.id = j.at("id");
        c.of = j.at("of") == "lens" ? Claim::Of::lens : Claim::Of::body;
        c.target = j.at("target");
        c.camera = j.value("camera", "");
        c.serial = j.value("serial", "");
        c.lens_text = j.value("lens_text", "");
        c.lens_serial = j.value("lens_serial", "");
        c.body = j.value("body", "");
        c.folder = path_from_text(j.value("folder", ""));
        c.from = j.value("from", "");
        c.to = j.value("to", "");
        c.note = j.value("note", "");
        c.author = j.value("author", "");
        c.time = j.value("time", "");
        c.focal_mm = j.value("focal_mm", 0.0);
        c.aperture = j.value("aperture", 0.0);
        c.fingerprint_figure = j.value("fingerprint_figure", 0.0);
        if (j.contains("frames"))
            for (const std::string f : j["frames"]) c.frames.push_back(path_from_text(f));
        return c;
    } catch (const nlohmann::json::exception& error) {
        throw input_error(fmt::format("The claim in {} cannot be read: it is damaged ({}); restore it from a copy.",
                                      where, error.what()));
    }
}

namespace {

/// Whether a text is a time as Exif writes it, or the beginning of one.
bool is_time_prefix(const std::string& text) {
    static constexpr char shape[] = "dddd:dd:dd dd:dd:dd";
    if (text.size() > sizeof shape - 1) return false;
    for (std::size_t i = 0; i < text.size(); ++i)
        if (shape[i] == 'd' ? !std::isdigit(static_cast<unsigned char>(text[i])) : text[i] != shape[i]) return false;
    return text.empty() || text.size() >= 4;
}

}  // namespace

void check_claim(const Claim& c) {
    if (c.target.empty()) throw input_error("A claim needs a body or a lens; choose one.");
    for (const std::string* time : {&c.from, &c.to})
        if (!is_time_prefix(*time))
            throw input_error(fmt::format(
                "'{}' is no time of a frame; write it as files do, as in 2026:03:04 14:00:00, or its beginning.",
                *time));
    if (c.weight() == 0)
        throw input_error("This claim would hold for every frame; name a number, a folder, a time span or frames.");
    if (!c.from.empty() && !c.to.empty() && c.to < c.from.substr(0, c.to.size()))
        throw input_error(fmt::format("The time span ends ({}) before it begins ({}); exchange them.", c.to, c.from));
    if (!(c.focal_mm >= 0 && c.focal_mm <= 5000 && c.aperture >= 0 && c.aperture <= 512))
        throw input_error("The focal length or the aperture of the claim is out of range; correct it.");
}

}  // namespace optrel

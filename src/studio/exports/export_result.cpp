// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/export_result.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"
#include "exchange/displacement_map.h"
#include "exchange/file_name.h"
#include "films/film_writer.h"
#include "frames/dng_writer.h"
#include "frames/picture_writer.h"

namespace optrel {

namespace fs = std::filesystem;

const OutputFormat& export_output(ExportFormat format) {
    switch (format) {
        case ExportFormat::dng: return dng_output();
        case ExportFormat::exr: return exr_output();
        case ExportFormat::film: return film_output();
        default: return picture_output(static_cast<PictureFormat>(format));
    }
}

Exported about_to_export(const fs::path& frame, const FrameDevelopment& facts, const fs::path& out) {
    Exported done;
    done.frame = frame;
    done.out = out;
    done.profile = facts.chosen;
    done.width = facts.metadata.width;
    done.height = facts.metadata.height;
    return done;
}

bool ExportNames::taken_here(const fs::path& path) const { return given_.count(lowered(path.string())) > 0; }

void ExportNames::given(const fs::path& path) { given_.insert(lowered(path.string())); }

fs::path ExportNames::take(const fs::path& frame, const FrameDevelopment& facts, int number) {
    const std::string name =
        name_from(delivery_.file_name, {frame.stem().string(), facts.body, delivery_.name, number, facts.metadata});
    const auto with = [&](const std::string& suffix) { return folder_ / (name + suffix + extension_of(delivery_)); };
    fs::path path = with("");
    std::error_code ignored;
    const auto there = [&](const fs::path& p) { return fs::exists(fs::symlink_status(p, ignored)); };
    if (delivery_.taken == NameTaken::number)
        for (int i = 2; taken_here(path) || there(path); ++i) path = with(fmt::format("-{}", i));
    if (taken_here(path))
        throw file_error(
            fmt::format("{} is the name of two frames of this export; put {{number}} into the delivery's "
                        "file name.",
                        path.string()));
    const OutputFormat& format = export_output(delivery_.format);
    check_output(path, format, delivery_.taken == NameTaken::replace ? Existing::replace_ours : Existing::keep);
    given(path);
    return path;
}

namespace {

double number(const FrameDevelopment& r, Field field) { return r.fields[field].value.number; }

/// Manual lens corrections, in addition to a profile or without one.
bool any_by_hand(const FrameDevelopment& r, std::initializer_list<Field> fields) {
    return std::any_of(fields.begin(), fields.end(), [&](Field f) { return number(r, f) != 0; });
}

}  // namespace

XmpProperties correction_note(const FrameDevelopment& r) {
    std::vector<std::string> what;
    XmpProperties out;
    const bool profile = r.profile.has_value();
    const auto note = [&](const char* name, const char* property, Field strength, bool there, bool by_hand) {
        const bool measured = profile && there && number(r, strength) != 0;
        if (measured || by_hand) what.emplace_back(name);
        if (measured) out[property] = fmt::format("{:g} %", number(r, strength));
    };
    note("distortion", "distortion_strength", Field::distortion_strength, true,
         any_by_hand(r, {Field::hand_distortion}));
    note("lateral colour", "fringe_strength", Field::fringe_strength,
         profile && (r.profile->node.red || r.profile->node.blue),
         any_by_hand(r, {Field::red_at_corner, Field::red_bow, Field::blue_at_corner, Field::blue_bow}));
    note("falloff", "vignetting_strength", Field::vignetting_strength, profile && r.profile->node.falloff,
         any_by_hand(r, {Field::corner_light}));
    if (any_by_hand(r, {Field::roll, Field::pitch, Field::yaw})) what.emplace_back("perspective");
    if (what.empty()) return {};
    const bool by_profile = !out.empty();
    out["corrected"] = fmt::format("{} by {}", all_of(what), by_profile ? r.chosen : "hand");
    if (by_profile) {
        out["corrected_by"] = r.chosen;
        if (!r.profile_id.empty()) {
            out["profile"] = r.profile_id;
            out["profile_version"] = std::to_string(r.profile_version);
        }
    }
    if (r.revision > 0) out["baseline_revision"] = std::to_string(r.revision);
    return out;
}

}  // namespace optrel

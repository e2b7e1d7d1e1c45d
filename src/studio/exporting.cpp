// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exporting.h"

#include <fmt/format.h>

#include <algorithm>
#include <future>
#include <system_error>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"
#include "exchange/displacement_map.h"
#include "exchange/file_name.h"
#include "frames/orientation.h"
#include "frames/picture_sketch.h"
#include "frames/tiff_writer.h"
#include "studio/account.h"
#include "studio/develop_frame.h"
#include "studio/films.h"
#include "studio/free_name.h"
#include "studio/raw_copy.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

double number(const FrameDevelopment& r, Field field) { return r.fields[field].value.number; }

/// What a person adds to the lens, or has instead of a profile.
bool any_by_hand(const FrameDevelopment& r, std::initializer_list<Field> fields) {
    return std::any_of(fields.begin(), fields.end(), [&](Field f) { return number(r, f) != 0; });
}

/// What a file was when its export began: a change meanwhile would leave a picture of neither.
struct Stand {
    std::uintmax_t size = 0;
    fs::file_time_type time;

    static Stand of(const fs::path& path) {
        std::error_code error;
        Stand out;
        out.size = fs::file_size(path, error);
        if (!error) out.time = fs::last_write_time(path, error);
        if (error)
            throw file_error(fmt::format("{} cannot be read ({}); look whether its folder is there.", path.string(),
                                         error.message()));
        return out;
    }
    bool operator==(const Stand& o) const { return size == o.size && time == o.time; }
};

}  // namespace

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

namespace {

/// What a frame's correction does, as a map of the frame's size.
Exported write_frame_map(const fs::path& frame, const FrameDevelopment& r, const fs::path& out, Existing existing,
                         const Progress& progress) {
    const FrameMap lens = lens_of(r.fields, r.profile, geometry_of(r.metadata), r.metadata.focal_mm);
    const MapChannels map = displacement_map(lens, {MapDirection::to_frame, true, true, false}, {}, progress);
    write_exr(out, map, MapDirection::to_frame, frame.filename().string() + ", profile " + r.chosen, existing);
    return about_to_export(frame, r, out);
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

Exported export_frame(const fs::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                      const fs::path& out, Existing existing, const Progress& progress) {
    const Stand before = Stand::of(frame);
    // A frame may be one of Optrel's own files, which could be replaced otherwise.
    if (std::error_code ignored; fs::exists(out, ignored) && fs::equivalent(out, frame, ignored))
        throw file_error(
            fmt::format("{} is the frame itself, which is never replaced; export into another folder.", out.string()));
    check_output(out, export_output(delivery.format), existing);
    const auto unchanged = [&] {
        progress.check();
        if (!(Stand::of(frame) == before))
            throw file_error(
                fmt::format("{} changed while it was exported; export it again when it is complete.", frame.string()));
    };
    make_folders(out.parent_path());
    if (delivery.format == ExportFormat::film || facts.film)
        throw input_error(fmt::format("{} is to become a film, which a single frame cannot.", frame.string()));
    if (delivery.format == ExportFormat::exr) return write_frame_map(frame, facts, out, existing, progress);
    if (delivery.format == ExportFormat::dng)
        return write_frame_copy(frame, facts, delivery, out, existing, progress, unchanged);
    // The frame is read once more for its digest, meanwhile.
    auto hash = std::async(std::launch::async, [&frame] { return file_hash(frame); });
    const Developed picture = develop_file(frame, facts.metadata, facts.fields, facts.profile, progress,
                                           {delivery.space, delivery.longest_side});
    progress.check();
    const cv::Mat3w rgb = as_held(picture.rgb, facts.metadata.orientation);
    Exported done = about_to_export(frame, facts, out);
    done.width = rgb.cols;
    done.height = rgb.rows;
    done.scale = picture.scale;
    done.kept = picture.kept;
    if (!facts.metadata.corrected.empty())
        done.remarks.push_back(fmt::format("{} was corrected already ({}).", frame.string(), facts.metadata.corrected));
    Account account = account_of(frame, hash.get(), facts, delivery);
    account.sketch = sketch_of(rgb);
    XmpProperties notes = correction_note(facts);
    notes["account"] = account_to_json(account);
    write_picture(out, existing, rgb, delivery.coding(), icc_profile(delivery.space, picture.camera_to_srgb),
                  {frame, facts.metadata, picture.scale * picture.reduced, delivery.metadata, notes}, unchanged);
    return done;
}

Exported export_any(const fs::path& frame, const FrameDevelopment& facts, const Delivery& delivery, const fs::path& out,
                    Existing existing, Progress& progress) {
    const bool films = delivery.format == ExportFormat::film;
    if (films != facts.film.has_value())
        throw input_error(fmt::format("{} is {}, and the delivery '{}' writes {}; choose another delivery for it.",
                                      frame.string(), facts.film ? "a film" : "a picture", delivery.name,
                                      films ? "films" : "pictures"));
    if (!films) return export_frame(frame, facts, delivery, out, existing, progress);
    make_folders(out.parent_path());
    return export_film(frame, facts, delivery, out, existing, progress);
}

std::vector<Exported> export_frames(const std::vector<fs::path>& frames, const Delivery& delivery,
                                    const fs::path& folder,
                                    const std::function<FrameDevelopment(const fs::path&)>& facts,
                                    const std::function<void(const Exported&)>& done, Progress& progress) {
    check(delivery);
    ExportNames names(folder, delivery);
    // What an export that was killed left behind.
    if (std::error_code ignored; fs::is_directory(folder, ignored)) sweep_parts(folder);
    std::vector<Exported> out;
    const bool films = delivery.format == ExportFormat::film;  // whose pictures are counted
    if (!films) progress.start(static_cast<int>(frames.size()), "Exporting frames");
    for (const fs::path& frame : frames) {
        progress.check();
        Exported one;
        one.frame = frame;
        try {
            require_regular(frame);
            const FrameDevelopment r = facts(frame);
            const int number = static_cast<int>(out.size()) + 1;
            one = write_under_free_name(names, frame, r, delivery, number, [&](const fs::path& path) {
                return export_any(frame, r, delivery, path, existing_for(delivery), progress);
            });
        } catch (const Cancelled&) {
            throw;
        } catch (const std::exception& error) {
            one.problem = reason_for(frame, error);
        }
        if (!films) progress.step();
        done(one);
        out.push_back(std::move(one));
    }
    return out;
}

}  // namespace optrel

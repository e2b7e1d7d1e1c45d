// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/exporting.h"

#include <fmt/format.h>

#include <algorithm>
#include <future>
#include <system_error>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/words.h"
#include "exchange/displacement_map.h"
#include "exchange/file_name.h"
#include "frames/dng_writer.h"
#include "frames/orientation.h"
#include "frames/picture_sketch.h"
#include "studio/development/develop_frame.h"
#include "studio/exports/account.h"
#include "studio/exports/films.h"
#include "studio/exports/free_name.h"
#include "studio/exports/raw_copy.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// State of a file at the beginning of an export, to detect changes meanwhile.
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

namespace {

/// Writes a frame's correction as a map of the frame's size.
Exported write_frame_map(const fs::path& frame, const FrameDevelopment& r, const fs::path& out, Existing existing,
                         const Progress& progress) {
    const FrameMap lens = lens_of(r.fields, r.profile, geometry_of(r.metadata), r.metadata.focal_mm);
    const MapChannels map = displacement_map(lens, {MapDirection::to_frame, true, true, false}, {}, progress);
    write_exr(out, map, MapDirection::to_frame, frame.filename().string() + ", profile " + r.chosen, existing);
    return about_to_export(frame, r, out);
}

}  // namespace

Exported export_frame(const fs::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                      const fs::path& out, Existing existing, const Progress& progress) {
    const Stand before = Stand::of(frame);
    // The frame may itself be a file of Optrel, which could otherwise be replaced.
    if (same_file(out, frame))
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
    // Computes the hash of the frame in parallel.
    auto hash = std::async(std::launch::async, [&frame] { return file_hash(frame); });
    const Developed picture = develop_file(frame, facts, progress, {delivery.space, delivery.longest_side});
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
    // Removes parts of an export that was killed.
    if (std::error_code ignored; fs::is_directory(folder, ignored)) sweep_parts(folder);
    std::vector<Exported> out;
    const bool films = delivery.format == ExportFormat::film;  // progress counts its frames
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

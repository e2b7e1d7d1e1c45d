#include "studio/studio.h"

#include <fmt/chrono.h>
#include <fmt/format.h>
#include <pwd.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <unordered_map>

#include "base/error.h"
#include "base/files.h"
#include "base/parallel.h"
#include "base/words.h"
#include "calibration/grouping.h"
#include "frames/export_metadata.h"
#include "frames/orientation.h"
#include "frames/tiff_writer.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

bool may_be_frame(const fs::path& path) {
    static const char* extensions[] = {".dng", ".tif", ".tiff", ".jpg", ".jpeg", ".png", ".nef", ".cr2",
                                       ".cr3", ".arw", ".raf",  ".orf", ".rw2",  ".pef", ".raw"};
    std::string extension = path.extension().string();
    std::transform(extension.begin(), extension.end(), extension.begin(),
                   [](unsigned char c) { return std::tolower(c); });
    return std::find(std::begin(extensions), std::end(extensions), extension) != std::end(extensions);
}

void collect_frames(const fs::path& folder, std::vector<fs::path>& out, std::vector<std::string>& problems) {
    std::error_code failed;
    fs::directory_iterator it(folder, failed);
    for (; !failed && it != fs::directory_iterator(); it.increment(failed)) {
        const fs::path& path = it->path();
        if (path.filename().string().front() == '.') continue;
        std::error_code status;
        // A link to a folder could lead round in a circle.
        if (it->is_directory(status) && !it->is_symlink(status)) {
            collect_frames(path, out, problems);
        } else if (may_be_frame(path) && it->is_regular_file(status)) {
            if (is_utf8(path.string()))
                out.push_back(path);
            else
                problems.push_back(fmt::format("The name of {} is no UTF-8, so it cannot be kept; rename the file.",
                                               printable(path.string())));
        }
    }
    if (failed)
        problems.push_back(fmt::format("The folder {} cannot be looked into ({}); check its rights.",
                                       printable(folder.string()), failed.message()));
}

}  // namespace

std::vector<fs::path> frame_files(const fs::path& folder, std::vector<std::string>& problems) {
    std::error_code failed;
    if (!fs::is_directory(folder, failed))
        throw file_error(fmt::format("{} is no folder that can be read; choose the folder that holds the frames.",
                                     printable(folder.string())));
    std::vector<fs::path> out;
    collect_frames(fs::absolute(folder).lexically_normal(), out, problems);
    std::sort(out.begin(), out.end());
    return out;
}

int index_files(const std::vector<fs::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<std::string>& problems,
                Progress& progress) {
    std::unordered_map<std::string, const FrameRecord*> by_path;
    by_path.reserve(known.size());
    for (const FrameRecord& f : known) by_path[f.path.string()] = &f;
    progress.start(static_cast<int>(files.size()), "Reading metadata");
    struct Read {
        std::optional<FrameRecord> record;  ///< nothing: as it was
        std::string problem;
    };
    std::vector<Read> read(files.size());
    const auto look = [&](int i) {
        if (progress.cancelled()) return;
        try {
            FrameRecord record;
            record.path = files[i];
            record.size = static_cast<long long>(fs::file_size(files[i]));
            record.modified = static_cast<long long>(fs::last_write_time(files[i]).time_since_epoch().count());
            const auto it = by_path.find(files[i].string());
            if (it == by_path.end() || it->second->size != record.size || it->second->modified != record.modified) {
                record.metadata = read_metadata(files[i]);
                read[i].record = std::move(record);
            }
        } catch (const std::exception& error) {
            read[i].problem = reason_for(files[i], error);
        }
        progress.step();
    };
    constexpr std::size_t portion = 500;
    std::vector<FrameRecord> fresh;
    int count = 0;
    const auto flush = [&] {
        if (fresh.empty()) return;
        sink(fresh);
        count += static_cast<int>(fresh.size());
        fresh.clear();
    };
    parallel_for_taking(
        static_cast<int>(files.size()), look,
        [&](int i) {
            if (!read[i].problem.empty()) problems.push_back(std::move(read[i].problem));
            if (read[i].record) fresh.push_back(std::move(*read[i].record));
            if (fresh.size() >= portion) flush();
        },
        4);
    flush();
    progress.check();
    std::sort(problems.begin(), problems.end());
    return count;
}

std::vector<RunRecord> runs_of_folder(const std::filesystem::path& folder, const ChartSpec& chart,
                                      std::vector<std::string>& problems, Progress& progress) {
    std::vector<std::pair<std::filesystem::path, Metadata>> found;
    const auto files = frame_files(folder, problems);
    progress.start(static_cast<int>(files.size()), "Reading metadata");
    for (const auto& path : files) {
        progress.check();
        try {
            found.emplace_back(path, read_metadata(path));
        } catch (const std::exception& error) {
            problems.push_back(reason_for(path, error));
        }
        progress.step();
    }
    if (found.empty())
        throw input_error("The folder " + folder.string() +
                          " holds no picture that can be read; choose the folder of the chart frames.");
    std::vector<RunRecord> runs;
    for (const FrameGroup& group : group_frames(found)) {
        RunRecord run;
        run.name = group.label;
        run.chart = chart.text();
        run.folder = std::filesystem::absolute(folder).lexically_normal().string();
        for (const auto& path : group.paths) {
            RunFrame frame;
            frame.path = path;
            run.frames.push_back(frame);
        }
        runs.push_back(std::move(run));
    }
    return runs;
}

namespace {

Recorded recorded_of(const Metadata& m) {
    return {static_cast<signed char>(m.recorded_contrast), static_cast<signed char>(m.recorded_saturation),
            static_cast<signed char>(m.recorded_sharpness), m.recorded_rendering};
}

FrameFacts facts_from(const Metadata& m, const BodyAnswer& body, const LensAnswer& lens) {
    FrameFacts facts;
    facts.raw = m.kind == FrameKind::raw;
    facts.model = camera_name(m);
    facts.body = body.id;
    facts.body_knowledge = static_cast<BodyKnowledge>(static_cast<int>(body.knowledge));
    facts.lens = canonical_lens_text(lens.lens);
    facts.lens_copy = lens.id;
    facts.iso = m.iso;
    facts.recorded = recorded_of(m);
    return facts;
}

}  // namespace

FrameKnowledge know(const fs::path& path, const Metadata& m, const Fleet& fleet) {
    FrameKnowledge out;
    out.body = fleet.body_of(path, m);
    out.lens = fleet.lens_of(path, m, out.body.id);
    out.facts = facts_from(m, out.body, out.lens);
    out.metadata = with_lens(m, out.lens);
    return out;
}

std::vector<FrameFacts> facts_of(const std::vector<FrameRecord>& frames, const Fleet& fleet) {
    std::vector<FrameFacts> out(frames.size());
    parallel_for(
        static_cast<int>(frames.size()),
        [&](int i) {
            const FrameRecord& f = frames[i];
            const BodyAnswer body = fleet.body_of(f.path, f.metadata);
            out[i] = facts_from(f.metadata, body, fleet.lens_of(f.path, f.metadata, body.id));
        },
        500);
    return out;
}

std::string body_label(const FrameFacts& facts, const Fleet& fleet) {
    if (const Body* b = fleet.body(facts.body))
        return facts.body_knowledge == BodyKnowledge::assumed ? b->label() + " (assumed)" : b->label();
    return facts.model.empty() ? "unknown camera" : facts.model + " (body unknown)";
}

std::vector<FleetBody> fleet_bodies(const Fleet& fleet, const std::vector<FrameRecord>& frames,
                                    const std::vector<FrameFacts>& facts) {
    std::unordered_map<std::string, std::pair<int, int>> numbered;  // frames, and those with a number
    for (std::size_t i = 0; i < facts.size(); ++i) {
        if (facts[i].body.empty()) continue;
        auto& [all, with_number] = numbered[facts[i].body];
        ++all;
        with_number += !frames[i].metadata.body_serial.empty() || !frames[i].metadata.other_serials.empty();
    }
    std::vector<FleetBody> out;
    for (const Body& b : fleet.entries().bodies) {
        const auto it = numbered.find(b.id);
        out.push_back({b.id, b.label(), b.camera(), b.condition, it == numbered.end() || it->second.second > 0});
    }
    return out;
}

std::vector<Identity> identities_of(const std::vector<FrameRecord>& frames, const Fleet& fleet) {
    IdentityCollector collector(fleet);
    for (const FrameRecord& f : frames) {
        const BodyAnswer body = fleet.body_of(f.path, f.metadata);
        collector.add(f.path, f.metadata, body, fleet.lens_of(f.path, f.metadata, body.id));
    }
    return collector.finish();
}

std::vector<ScopedFrame> scope_of(const std::vector<FrameRecord>& frames, const Fleet& fleet) {
    const std::vector<FrameFacts> facts = facts_of(frames, fleet);
    std::vector<ScopedFrame> out;
    for (std::size_t i = 0; i < frames.size(); ++i)
        out.push_back({frames[i].path, facts[i], body_label(facts[i], fleet)});
    return out;
}

FrameFacts facts_for(const Body& body, double iso, const RecordedHabits& habits) {
    FrameFacts facts;
    facts.model = body.camera();
    facts.body = body.id;
    facts.body_knowledge = BodyKnowledge::known;
    facts.iso = iso;
    facts.recorded = habits.at(facts.model, body.id, iso).recorded;
    return facts;
}

PictureGeometry geometry_of(const Metadata& m) {
    return {m.width, m.height, m.pitch_um > 0 ? m.pitch_um : m.width > 0 ? 36000.0 / m.width : 5};
}

ResolvedFrame fields_of(const Sheet& sheet, const FrameFacts& facts, const Resolver& current) {
    if (sheet.state() != FrameState::untouched) return effective(sheet);
    ResolvedFrame fields;
    current.resolve(facts, fields);
    return fields;
}

ProfileMatch profile_of(const Sheet& sheet, const ResolvedFrame& fields, const Metadata& frame,
                        const std::vector<Profile>& profiles) {
    return sheet.exempt ? ProfileMatch{} : profile_for(fields, frame, profiles);
}

ProfileMatch profile_for(const ResolvedFrame& fields, const Metadata& frame, const std::vector<Profile>& profiles) {
    const std::string& wanted = fields[Field::lens_profile].value.text;
    ProfileMatch none;
    if (wanted == "none") {
        none.reasons.push_back("the baseline says none");
        return none;
    }
    if (wanted == "automatic") {
        ProfileMatch best =
            best_profile(profiles, frame, geometry_of(frame), grade_from_text(fields[Field::least_match].value.text));
        if (!best.profile && best.reasons.empty()) best.reasons.push_back("no profile in the store fits this frame");
        return best;
    }
    for (const Profile& p : profiles)
        if (p.id == wanted) return assigned_profile(p, frame, geometry_of(frame));
    throw input_error(fmt::format(
        "The profile {} is pinned for this frame but is not in the store; publish it or pin another.", wanted));
}

std::optional<AppliedProfile> applied(const ProfileMatch& match, const Metadata& frame) {
    if (!match.usable()) return std::nullopt;
    return AppliedProfile{node_at(*match.profile, {frame.focal_mm, frame.aperture, frame.distance_m}).node,
                          match.profile->geometry};
}

Developed develop_file(const fs::path& path, const Metadata& metadata, const ResolvedFrame& fields,
                       const std::optional<AppliedProfile>& profile, const Progress& progress) {
    const double pitch = geometry_of(metadata).pitch_um;
    if (metadata.kind == FrameKind::rendered) {
        const cv::Mat3f linear = read_rendered(path);
        progress.check();
        return develop_rendered(linear, pitch, fields, profile, progress);
    }
    RawPicture raw = read_raw(path);
    progress.check();
    if (fields[Field::rendering].value.text == "as recorded") raw.rendering = read_rendering(path);
    return develop(raw, pitch, fields, profile, progress);
}

void export_tiff(const fs::path& out, Existing existing, const Developed& picture, const fs::path& frame,
                 const Metadata& metadata) {
    const cv::Mat3w rgb = as_held(picture.rgb, metadata.orientation);
    write_tiff16(out, existing, rgb, srgb_icc_profile(), [&](const fs::path& part) {
        copy_metadata(frame, part, {metadata, rgb.cols, rgb.rows, picture.scale});
    });
}

Store::FleetEdit edit_for_claim(Claim c) {
    Store::FleetEdit edit;
    edit.what = "claim " + describe(c);
    c.author = current_author();
    c.time = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
    // By the clock and by its content, so that two claims made at once do not meet.
    const auto ticks = std::chrono::system_clock::now().time_since_epoch().count();
    c.id = fmt::format("c{:016x}", fnv1a(fmt::format("{} {}", ticks, claim_to_json(c))));
    edit.claims.push_back({std::nullopt, std::move(c)});
    return edit;
}

Store::FleetEdit edit_for(const Accepted& accepted) {
    Store::FleetEdit edit;
    edit.what = accepted.claims.empty() ? "register" : "claim";
    for (const ModelEntry& m : accepted.models) edit.models.push_back({std::nullopt, m});
    for (const Body& b : accepted.bodies) edit.bodies.push_back({std::nullopt, b});
    for (const LensEntry& l : accepted.lenses) edit.lenses.push_back({std::nullopt, l});
    for (const Claim& c : accepted.claims) edit.claims.push_back(edit_for_claim(c).claims.front());
    return edit;
}

std::string current_author() {
    if (const passwd* user = getpwuid(getuid()); user && user->pw_name) return user->pw_name;
    const char* name = std::getenv("USER");
    return name ? name : "unknown";
}

}  // namespace optrel

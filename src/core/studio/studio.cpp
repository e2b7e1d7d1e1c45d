#include "studio/studio.h"

#include <fmt/format.h>
#include <pwd.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <map>

#include "base/error.h"
#include "base/parallel.h"
#include "calibration/grouping.h"
#include "frames/tiff_writer.h"

namespace optrel {
namespace fs = std::filesystem;

std::vector<fs::path> frame_files(const fs::path& folder) {
    static const char* extensions[] = {".dng", ".tif", ".tiff", ".jpg", ".jpeg", ".png", ".nef", ".cr2", ".cr3", ".arw", ".raf", ".orf", ".rw2", ".pef", ".raw"};
    std::error_code failed;
    std::vector<fs::path> out;
    if (!fs::is_directory(folder, failed)) throw file_error(fmt::format("{} is no folder that can be read; choose the folder that holds the frames.", folder.string()));
    for (auto it = fs::recursive_directory_iterator(folder, fs::directory_options::skip_permission_denied, failed); it != fs::recursive_directory_iterator(); it.increment(failed)) {
        if (failed) break;
        std::string extension = it->path().extension().string();
        std::transform(extension.begin(), extension.end(), extension.begin(), [](unsigned char c) { return std::tolower(c); });
        if (it->is_regular_file(failed) && std::find(std::begin(extensions), std::end(extensions), extension) != std::end(extensions)) out.push_back(fs::absolute(it->path()));
    }
    std::sort(out.begin(), out.end());
    return out;
}

std::vector<FrameRecord> index_files(const std::vector<fs::path>& files, const std::vector<FrameRecord>& known, std::vector<std::string>& problems, Progress& progress) {
    std::map<fs::path, const FrameRecord*> by_path;
    for (const FrameRecord& f : known) by_path[f.path] = &f;
    std::vector<std::optional<FrameRecord>> found(files.size());
    std::vector<std::string> trouble(files.size());
    progress.start(static_cast<int>(files.size()), "Reading metadata");
    parallel_for(static_cast<int>(files.size()), [&](int i) {
        if (progress.cancelled()) return;
        try {
            std::error_code status;
            FrameRecord record;
            record.path = files[i];
            record.size = static_cast<long long>(fs::file_size(files[i], status));
            record.modified = static_cast<long long>(fs::last_write_time(files[i], status).time_since_epoch().count());
            const auto it = by_path.find(files[i]);
            if (it == by_path.end() || it->second->size != record.size || it->second->modified != record.modified) {
                record.metadata = read_metadata(files[i]);
                found[i] = std::move(record);
            }
        } catch (const Error& error) {
            trouble[i] = error.what();
        }
        progress.step();
    }, 4);
    progress.check();
    std::vector<FrameRecord> out;
    for (std::size_t i = 0; i < files.size(); ++i) {
        if (found[i]) out.push_back(std::move(*found[i]));
        if (!trouble[i].empty()) problems.push_back(trouble[i]);
    }
    return out;
}

std::vector<RunRecord> runs_of_folder(const std::filesystem::path& folder, const ChartSpec& chart, std::vector<std::string>& problems, Progress& progress) {
    std::vector<std::pair<std::filesystem::path, Metadata>> found;
    const auto files = frame_files(folder);
    progress.start(static_cast<int>(files.size()), "Reading metadata");
    for (const auto& path : files) {
        progress.check();
        try {
            found.emplace_back(path, read_metadata(path));
        } catch (const Error& error) {
            problems.push_back(error.what());
        }
        progress.step();
    }
    if (found.empty()) throw input_error("The folder " + folder.string() + " holds no picture that can be read; choose the folder of the chart frames.");
    std::vector<RunRecord> runs;
    for (const FrameGroup& group : group_frames(found)) {
        RunRecord run;
        run.name = group.label;
        run.chart = chart.text();
        run.folder = folder.string();
        for (const auto& path : group.paths) {
            RunFrame frame;
            frame.path = path;
            run.frames.push_back(frame);
        }
        runs.push_back(std::move(run));
    }
    return runs;
}

FrameFacts facts_of(const Metadata& m, const std::vector<Body>& fleet) {
    FrameFacts facts;
    facts.raw = m.kind == FrameKind::raw;
    facts.model = camera_name(m);
    const BodyAnswer body = identify_body(m, fleet);
    facts.body = body.id;
    facts.body_knowledge = static_cast<BodyKnowledge>(static_cast<int>(body.knowledge));
    facts.lens = canonical_lens_text(m.lens);
    facts.lens_copy = lens_id(m);
    facts.iso = m.iso;
    return facts;
}

std::string body_label(const Metadata& m, const std::vector<Body>& fleet) {
    const BodyAnswer answer = identify_body(m, fleet);
    for (const Body& b : fleet)
        if (b.id == answer.id) return answer.knowledge == BodyAnswer::Knowledge::assumed ? b.label() + " (assumed)" : b.label();
    const std::string camera = camera_name(m);
    return camera.empty() ? "unknown camera" : camera + " (body unknown)";
}

std::vector<ScopedFrame> scope_of(const std::vector<FrameRecord>& frames, const std::vector<Body>& fleet) {
    std::vector<ScopedFrame> out;
    for (const FrameRecord& f : frames) out.push_back({f.path, facts_of(f.metadata, fleet), body_label(f.metadata, fleet)});
    return out;
}

std::unique_ptr<Resolver> make_resolver(const Revision& revision) { return std::make_unique<Resolver>(revision.tiers, canonical_lens_text); }

PictureGeometry geometry_of(const Metadata& m) { return {m.width, m.height, m.pitch_um > 0 ? m.pitch_um : m.width > 0 ? 36000.0 / m.width : 5}; }

ResolvedFrame fields_of(const Sheet& sheet, const Metadata& frame, const Revision& revision, const std::vector<Body>& fleet) {
    if (sheet.state() != FrameState::untouched) return effective(sheet);
    ResolvedFrame fields;
    make_resolver(revision)->resolve(facts_of(frame, fleet), fields);
    return fields;
}

ProfileMatch profile_of(const Sheet& sheet, const ResolvedFrame& fields, const Metadata& frame, const std::vector<Profile>& profiles) {
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
        ProfileMatch best = best_profile(profiles, frame, geometry_of(frame));
        if (!best.profile) best.reasons.push_back("no profile in the store fits this frame");
        return best;
    }
    for (const Profile& p : profiles)
        if (p.id == wanted) {
            ProfileMatch match = grade_profile(p, frame, geometry_of(frame));
            if (match.grade == MatchGrade::none) {
                match.grade = MatchGrade::stand_in;
                match.reasons.push_back("assigned by a person");
            }
            return match;
        }
    throw input_error(fmt::format("The profile {} is pinned for this frame but is not in the store; publish it or pin another.", wanted));
}

std::optional<AppliedProfile> applied(const ProfileMatch& match, const Metadata& frame) {
    if (!match.usable()) return std::nullopt;
    return AppliedProfile{node_at(*match.profile, {frame.focal_mm, frame.aperture, frame.distance_m}).node, match.profile->geometry};
}

Developed develop_file(const fs::path& path, const Metadata& metadata, const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile, const Progress& progress) {
    const double pitch = geometry_of(metadata).pitch_um;
    if (metadata.kind == FrameKind::rendered) {
        const cv::Mat3f linear = read_rendered(path);
        progress.check();
        return develop_rendered(linear, pitch, fields, profile, progress);
    }
    const RawPicture raw = read_raw(path);
    progress.check();
    return develop(raw, pitch, fields, profile, progress);
}

void export_tiff(const fs::path& out, const Developed& picture, const Metadata& metadata) { write_tiff16(out, picture.rgb, srgb_icc_profile(), metadata); }

std::string current_author() {
    if (const passwd* user = getpwuid(getuid()); user && user->pw_name) return user->pw_name;
    const char* name = std::getenv("USER");
    return name ? name : "unknown";
}

}  // namespace optrel

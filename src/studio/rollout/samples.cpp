// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rollout/samples.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "base/error.h"
#include "frames/orientation.h"
#include "optics/lens_text.h"
#include "scene/loupe_places.h"
#include "studio/development/frame_development.h"
#include "studio/development/prepare_frame.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/sensor_size.h"
#include "studio/profiles/frame_profile.h"
#include "studio/rollout/frames_reached.h"

namespace optrel {

namespace {

/// Size of a change in units of the field; 1 for fields that are no numbers.
double amount(Field field, const Layer& before, const Layer& after) {
    const FieldInfo& f = info(field);
    if (f.type != FieldType::number) return 1;
    const auto in = [&](const Layer& layer) {
        const auto at = layer.find(field);
        return at == layer.end() ? f.neutral.number : at->second.number;
    };
    return std::abs(in(after)-in(before));
}

/// No bytes mean no sidecar.
Sheet sheet_of(const std::optional<SharedText>& bytes, const RehearsedFrame& f) {
    return bytes && !bytes->empty() ? sheet_from_xmp(bytes->text(), sidecar_path(f.path).string()) : Sheet();
}

}  // namespace

std::vector<SampleChoice> choose_samples(const Rehearsal& rehearsal, std::size_t most) {
    struct Best {
        std::size_t frame = 0;
        double amount = -1;
    };
    std::map<Field, Best> best;
    // Frames with equal sidecars change equally; only the first of each group is examined.
    std::set<std::pair<std::string_view, std::string_view>> seen;
    for (std::size_t i = 0; i < rehearsal.frames.size(); ++i) {
        const RehearsedFrame& f = rehearsal.frames[i];
        if (!f.writes || f.changes.empty()) continue;
        if (!seen.emplace(f.before ? f.before->text() : std::string_view(), f.after.text()).second) continue;
        const Layer before = sheet_of(f.before, f).baseline, after = sheet_of(f.after, f).baseline;
        for (const FieldChange& change : f.changes)
            if (const double by = amount(change.field, before, after); by > best[change.field].amount)
                best[change.field] = {i, by};
    }
    std::map<std::size_t, SampleChoice> by_frame;
    for (const auto& [field, b] : best) {
        SampleChoice& choice = by_frame[b.frame];
        choice.frame = b.frame;
        choice.fields.push_back(field);
    }
    std::vector<SampleChoice> out;
    for (auto& [frame, choice] : by_frame) out.push_back(std::move(choice));
    std::stable_sort(out.begin(), out.end(),
                     [](const SampleChoice& a, const SampleChoice& b) { return a.fields.size() > b.fields.size(); });
    if (out.size() > most) out.resize(most);
    return out;
}

namespace {

/// Development of a frame by a sheet.
struct Version {
    ResolvedFrame fields;
    std::optional<AppliedProfile> profile;
};

Version version_of(const Sheet& sheet, const Metadata& metadata, const Store& store,
                   const std::vector<Profile>& profiles) {
    FrameDevelopment development;
    development.metadata = with_pitch(metadata, profiles);
    development.fields = effective(sheet);
    development.fields.colour_file = store.colours().fetch(development.fields[Field::colour_source].value);
    take_profile(development, profile_of(sheet, development.fields, development.metadata, profiles));
    return {development.fields, development.profile};
}

/// One of nine patches, in sensor coordinates of a picture that is shown in display orientation.
Sampling patch_at(int place, const cv::Size& sensor, int orientation) {
    const cv::Size held = size_as_held(sensor, orientation);
    const cv::Size2d patch(Sample::patch_px, Sample::patch_px);
    const cv::Point2d middle = place_on_sensor(loupe_middle(place, held, patch), sensor, orientation);
    const cv::Size size(std::min(Sample::patch_px, sensor.width), std::min(Sample::patch_px, sensor.height));
    return {std::round(middle.x - size.width / 2.0), std::round(middle.y - size.height / 2.0), 1, size};
}

void develop_both(Sample& out, const PreparedFrame& frame, const Version& before, const Version& after,
                  const Progress& progress) {
    const int orientation = frame.taken().orientation;
    const auto look = [&](const Version& v, const Sampling& at) {
        progress.check();
        return frame.look(v.fields, v.profile, at, progress).rgb;
    };
    std::vector<cv::Mat3w> all_before, all_after;
    for (int i = 0; i < static_cast<int>(out.patches.size()); ++i) {
        const Sampling at = patch_at(i, frame.size(), orientation);
        Sample::Patch& patch = out.patches[static_cast<std::size_t>(i)];
        patch.before = as_held(look(before, at), orientation);
        patch.after = as_held(look(after, at), orientation);
        all_before.push_back(patch.before);
        all_after.push_back(patch.after);
    }
    cv::Mat3w together_before, together_after;
    cv::vconcat(all_before, together_before);
    cv::vconcat(all_after, together_after);
    out.in_patches = colour_difference(together_before, together_after);
    const Sampling whole = Sampling::reduced(cv::Rect({0, 0}, frame.size()), 1000);
    out.in_picture = colour_difference(look(before, whole), look(after, whole));
}

/// Develops a frame both ways; errors are reported in the sample.
void look_at(Sample& out, const Fleet& fleet, const BodyMeasurements& measured, Progress& progress,
             const std::function<std::pair<Version, Version>(const Metadata&)>& versions) {
    try {
        const FrameKnowledge known = know(out.frame, read_metadata(out.frame), fleet);
        const Metadata& metadata = known.metadata;
        const auto [before, after] = versions(metadata);
        develop_both(out, *prepare_frame(out.frame, metadata, sensor_facts(known.facts, fleet, measured), progress),
                     before, after, progress);
    } catch (const Cancelled&) {
        throw;
    } catch (const std::exception& error) {
        out.problem = reason_for(out.frame, error);
    }
}

}  // namespace

void look_at_samples(const Store& store, const Rehearsal& rehearsal, std::size_t most,
                     const std::function<void(Sample)>& sink, Progress& progress) {
    const std::vector<SampleChoice> chosen = choose_samples(rehearsal, most);
    const auto fleet = store.registry().fleet();
    const std::vector<Profile> profiles = store.profiles().all_versions();
    const std::shared_ptr<const BodyMeasurements> measured = body_measurements(store);
    progress.start(static_cast<int>(chosen.size()), "Developing samples");
    for (const SampleChoice& choice : chosen) {
        progress.check();
        const RehearsedFrame& frame = rehearsal.frames[choice.frame];
        Sample out;
        out.frame = frame.path;
        out.fields = choice.fields;
        look_at(out, *fleet, *measured, progress, [&](const Metadata& metadata) {
            return std::pair(version_of(sheet_of(frame.before, frame), metadata, store, profiles),
                             version_of(sheet_of(frame.after, frame), metadata, store, profiles));
        });
        sink(std::move(out));
        progress.step();
    }
}

namespace {

/// One frame for each lens setting, the most frequent settings first.
std::vector<FrameRecord> frames_of_lens(const Store& store, const Fleet& fleet, const Profile& profile,
                                        std::size_t most) {
    struct ArrivalResult {
        int frames = 0;
        std::optional<FrameRecord> first;
    };
    std::map<std::pair<double, double>, ArrivalResult> by_setting;
    const std::string lens = canonical_lens_text(profile.lens);
    std::error_code none;
    for (const FrameRecord& f : store.frames().all()) {
        const Metadata m = know(f.path, f.metadata, fleet).metadata;
        if (canonical_lens_text(m.lens) != lens ||
            (!profile.lens_serial.empty() && !m.lens_serial.empty() && m.lens_serial != profile.lens_serial))
            continue;
        ArrivalResult& taken = by_setting[{m.focal_mm, m.aperture}];
        ++taken.frames;
        if (!taken.first && std::filesystem::exists(f.path.path(), none)) taken.first = f;
    }
    std::vector<ArrivalResult> all;
    for (auto& [setting, taken] : by_setting)
        if (taken.first) all.push_back(std::move(taken));
    std::stable_sort(all.begin(), all.end(),
                     [](const ArrivalResult& a, const ArrivalResult& b) { return a.frames > b.frames; });
    std::vector<FrameRecord> out;
    for (std::size_t i = 0; i < std::min(all.size(), most); ++i) out.push_back(std::move(*all[i].first));
    return out;
}

}  // namespace

void look_at_samples_of_profile(const Store& store, const Profile& profile, std::size_t most,
                                const std::function<void(Sample)>& sink, Progress& progress) {
    const auto fleet = store.registry().fleet();
    const std::vector<Profile> now = store.profiles().all_versions(), then = with_next_version(now, profile);
    const std::vector<FrameRecord> chosen = frames_of_lens(store, *fleet, profile, most);
    const std::shared_ptr<const BodyMeasurements> measured = body_measurements(store);
    progress.start(static_cast<int>(chosen.size()), "Developing samples");
    for (const FrameRecord& frame : chosen) {
        progress.check();
        Sample out;
        out.frame = frame.path;
        out.fields = {Field::lens_profile};
        look_at(out, *fleet, *measured, progress, [&](const Metadata& metadata) {
            const Sheet sheet = read_sheet(frame.path);
            return std::pair(version_of(sheet, metadata, store, now), version_of(sheet, metadata, store, then));
        });
        sink(std::move(out));
        progress.step();
    }
}

}  // namespace optrel

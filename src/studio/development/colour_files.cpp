// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/colour_files.h"
#include "studio/development/develop_frame.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "base/words.h"
#include "frames/colour_profile.h"
#include "studio/frames/knowledge.h"

namespace optrel {

std::vector<EmbeddedName> carried_names(const std::vector<FrameRecord>& frames, const Fleet& fleet) {
    std::map<std::pair<std::string, std::string>, EmbeddedName> found;
    for (const FrameRecord& f : frames) {
        if (f.metadata->colours.empty()) continue;
        const FrameFacts facts = know(f.path, f.metadata, fleet).facts;
        const std::string body = facts.body.empty() ? "" : body_label(facts, fleet);
        for (std::size_t at = 0; at < f.metadata->colours.size();) {
            const std::size_t end = std::min(f.metadata->colours.find("; ", at), f.metadata->colours.size());
            const std::string name = f.metadata->colours.substr(at, end - at);
            EmbeddedName& c = found[{body, name}];
            if (c.frames++ == 0) {
                c.body = body;
                c.name = name;
                c.example = f.path;
            }
            at = end + 2;
        }
    }
    std::vector<EmbeddedName> out;
    for (auto& [key, c] : found) out.push_back(std::move(c));
    std::stable_sort(out.begin(), out.end(), [](const EmbeddedName& a, const EmbeddedName& b) {
        return std::pair(a.body, -a.frames) < std::pair(b.body, -b.frames);
    });
    return out;
}

std::filesystem::path frame_to_show(const std::vector<FrameRecord>& frames, const ColourProfile& profile) {
    const FrameRecord* best = nullptr;
    for (const FrameRecord& f : frames) {
        const bool own = profile.camera.empty() || lowered(profile.camera) == lowered(camera_name(*f.metadata)) ||
                         lowered(profile.camera) == lowered(f.metadata->model);
        if (f.metadata->kind == FrameKind::raw && own && (!best || f.metadata.time() > best->metadata.time()))
            best = &f;
    }
    return best ? best->path.path() : std::filesystem::path();
}

ColourProfile carried_profile(const std::filesystem::path& frame, const std::string& name) {
    const EmbeddedColours carried = embedded_colours(frame);
    if (carried.profiles.empty())
        throw input_error(carried.problems.empty()
                              ? frame.string() + " carries no colour profile; name a DNG that does, or a file of one."
                              : carried.problems.front());
    if (name.empty()) return carried.profiles.front();
    std::vector<std::string> names;
    for (const ColourProfile& p : carried.profiles) {
        if (lowered(p.name) == lowered(trimmed(name))) return p;
        names.push_back(p.name);
    }
    throw input_error(fmt::format("{} carries no colour profile '{}'{}; it carries: {}.", frame.string(),
                                  printable(name), nearest_clause(name, names), fmt::join(names, ", ")));
}

ColourChange colour_change(const std::filesystem::path& frame, const FrameDevelopment& development,
                           const ColourProfile& profile, const Progress& progress) {
    constexpr int small = 900;  // px; sufficient for mean colour differences
    ColourChange out;
    FrameDevelopment after = development;
    after.fields.colour_file = std::make_shared<const ColourProfile>(profile);
    Value& source = after.fields.fields[static_cast<std::size_t>(Field::colour_source)].value;
    out.frame = frame.filename().string();
    out.before = source.text;
    source = value_of_colour_file(profile.name, bytes_hash(profile.bytes));
    out.after = source.text;
    const PictureForm form{ColourSpace::srgb, small};
    const Developed one = develop_file(frame, development, progress, form);
    progress.check();
    const Developed two = develop_file(frame, after, progress, form);
    out.difference = colour_difference(one.rgb, two.rgb);
    return out;
}

std::string ColourChange::sentence() const {
    if (difference.largest == 0) return fmt::format("On {} no colour moves, against: {}.", frame, before);
    return fmt::format(
        "On {} colours move by {} on the mean, {} at 95 percent of the picture, {} at most (CIELAB 1976), "
        "against: {}.",
        frame, number_text(figures::lab_difference, difference.mean),
        number_text(figures::lab_difference, difference.p95), number_text(figures::lab_difference, difference.largest),
        before);
}

}  // namespace optrel

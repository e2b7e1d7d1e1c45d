// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/profile_chooser.h"

#include <fmt/format.h>

#include <algorithm>
#include <mutex>
#include <optional>

#include "base/error.h"
#include "optics/frame_map.h"
#include "optics/profile_versions.h"
#include "studio/frames/sensor_size.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {

ProfileMatch ProfileChooser::of(const ResolvedFrame& fields, const Metadata& m) const {
    const std::string key =
        fmt::format("{}\n{}\n{}\n{}\n{:.3g} {:.3g} {:.2g} {} {} {:.4g} {}", fields[Field::lens_profile].value.text,
                    fields[Field::least_match].value.text, m.lens, m.lens_serial, m.focal_mm, m.aperture, m.distance_m,
                    m.width, m.height, m.pitch_um, m.corrected.empty());
    {
        const std::shared_lock lock(mutex_);
        if (const auto it = known_.find(key); it != known_.end()) return it->second;
    }
    ProfileMatch match;
    try {
        match = profile_for(fields, m, *versions_);
    } catch (const Error& error) {
        match.reasons.push_back(error.what());
    }
    const std::unique_lock lock(mutex_);
    return known_.emplace(key, std::move(match)).first->second;
}

std::string ProfileChooser::in_use(const ResolvedFrame& fields, const Metadata& frame) const {
    return version_in_use(of(fields, frame));
}

std::string version_in_use(const ProfileMatch& match) {
    return match.usable() ? fmt::format("{}@{}", match.profile->id, match.profile->version) : "none";
}

std::string version_in_words(const std::vector<Profile>& versions, const std::string& in_use) {
    const Profile* p = referred_profile(versions, ProfileReference::parse(in_use));
    return p ? fmt::format("{} version {}", p->name, p->version) : in_use;
}

double largest_move_px(const Profile* before, const Profile* after, const Metadata& given) {
    std::vector<Profile> known;
    for (const Profile* p : {before, after})
        if (p) known.push_back(*p);
    const Metadata frame = with_pitch(given, known);
    const PictureGeometry geometry = geometry_of(frame);
    if (geometry.width <= 0 || geometry.height <= 0) return 0;
    const auto map_of = [&](const Profile* p) -> std::optional<FrameMap> {
        if (!p) return std::nullopt;
        return FrameMap(node_at(*p, {frame.focal_mm, frame.aperture, frame.distance_m}).node, p->geometry, geometry);
    };
    const std::optional<FrameMap> was = map_of(before), is = map_of(after);
    // Corners of a fisheye's ideal picture are outside the frame.
    const auto place = [](const std::optional<FrameMap>& map, const Vec2& ideal) -> std::optional<Vec2> {
        if (!map) return ideal;
        return map->reaches(ideal) ? std::optional(map->green(ideal)) : std::nullopt;
    };
    double largest = 0;
    for (const Vec2& ideal : picture_grid(geometry, 21, 15)) {
        const std::optional<Vec2> a = place(was, ideal), b = place(is, ideal);
        if (a && b) largest = std::max(largest, (*a - *b).norm());
    }
    return largest;
}

}  // namespace optrel

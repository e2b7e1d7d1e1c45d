// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/shared_profile.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/files.h"
#include "optics/frame_map.h"
#include "optics/plausible.h"
#include "sharing/signing.h"

namespace optrel {
namespace {

constexpr const char* copy_word = "copy-";

}  // namespace

Profile shareable(const Profile& profile, const SigningKey& key) {
    if (!profile.measured() || profile.taken_in)
        throw input_error(
            fmt::format("'{}' was not measured in this studio, so it is not given to an exchange; give "
                        "what was measured here.",
                        profile.name));
    if (profile.pitch_assumed)
        throw input_error(
            fmt::format("The frames of '{}' did not tell their pixel pitch, so its lengths mean nothing "
                        "elsewhere; measure with a body that tells it.",
                        profile.name));
    Profile out = profile;
    out.version = 1;
    out.name = profile.lens;
    if (!profile.lens_serial.empty())
        out.lens_serial = copy_word + key.mark_of(canonical_lens_text(profile.lens) + "\n" + profile.lens_serial);
    out.provenance.author.clear();
    out.provenance.note.clear();
    out.provenance.frames.clear();
    out.provenance.time = profile.provenance.time.substr(0, 10);
    out.id.clear();
    out.id = fmt::format("x{}", bytes_hash(profile_to_json(out)).substr(0, 16));
    check_shareable(out);
    return out;
}

void check_shareable(const Profile& p) {
    if (!p.measured() || p.taken_in) throw input_error("The profile is no measurement, and only those are exchanged.");
    if (p.lens.empty()) throw input_error("The profile names no lens, so nobody could find it.");
    if (!p.provenance.author.empty() || !p.provenance.note.empty() || !p.provenance.frames.empty() ||
        (!p.lens_serial.empty() && p.lens_serial.rfind(copy_word, 0) != 0))
        throw input_error(
            "The profile still says who made it, from which frames, or on which copy; only the "
            "measurement is exchanged.");
    require_unfolded(p);
}

PictureGeometry smallest_of(const std::vector<const Profile*>& profiles) {
    const auto smaller = [](const Profile* a, const Profile* b) {
        return a->geometry.half_diagonal_mm() < b->geometry.half_diagonal_mm();
    };
    return (*std::min_element(profiles.begin(), profiles.end(), smaller))->geometry;
}

LensSetting compared_at(const std::vector<const Profile*>& profiles, const LensSetting& wanted) {
    LensSetting at = wanted;
    const LensSetting& first = profiles.front()->nodes.front().setting;
    if (at.focal_mm <= 0) at.focal_mm = first.focal_mm;
    if (at.aperture <= 0) at.aperture = first.aperture;
    if (at.distance_m <= 0) at.distance_m = first.distance_m;
    return at;
}

std::optional<CopySpread> spread_of_profiles(const std::vector<const Profile*>& profiles, const LensSetting& setting) {
    if (profiles.size() < 2) return std::nullopt;
    const LensSetting at = compared_at(profiles, setting);
    std::vector<ProfileNode> nodes;
    for (const Profile* p : profiles) nodes.push_back(node_at(*p, at).node);
    try {
        return spread_of_copies(nodes, smallest_of(profiles));
    } catch (const Error&) {
        return std::nullopt;
    }
}

}  // namespace optrel

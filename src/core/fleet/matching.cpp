// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/matching.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <tuple>

#include "base/words.h"
#include "measurement/findings.h"
#include "optics/focal_reach.h"
#include "optics/lens_text.h"

namespace optrel {

std::string to_string(MatchGrade grade) {
    switch (grade) {
        case MatchGrade::own_copy: return "own copy";
        case MatchGrade::same_model: return "same model";
        case MatchGrade::rescaled: return "rescaled";
        case MatchGrade::embedded: return "embedded";
        case MatchGrade::stand_in: return "stand-in";
        default: return "none";
    }
}

MatchGrade grade_from_text(const std::string& text) {
    for (const MatchGrade g : {MatchGrade::own_copy, MatchGrade::same_model, MatchGrade::rescaled})
        if (to_string(g) == text) return g;
    return MatchGrade::none;
}

namespace {

bool says_fisheye(const std::string& lens) {
    const std::string text = lowered(lens);
    return text.find("fisheye") != std::string::npos || text.find("fish-eye") != std::string::npos ||
           text.find("fish eye") != std::string::npos;
}

void compare_lens(const Profile& p, const Metadata& frame, ProfileMatch& out) {
    if (frame.lens.empty()) {
        out.against.push_back("the frame does not name its lens");
        return;
    }
    const LensTextMatch match = compare_lens_texts(p.lens, frame.lens);
    if (match == LensTextMatch::different) {
        out.against.push_back(fmt::format("the profile is of another lens ({})", p.lens));
        return;
    }
    if (match == LensTextMatch::maker_left_out)
        out.reasons.push_back(fmt::format("the frame says '{}', which is '{}' but for the maker", frame.lens, p.lens));
    const bool copy = match == LensTextMatch::same && !p.lens_serial.empty() && p.lens_serial == frame.lens_serial;
    out.grade = copy ? MatchGrade::own_copy : MatchGrade::same_model;
    if (copy)
        out.reasons.push_back(fmt::format("measured on this very copy ({})", frame.lens_serial));
    else if (!p.lens_serial.empty() && !frame.lens_serial.empty())
        out.reasons.push_back(fmt::format("measured on another copy of this lens ({})", p.lens_serial));
    else
        out.reasons.push_back("measured on a lens of the same model");
}

void compare_setting(const Profile& p, const Metadata& frame, ProfileMatch& out) {
    const auto [low, high] = focal_range(p);
    if (!reaches_focal(p, frame.focal_mm))
        out.against.push_back(
            low == high
                ? fmt::format("measured at {:g} mm, the frame is at {:g} mm", low, frame.focal_mm)
                : fmt::format("measured from {:g} to {:g} mm, the frame is at {:g} mm", low, high, frame.focal_mm));
    const bool fisheye = p.nodes.front().model.kind()->angular();
    if (!frame.lens.empty() && fisheye && !says_fisheye(frame.lens) &&
        canonical_lens_text(p.lens) != canonical_lens_text(frame.lens))
        out.against.push_back("the profile is of a fisheye, the frame's lens is none: another projection");
    if (!fisheye && says_fisheye(frame.lens) && !says_fisheye(p.lens))
        out.against.push_back("the frame's lens is a fisheye, the profile is of none: another projection");
}

/// What a profile that was measured elsewhere has for it and against it.
void consider_origin(const Profile& p, ProfileMatch& out) {
    if (!p.taken_in) return;
    const std::string from = "it came from " + describe(*p.taken_in);
    if (p.taken_in->standing == Standing::trusted)
        out.reasons.push_back(from);
    else
        out.against.push_back(from + ", so that it is taken only where a person assigns it");
}

/// A profile that was published in spite of what was found of its mapping is trusted a grade less.
void consider_findings(const Profile& p, ProfileMatch& out) {
    const std::string accepted = accepted_of_mapping(p.findings);
    if (accepted.empty()) return;
    const std::string said = fmt::format("it was published with findings accepted ({})", accepted);
    switch (out.grade) {
        case MatchGrade::own_copy: out.grade = MatchGrade::same_model; break;
        case MatchGrade::same_model: out.grade = MatchGrade::rescaled; break;
        default: out.against.push_back(said + ", so that it is taken only where a person assigns it"); return;
    }
    out.reasons.push_back(said + ", which lowers its grade by one");
}

const char* came_by(MeasurementOrigin origin) {
    switch (origin) {
        case MeasurementOrigin::by_hand: return "made by hand";
        case MeasurementOrigin::embedded: return "read from a frame";
        default: return "read from a calibration file";
    }
}

}  // namespace

ProfileMatch grade_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry) {
    ProfileMatch out;
    out.profile = &profile;
    compare_lens(profile, frame, out);
    compare_setting(profile, frame, out);
    consider_origin(profile, out);
    if (!profile.measured())
        out.against.push_back(fmt::format(
            "it was {} and not measured, so that it is taken only where a person assigns it", came_by(profile.origin)));
    if (frame.pitch_um <= 0 && !profile.pitch_assumed)
        out.against.push_back("the size of the frame's sensor is not known");
    const PlacedNode placed = node_at(profile, {frame.focal_mm, frame.aperture, frame.distance_m});
    out.placement = placed.placement;
    const double reach = geometry.half_diagonal_mm(), ratio = reach / profile.geometry.half_diagonal_mm();
    if (std::abs(ratio - 1) > 0.02) {
        if (reach > 1.15 * placed.node.largest_radius_mm)
            out.against.push_back(
                fmt::format("the frame reaches {:.1f} mm from the middle, the profile's data {:.1f} mm", reach,
                            placed.node.largest_radius_mm));
        if (out.grade != MatchGrade::none) out.grade = MatchGrade::rescaled;
        out.reasons.push_back(fmt::format("the sensor is {:.2f} times as large as the one measured on", ratio));
    }
    if (out.placement == Placement::between) out.reasons.push_back("its lens setting lies between measured ones");
    if (out.placement == Placement::extrapolated)
        out.reasons.push_back("its lens setting lies outside the measured ones: the nearest is used");
    const double aperture = placed.node.setting.aperture;
    if (frame.aperture > 0 && aperture > 0 && std::abs(std::log2(frame.aperture / aperture)) > 0.1 &&
        out.placement != Placement::between)
        out.reasons.push_back(
            fmt::format("measured at f/{:g}, the frame is at f/{:g}: falloff may differ", aperture, frame.aperture));
    if (out.grade != MatchGrade::none) consider_findings(profile, out);
    if (!out.against.empty()) out.grade = MatchGrade::none;
    return out;
}

ProfileMatch assigned_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry) {
    ProfileMatch match = grade_profile(profile, frame, geometry);
    if (match.grade == MatchGrade::none) {
        // Where it came from goes on being told, though it no longer stands in the way.
        if (profile.taken_in) match.reasons.push_back("it came from " + describe(*profile.taken_in));
        const bool only_its_origin = profile.origin == MeasurementOrigin::embedded && match.against.size() == 1;
        match.grade = only_its_origin ? MatchGrade::embedded : MatchGrade::stand_in;
    }
    match.reasons.insert(match.reasons.begin(), "assigned by a person");
    return match;
}

std::vector<ProfileMatch> candidates(const std::vector<Profile>& profiles, const Metadata& frame,
                                     const PictureGeometry& geometry, const std::string& as_of) {
    std::vector<ProfileMatch> out;
    std::set<std::string> without_maker;
    for (const Profile& p : profiles) {
        if (!p.state.was_current(as_of)) continue;
        out.push_back(grade_profile(p, frame, geometry));
        if (out.back().usable() && compare_lens_texts(p.lens, frame.lens) == LensTextMatch::maker_left_out)
            without_maker.insert(canonical_lens_text(p.lens));
    }
    if (without_maker.size() > 1)
        for (ProfileMatch& m : out)
            if (m.usable() && without_maker.count(canonical_lens_text(m.profile->lens))) {
                m.grade = MatchGrade::none;
                m.against.push_back(
                    fmt::format("'{}' leaves out the maker and fits {} lenses", frame.lens, without_maker.size()));
            }
    const auto key = [](const ProfileMatch& m) {
        return std::tuple(static_cast<int>(m.grade), -static_cast<int>(m.against.size()),
                          m.placement != Placement::extrapolated, m.profile->version, m.profile->provenance.time,
                          m.profile->id);
    };
    std::stable_sort(out.begin(), out.end(),
                     [&](const ProfileMatch& a, const ProfileMatch& b) { return key(a) > key(b); });
    return out;
}

ProfileMatch best_profile(const std::vector<Profile>& profiles, const Metadata& frame, const PictureGeometry& geometry,
                          MatchGrade least, const std::string& as_of) {
    const std::vector<ProfileMatch> all = candidates(profiles, frame, geometry, as_of);
    if (all.empty()) return {};
    if (all.front().usable() && all.front().grade < least) {
        ProfileMatch none;
        none.reasons.push_back(fmt::format("the best profile is '{}' ({}), but the least match asked for is {}",
                                           all.front().profile->name, to_string(all.front().grade), to_string(least)));
        return none;
    }
    return all.front().usable() ? all.front() : ProfileMatch{};
}

}  // namespace optrel

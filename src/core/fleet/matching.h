// SPDX-License-Identifier: GPL-3.0-or-later
// Matches lens profiles to frames, with a grade and reasons.
#pragma once

#include <string>
#include <vector>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// embedded: a user assigned the profile that was read from such a frame, and its origin is the only objection.
enum class MatchGrade { none, stand_in, embedded, rescaled, same_model, own_copy };
std::string to_string(MatchGrade grade);
/// "own copy", "same model", "rescaled"; anything else is none.
MatchGrade grade_from_text(const std::string& text);

struct ProfileMatch {
    const Profile* profile = nullptr;
    MatchGrade grade = MatchGrade::none;
    Placement placement = Placement::measured;  ///< position of the frame's lens setting relative to the measured ones
    std::vector<std::string> reasons;           ///< reasons for the grade, as text
    std::vector<std::string> against;           ///< objections to automatic use; the user may still assign the profile
    bool usable() const { return profile && grade != MatchGrade::none; }
};

/// Grades a profile for a frame. `geometry`: the frame's own picture; `frame`: metadata with the known lens.
///
/// A profile with an accepted serious finding about its mapping gets the next lower grade.
///
/// A profile is refused when it is for another lens, when the focal length is more than 3.5 % outside the measured
/// range, when it was made by hand or read from a frame, when it was imported from an untrusted source, when only one
/// of both is a fisheye, or when the frame extends more than 15 % beyond the measured radius.
ProfileMatch grade_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry);

/// The same for a profile that the user assigned: in place of refusal, the grade is stand-in, with the objections.
ProfileMatch assigned_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry);

/// The best profile with at least a grade: by grade, then measured settings before extrapolated ones, then the highest
/// version, then the newest. A lens text without a maker that matches several lenses gets none. Only current versions
/// count, or those that were current `as_of` a time (ISO 8601).
ProfileMatch best_profile(const std::vector<Profile>& profiles, const Metadata& frame, const PictureGeometry& geometry,
                          MatchGrade least = MatchGrade::rescaled, const std::string& as_of = "");

/// All profiles that are current, or were current `as_of` a time: best first, refused ones last.
std::vector<ProfileMatch> candidates(const std::vector<Profile>& profiles, const Metadata& frame,
                                     const PictureGeometry& geometry, const std::string& as_of = "");

}  // namespace optrel

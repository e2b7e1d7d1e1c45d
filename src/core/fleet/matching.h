// SPDX-License-Identifier: GPL-3.0-or-later
// Which profile fits a frame, how well, and why.
#pragma once

#include <string>
#include <vector>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// `embedded`: a person assigned what a frame of that lens carried, and nothing but that speaks against it.
enum class MatchGrade { none, stand_in, embedded, rescaled, same_model, own_copy };
std::string to_string(MatchGrade grade);
/// "own copy", "same model", "rescaled"; anything else is none.
MatchGrade grade_from_text(const std::string& text);

struct ProfileMatch {
    const Profile* profile = nullptr;
    MatchGrade grade = MatchGrade::none;
    Placement placement = Placement::measured;  ///< of the frame's lens setting among the measured ones
    std::vector<std::string> reasons;           ///< in plain words, for
    std::vector<std::string> against;  ///< why it is never taken automatically; it may still be assigned by hand
    bool usable() const { return profile && grade != MatchGrade::none; }
};

/// Grades one profile for a frame. `geometry` is the frame's own picture, `frame` names the lens that it is known to
/// have.
///
/// A profile whose mapping has an accepted serious finding counts one grade less.
///
/// A profile is refused when its lens is another one, when the frame's focal length lies more than 3.5 % outside the
/// measured range, when it was made by hand or read from a frame, when it was
/// taken in from somebody whom the studio does not trust, when one is a fisheye and the other is not, or when
/// the frame reaches more than 15 % beyond the radius that was measured.
ProfileMatch grade_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry);

/// The same for a profile that a person assigned: what would be refused becomes a stand-in and keeps the objections.
ProfileMatch assigned_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry);

/// The best profile of at least a grade: highest grade, then inside or between the measured settings before
/// extrapolated, then the highest version, then the newest. A lens text that leaves out the maker and fits several
/// lenses gets none. Of versions only the current ones count, or those that were current `as_of` a time (ISO 8601).
ProfileMatch best_profile(const std::vector<Profile>& profiles, const Metadata& frame, const PictureGeometry& geometry,
                          MatchGrade least = MatchGrade::rescaled, const std::string& as_of = "");

/// All profiles that are current, or were `as_of` a time: the best first, those that are refused last.
std::vector<ProfileMatch> candidates(const std::vector<Profile>& profiles, const Metadata& frame,
                                     const PictureGeometry& geometry, const std::string& as_of = "");

}  // namespace optrel

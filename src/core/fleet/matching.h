// Which profile fits a frame, how well, and why.
#pragma once

#include <string>
#include <vector>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

enum class MatchGrade { none, stand_in, rescaled, same_model, own_copy };
std::string to_string(MatchGrade grade);

struct ProfileMatch {
    const Profile* profile = nullptr;
    MatchGrade grade = MatchGrade::none;
    std::vector<std::string> reasons;  ///< in plain words, for and against
    bool usable() const { return profile && grade != MatchGrade::none; }
};

/// Grades one profile for a frame. `geometry` is the frame's own picture.
ProfileMatch grade_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry);

/// The best profile: highest grade, then highest version, then newest.
ProfileMatch best_profile(const std::vector<Profile>& profiles, const Metadata& frame, const PictureGeometry& geometry);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Which profile each lens, and each pair of body and lens, gets.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "fleet/matching.h"
#include "optics/compare_profiles.h"
#include "store/store.h"

namespace optrel {

/// Frames of one lens, counted by the grade of their best profile.
struct LensUse {
    std::string lens;  ///< lens text; empty: unknown
    int frames = 0;
    std::map<MatchGrade, int> grades;
    std::vector<std::string> against;  ///< reasons against the best refused profile, when frames have none
    int without() const { return grades.count(MatchGrade::none) ? grades.at(MatchGrade::none) : 0; }
};
/// Ordered by the number of frames without a profile.
std::vector<LensUse> lens_use(const std::vector<FrameRecord>& frames, const Fleet& fleet,
                              const std::vector<Profile>& profiles);

/// A profile that should be checked by a person.
struct ProfileConcern {
    std::string profile_id, name;
    RepeatVerdict verdict = RepeatVerdict::agrees;  ///< newest version compared with the previous one
    std::string sentence;
};
/// Profiles whose newest version differs from the previous one by more than both uncertainties. `profiles`: all
/// versions.
std::vector<ProfileConcern> profile_concerns(const std::vector<Profile>& profiles);

/// Profile for a pair of body and lens.
struct GridCell {
    int frames = 0;
    std::map<MatchGrade, int> grades;  ///< grades of its frames; without frames, of a hypothetical one
    Metadata example;  ///< metadata with the known lens: of a frame with the lowest grade, or of the hypothetical one
    PictureGeometry geometry;
    MatchGrade poorest() const { return grades.empty() ? MatchGrade::none : grades.begin()->first; }
};
struct LensGrid {
    struct Axis {
        std::string id, label;
        int frames = 0;
    };
    std::vector<Axis> bodies, lenses;
    std::vector<GridCell> cells;  ///< row by row
    const GridCell& at(std::size_t body, std::size_t lens) const { return cells[body * lenses.size() + lens]; }
};
/// Table of registered bodies and lenses; a lens text without individual lenses has its own column. Can be cancelled.
LensGrid lens_grid(const std::vector<FrameRecord>& frames, const Fleet& fleet, const std::vector<Profile>& profiles,
                   Progress& progress);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Which profile each lens in use gets, and what each pair of body and lens would get.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "fleet/matching.h"
#include "optics/compare_profiles.h"
#include "store/store.h"

namespace optrel {

/// Frames by the grade of their best profile, for one lens as it is known.
struct LensUse {
    std::string lens;  ///< text; empty: unknown
    int frames = 0;
    std::map<MatchGrade, int> grades;
    std::vector<std::string> against;  ///< of the best profile that was refused, where frames have none
    int without() const { return grades.count(MatchGrade::none) ? grades.at(MatchGrade::none) : 0; }
};
/// Most frames without a profile first.
std::vector<LensUse> lens_use(const std::vector<FrameRecord>& frames, const Fleet& fleet,
                              const std::vector<Profile>& profiles);

/// A profile that somebody should look at.
struct ProfileConcern {
    enum class Kind { overdue, changed } kind = Kind::overdue;
    std::string profile_id, name;
    RepeatVerdict verdict = RepeatVerdict::agrees;  ///< of the newest version against the one before
    std::string sentence;
};
/// Profiles whose newest version is more than a year old at `now` (ISO 8601), and those whose newest version differs
/// from the one before by more than both uncertainties. `profiles` are all versions.
std::vector<ProfileConcern> profile_concerns(const std::vector<Profile>& profiles, const std::string& now);

/// What a frame of a body and a lens gets, or would get.
struct GridCell {
    int frames = 0;
    std::map<MatchGrade, int> grades;  ///< of its frames; without frames, of one that a person might take
    Metadata example;  ///< with the lens known: a frame of the poorest grade, or the one that might be taken
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
/// Registered bodies by registered lenses. A lens of which only the text is known has a column of its own. Can be
/// cancelled.
LensGrid lens_grid(const std::vector<FrameRecord>& frames, const Fleet& fleet, const std::vector<Profile>& profiles,
                   Progress& progress);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Table of the figures of a profile's lens setting.
#pragma once

#include "optics/profile.h"
#include "widgets/table.h"

namespace optrel {

struct ProfileFigure {
    QString name, value, hint;
    Cell::Tone tone = Cell::Tone::plain;
};
using FiguresTable = TableOf<ProfileFigure>;

std::vector<ProfileFigure> profile_figures(const Profile& profile, int node);
FiguresTable* new_figures_table(int value_width);

}  // namespace optrel

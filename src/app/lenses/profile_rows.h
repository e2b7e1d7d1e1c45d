// SPDX-License-Identifier: GPL-3.0-or-later
// The figures of one lens setting of a profile, as rows of a table.
#pragma once

#include "optics/profile.h"
#include "widgets/table.h"

namespace optrel {

std::vector<Row> profile_rows(const Profile& profile, int node);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Messages about other machines that use this station's name.
#pragma once

#include <string>
#include <vector>

#include "store/stations.h"

namespace optrel {

/// One sentence for each machine; empty when the name is unique.
std::vector<std::string> name_conflicts_in_words(const std::vector<StationNameConflict>& namesakes);

}  // namespace optrel

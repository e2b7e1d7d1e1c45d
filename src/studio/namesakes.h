// SPDX-License-Identifier: GPL-3.0-or-later
// Telling people that another machine goes by their station's name.
#pragma once

#include <string>
#include <vector>

#include "store/stations.h"

namespace optrel {

/// A sentence for each; none where the name is this machine's alone.
std::vector<std::string> namesakes_in_words(const std::vector<Namesake>& namesakes);

}  // namespace optrel

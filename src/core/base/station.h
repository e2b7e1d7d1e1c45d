// SPDX-License-Identifier: GPL-3.0-or-later
// This station among the others.
#pragma once

#include <string>

namespace optrel {

/// The name of the computer; "station" where it has none.
std::string this_station();

}  // namespace optrel

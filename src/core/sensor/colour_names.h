// SPDX-License-Identifier: GPL-3.0-or-later
// Names of the colours in messages and documents, in the order of Channel.
#pragma once

namespace optrel {

inline constexpr const char* colour_names[] = {"red", "green", "blue"};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A message about a noise run: a figure, its limit and a remedy.
#pragma once

#include <string>

namespace optrel {

struct NoiseFinding {
    std::string name;      ///< short, the same in all runs: "flicker"
    bool serious = false;  ///< figures are missing or wrong because of it
    int iso = 0;           ///< 0: the whole run
    std::string text, remedy;
};

}  // namespace optrel

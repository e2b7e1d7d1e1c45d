// SPDX-License-Identifier: GPL-3.0-or-later
// This program as another station.
#pragma once

#include <cstdlib>

namespace optrel::test {

/// As long as it lives.
class AtStation {
public:
    explicit AtStation(const char* name) { setenv("OPTREL_STATION", name, 1); }
    ~AtStation() { unsetenv("OPTREL_STATION"); }
    AtStation(const AtStation&) = delete;
    AtStation& operator=(const AtStation&) = delete;
};

}  // namespace optrel::test

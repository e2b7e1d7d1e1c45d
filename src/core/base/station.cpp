// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/station.h"

#include <unistd.h>

namespace optrel {

std::string this_station() {
    char name[256] = {};
    return gethostname(name, sizeof name - 1) == 0 && name[0] ? name : "station";
}

}  // namespace optrel

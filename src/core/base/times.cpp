// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/times.h"

#include <fmt/chrono.h>

#include <ctime>

namespace optrel {

std::string utc_now() { return fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr))); }

}  // namespace optrel

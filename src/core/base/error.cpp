// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/error.h"

#include <fmt/format.h>

#include <new>

#include "base/words.h"

namespace optrel {

std::string reason_for(const std::filesystem::path& file, const std::exception& thrown) {
    if (dynamic_cast<const Error*>(&thrown)) return thrown.what();
    const std::string name = printable(file.string());
    if (dynamic_cast<const std::bad_alloc*>(&thrown))
        return fmt::format(
            "{} asks for more memory than there is: it is damaged or no picture for this work; leave it out.", name);
    return fmt::format("{} cannot be used: it is damaged or not what its name says ({}); copy it again from the card.",
                       name, without_stop(printable(thrown.what())));
}

}  // namespace optrel

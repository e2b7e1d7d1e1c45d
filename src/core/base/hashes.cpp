// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/hashes.h"

namespace optrel {

std::uint64_t fnv1a(const std::string& bytes) {
    std::uint64_t hash = 14695981039346656037ull;
    for (const unsigned char byte : bytes) hash = (hash ^ byte) * 1099511628211ull;
    return hash;
}

}  // namespace optrel

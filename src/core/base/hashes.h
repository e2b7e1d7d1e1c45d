// SPDX-License-Identifier: GPL-3.0-or-later
// Fast non-cryptographic hashes.
#pragma once

#include <cstdint>
#include <string>

namespace optrel {

/// 64-bit FNV-1a (Fowler, Noll, Vo 1991). Do not use it where somebody may forge the input.
std::uint64_t fnv1a(const std::string& bytes);

}  // namespace optrel

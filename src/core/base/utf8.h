// SPDX-License-Identifier: GPL-3.0-or-later
// Decoding UTF-8 (RFC 3629) character by character.
#pragma once

#include <cstddef>
#include <string_view>

namespace optrel {

/// Length in bytes of the well-formed character at the beginning; 0 if there is none.
std::size_t utf8_length(std::string_view text);

}  // namespace optrel

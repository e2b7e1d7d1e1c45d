// SPDX-License-Identifier: GPL-3.0-or-later
// Characters in UTF-8 (RFC 3629), one at a time.
#pragma once

#include <cstddef>
#include <string_view>

namespace optrel {

/// Bytes of the well-formed character at the front; 0 when there is none.
std::size_t utf8_length(std::string_view text);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Bytes as text (RFC 4648, section 4), by OpenSSL.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace optrel {

std::string to_base64(const std::vector<unsigned char>& bytes);
/// Empty for a text that is not base64.
std::optional<std::vector<unsigned char>> from_base64(const std::string& text);

}  // namespace optrel

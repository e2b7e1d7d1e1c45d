// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/utf8.h"

namespace optrel {

std::size_t utf8_length(std::string_view text) {
    const auto at = [&](std::size_t i) { return i < text.size() ? static_cast<unsigned char>(text[i]) : 0u; };
    const auto follows = [&](std::size_t i, unsigned low = 0x80, unsigned high = 0xbf) {
        return at(i) >= low && at(i) <= high;
    };
    const unsigned lead = at(0);
    if (text.empty()) return 0;
    if (lead < 0x80) return 1;
    if (lead >= 0xc2 && lead <= 0xdf) return follows(1) ? 2 : 0;
    if (lead >= 0xe0 && lead <= 0xef) {
        const unsigned low = lead == 0xe0 ? 0xa0 : 0x80, high = lead == 0xed ? 0x9f : 0xbf;
        return follows(1, low, high) && follows(2) ? 3 : 0;
    }
    if (lead >= 0xf0 && lead <= 0xf4) {
        const unsigned low = lead == 0xf0 ? 0x90 : 0x80, high = lead == 0xf4 ? 0x8f : 0xbf;
        return follows(1, low, high) && follows(2) && follows(3) ? 4 : 0;
    }
    return 0;
}

}  // namespace optrel

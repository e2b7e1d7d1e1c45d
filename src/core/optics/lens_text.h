// SPDX-License-Identifier: GPL-3.0-or-later
// Lens texts as files write them, compared with care for spelling.
#pragma once

#include <string>

namespace optrel {

/// Case, spacing, slashes, "f/" or "1:" before the aperture and "mm" do not tell lenses apart.
std::string canonical_lens_text(const std::string& text);

enum class LensTextMatch {
    different,
    maker_left_out,  ///< one of the two begins with a word, without figures, that the other leaves out
    same,
};
/// Compares two lens texts. An empty one is different from every other.
LensTextMatch compare_lens_texts(const std::string& a, const std::string& b);

}  // namespace optrel

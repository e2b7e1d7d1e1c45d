// SPDX-License-Identifier: GPL-3.0-or-later
// Comparison of lens texts from files, tolerant of spelling.
#pragma once

#include <string>

namespace optrel {

/// A normal form. Case, spacing, slashes, "f/" or "1:" before the aperture and "mm" make no difference.
std::string canonical_lens_text(const std::string& text);

enum class LensTextMatch {
    different,
    maker_left_out,  ///< one text begins with a word without digits that the other lacks
    same,
};
/// Compares two lens texts. An empty one is different from every other.
LensTextMatch compare_lens_texts(const std::string& a, const std::string& b);

}  // namespace optrel

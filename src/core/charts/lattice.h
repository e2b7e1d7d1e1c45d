// SPDX-License-Identifier: GPL-3.0-or-later
// Grows the lattice of a plain checkerboard from saddles by local rules, so that partial and bent boards are found.
#pragma once

#include <map>
#include <utility>
#include <vector>

#include "charts/saddle_finder.h"

namespace optrel {

/// Lattice coordinates (column, row) with an arbitrary origin, and the positions in samples of the search picture.
using Lattice = std::map<std::pair<int, int>, Vec2>;

/// The largest consistent lattice of at least 3 x 3 corners; empty when there is none. (column, row) is right-handed in
/// the picture; which side of the board is which remains open.
Lattice grow_lattice(const SearchPicture& picture);

/// Ranges of columns and rows of a lattice.
struct LatticeExtent {
    int left, top, right, bottom;
    int columns() const { return right - left + 1; }
    int rows() const { return bottom - top + 1; }
};
LatticeExtent extent_of(const Lattice& lattice);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// What residuals of many frames have in common in cells of the picture, beyond what chance alone would leave there: the
// model's misfit.
#pragma once

#include <algorithm>
#include <cmath>

namespace optrel {

class CommonPart {
public:
    /// `axes`: how many independent values each cell's figures are the mean of, 1 or 2.
    explicit CommonPart(int axes) : axes_(axes) {}

    /// A cell: the square of what its residuals have in common, and what chance is expected to make of it (both in one
    /// squared unit, per axis).
    void add(double square, double by_chance) {
        excess_ += square - by_chance;
        chance_ += by_chance;
        ++cells_;
    }

    /// RMS per axis. What chance alone exceeds in a third of all cases is no misfit.
    double rms() const {
        if (cells_ == 0) return 0;
        return std::sqrt(std::max(0.0, (excess_ - chance_ * std::sqrt(2.0 / (axes_ * cells_))) / cells_));
    }

private:
    int axes_, cells_ = 0;
    double excess_ = 0, chance_ = 0;
};

}  // namespace optrel

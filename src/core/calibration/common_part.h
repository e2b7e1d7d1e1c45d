// SPDX-License-Identifier: GPL-3.0-or-later
// Estimates the misfit of a model: the part that residuals of many frames have in common in cells of the picture,
// beyond what chance explains.
#pragma once

#include <algorithm>
#include <cmath>

namespace optrel {

class CommonPart {
public:
    /// `axes`: number of independent values in the mean of each cell, 1 or 2.
    explicit CommonPart(int axes) : axes_(axes) {}

    /// Adds a cell: the square of the common part of its residuals, and the part of it that chance explains (same
    /// squared unit, per axis).
    void add(double square, double by_chance) {
        excess_ += square - by_chance;
        chance_ += by_chance;
        ++cells_;
    }

    /// RMS per axis. A value that chance exceeds in a third of all cases counts as zero.
    double rms() const {
        if (cells_ == 0) return 0;
        return std::sqrt(std::max(0.0, (excess_ - chance_ * std::sqrt(2.0 / (axes_ * cells_))) / cells_));
    }

private:
    int axes_, cells_ = 0;
    double excess_ = 0, chance_ = 0;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Measured figures as text.
#pragma once

#include <string>

namespace optrel {

/// "0.6882 ± 0.0006": with so many decimals, at most 6, that two figures of the uncertainty (one sigma) show; with 3
/// when the uncertainty is 0.
std::string figure_with_sigma(double value, double sigma);

}  // namespace optrel

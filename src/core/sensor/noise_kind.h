// SPDX-License-Identifier: GPL-3.0-or-later
// Noise measurements as a kind of measurement: their subject is a body.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "measurement/kind.h"

namespace optrel {

const MeasurementKind& noise_kind();

/// Terms a and b of red, green and blue at an ISO, as a DNG's noise profile has them: variance = a signal + b with the
/// signal 0 at black and 1 at the white level. Between measured ISO settings both are interpolated over the logarithm
/// of the ISO; empty outside them.
std::optional<std::array<double, 6>> noise_terms_at(const std::string& document, double iso);

/// Marks serious findings in a document as accepted, see accept_findings(). Throws Error(input).
std::string with_accepted(const std::string& document, const std::vector<Acceptance>& accepted,
                          const std::string& author, const std::string& time);

}  // namespace optrel

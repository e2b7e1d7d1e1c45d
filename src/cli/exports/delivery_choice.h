// SPDX-License-Identifier: GPL-3.0-or-later
// The options by which commands say how frames are written out: a delivery by name, and what differs from it.
#pragma once

#include <optional>

#include "cli/commands.h"
#include "exchange/delivery.h"

namespace optrel::cli {

struct DeliveryChoice {
    std::optional<std::string> delivery, as, space, file_name, taken, metadata, geometry, falloff, codec, container,
        resolution;
    std::optional<int> bits, longest_side, quality;
    bool compressed = false, plain_samples = false, embed_original = false;

    bool operator==(const DeliveryChoice& o) const = default;
};
void add_delivery_choice(CLI::App& command, DeliveryChoice& choice);

/// The delivery that is named among `known`, or the plain one of the format, with what differs; checked. Throws
/// Error(usage) when neither is given, when the two contradict each other, and for what the
/// format does not have.
Delivery chosen_delivery(const DeliveryChoice& choice, const std::vector<Delivery>& known);

}  // namespace optrel::cli

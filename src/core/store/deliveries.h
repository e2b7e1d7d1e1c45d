// SPDX-License-Identifier: GPL-3.0-or-later
// Export deliveries: the shipped ones and those of the studio.
#pragma once

#include <string>
#include <vector>

#include "exchange/delivery.h"

namespace optrel {

class Engine;

class StoredDeliveries {
public:
    explicit StoredDeliveries(Engine& engine) : engine_(engine) {}

    /// All deliveries, ordered by name. A delivery of the studio replaces a shipped one of the same name (ignoring
    /// case).
    std::vector<Delivery> all() const;
    /// Ignores case. Throws Error(input) with similar names.
    Delivery named(const std::string& name) const;
    bool own(const std::string& name) const;
    /// Validates the delivery, then adds it or replaces the one with the same name.
    void put(const Delivery& delivery);
    /// Throws Error(input) when the studio has no delivery of that name. A shipped one of that name becomes visible
    /// again.
    void remove(const std::string& name);

private:
    Engine& engine_;
};

/// Finds a delivery by name. Throws Error(input) with similar names.
const Delivery& delivery_named(const std::vector<Delivery>& deliveries, const std::string& name);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The export deliveries of a studio: those that are shipped, and its own over them.
#pragma once

#include <string>
#include <vector>

#include "exchange/delivery.h"

namespace optrel {

class Engine;

class StoredDeliveries {
public:
    explicit StoredDeliveries(Engine& engine) : engine_(engine) {}

    /// By name; one of the studio takes the place of a shipped one of the same name (in any case).
    std::vector<Delivery> all();
    /// In any case. Throws Error(input) with the nearest names.
    Delivery named(const std::string& name);
    bool own(const std::string& name);
    /// Checks, and replaces that of the same name.
    void put(const Delivery& delivery);
    /// Throws Error(input) for a name that is not the studio's own; a shipped one of that name comes back.
    void remove(const std::string& name);

private:
    Engine& engine_;
};

/// Of deliveries by name. Throws Error(input) with the nearest names.
const Delivery& delivery_named(const std::vector<Delivery>& deliveries, const std::string& name);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The published colour measurements of a store's bodies.
#pragma once

#include <string>
#include <vector>

#include "fleet/fleet.h"
#include "measurement/measurement.h"
#include "patches/body_colours.h"
#include "store/store.h"

namespace optrel {

/// A body's published colours.
struct Published {
    MeasurementReference measured;
    BodyColours colours;
};

class PublishedColours {
public:
    PublishedColours(const Store& store, const Fleet& fleet);
    /// Null when the body was not measured. Throws Error(input) for an id that the register does not have.
    const Published* of(const std::string& body) const;

private:
    const Fleet& fleet_;
    std::vector<Published> all_;
};

/// True when both have the same patches with the same reference colours.
bool same_chart(const PatchChart& a, const PatchChart& b);
/// Temperature (K) of the measured light that is nearest to `kelvin`.
double nearest_light(const BodyColours& body, double kelvin);
/// Name of a body for people; the id when it is not registered.
std::string body_label(const Fleet& fleet, const std::string& id);

}  // namespace optrel

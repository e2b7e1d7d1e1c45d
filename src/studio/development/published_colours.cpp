// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/published_colours.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"

namespace optrel {

PublishedColours::PublishedColours(const Store& store, const Fleet& fleet) : fleet_(fleet) {
    for (const Measurement& m : store.measurements().current(colour_kind()))
        all_.push_back({{m.id, m.version}, body_colours_from_json(m.document, m.name)});
}

const Published* PublishedColours::of(const std::string& id) const {
    const Body* body = fleet_.body(id);
    if (!body) throw input_error(fmt::format("The register has no body {}.", id));
    for (const Published& p : all_)
        if (p.colours.camera == body->camera() && p.colours.serial == body->measured_serial()) return &p;
    return nullptr;
}

bool same_chart(const PatchChart& a, const PatchChart& b) {
    if (a.patches.size() != b.patches.size()) return false;
    for (std::size_t i = 0; i < a.patches.size(); ++i)
        if (a.patches[i].id != b.patches[i].id || cv::norm(a.patches[i].xyz_d50 - b.patches[i].xyz_d50) > 0.01)
            return false;
    return true;
}

double nearest_light(const BodyColours& body, double kelvin) {
    double best = 0;
    for (const ColourSetting& s : body.settings)
        if (best == 0 || std::abs(1 / s.kelvin - 1 / kelvin) < std::abs(1 / best - 1 / kelvin)) best = s.kelvin;
    return best;
}

std::string body_label(const Fleet& fleet, const std::string& id) {
    const Body* body = fleet.body(id);
    return body ? body->label() : id;
}

}  // namespace optrel

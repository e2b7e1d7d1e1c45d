// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/references.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/words.h"
#include "fleet/look_up.h"
#include "kinds/measurement_kinds.h"
#include "store/store.h"
#include "studio/baselines/naming.h"

namespace optrel {

References references_for(Field field, const Store& store) {
    References out;
    if (field == Field::lens_profile) out.profiles = store.profiles().all_versions();
    if (field == Field::colour_source) out.colours = store.colours().all();
    return out;
}

const ColourFile& colour_file_named(const std::vector<ColourFile>& files, const std::string& text) {
    std::vector<Named> things;
    for (const ColourFile& f : files) things.push_back({f.hash, {f.hash, f.value().text, f.name}});
    const std::string id = look_up("colour file", text, things, "Fleet and 'colour list' show them all");
    return *std::find_if(files.begin(), files.end(), [&](const ColourFile& f) { return f.hash == id; });
}

Value referred(Field field, const Value& value, const References& known) {
    if (field == Field::lens_profile && value.text != "automatic" && value.text != "none")
        return {0, profile_reference(known.profiles, value.text)};
    const std::vector<std::string>& words = info(field).choices;
    if (field == Field::colour_source && std::find(words.begin(), words.end(), value.text) == words.end())
        return colour_file_named(known.colours, value.text).value();
    return value;
}

Measurement measurement_named(const Store& store, const std::string& text) {
    const bool version_given = text.find('@') != std::string::npos;
    const MeasurementReference wanted = version_given ? measurement_reference(text) : MeasurementReference{text, 0};
    std::vector<std::string> there;
    for (const MeasurementKind* kind : measurement_kinds())
        for (Measurement& m : store.measurements().all_versions(*kind)) {
            if (!version_given && m.id == text && m.state.is_current()) return std::move(m);
            const MeasurementReference reference{m.id, m.version};
            if (reference == wanted) return std::move(m);
            there.push_back(to_string(reference));
        }
    throw input_error(
        fmt::format("There is no measurement {} in this store{}.", printable(text), nearest_clause(text, there)));
}

Pin pin_named(Field field, const std::string& text, const References& known, const Revision& draft) {
    Pin pin = pin_from_text(field, text);
    for (auto& [iso, value] : pin.knots) {
        value = referred(field, value, known);
        if (field == Field::start)
            if (const std::string set = set_named_by(value); !set.empty()) value = value_of_set(set_named(draft, set));
    }
    return pin;
}

}  // namespace optrel

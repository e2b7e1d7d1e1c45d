// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/bundle_kind.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"
#include "kinds/measurement_kinds.h"

namespace optrel {

const BundleKind BundleKind::model(0, "model", "models", "models"), BundleKind::body(1, "body", "bodies", "bodies"),
    BundleKind::lens(2, "lens", "lenses", "lenses"), BundleKind::claim(3, "claim", "claims", "claims"),
    BundleKind::colours(4, "colour file", "colour files", "colours", "bin"), BundleKind::set(6, "set", "sets", "sets"),
    BundleKind::tier(7, "tier", "tiers", "tiers"), BundleKind::baseline(8, "baseline", "baselines", "baselines");

BundleKind BundleKind::of(const MeasurementKind& kind) { return {5, kind.one, kind.many, kind.many, "json", &kind}; }

std::vector<BundleKind> BundleKind::all() {
    std::vector<BundleKind> out{model, body, lens, claim, colours};
    for (const MeasurementKind* kind : measurement_kinds()) out.push_back(of(*kind));
    out.insert(out.end(), {set, tier, baseline});
    return out;
}

BundleKind BundleKind::named(const std::string& text) {
    std::vector<std::string> names;
    for (const BundleKind& kind : all()) {
        if (kind.one() == lowered(trimmed(text))) return kind;
        names.push_back(kind.one());
    }
    throw input_error(fmt::format("A bundle has no part of the kind '{}', only {}; a newer Optrel may know it.",
                                  printable(text.substr(0, 40)), all_of(names)));
}

std::string to_string(const BundleKind& kind) { return kind.one(); }

std::string counted(const BundleKind& kind, int count) { return counted(count, kind.one(), kind.many()); }

}  // namespace optrel

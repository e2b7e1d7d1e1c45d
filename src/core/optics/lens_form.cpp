// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/lens_form.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"

namespace optrel {

std::vector<int> LensForm::held(int terms) const {
    std::vector<int> out;
    for (int term = terms; term < radial_count(); ++term) out.push_back(term);
    return out;
}

double LensForm::fit_factor(int k, double q, double) const { return std::pow(q, k + 1); }

bool LensForm::continues(const LensForm&, int, int) const { return false; }

std::span<const LensModelKind> lens_forms() {
    static const LensModelKind all[] = {LensModelKind::radial_tangential, LensModelKind::rational,
                                        LensModelKind::equidistant, LensModelKind::equisolid,
                                        LensModelKind::stereographic};
    return all;
}

std::string lens_form_names() {
    std::vector<std::string> names;
    for (const LensModelKind kind : lens_forms()) names.emplace_back(kind->name());
    return one_of(names);
}

LensModelKind lens_model_kind(const std::string& name) {
    for (const LensModelKind kind : lens_forms())
        if (name == kind->name()) return kind;
    throw input_error(fmt::format(
        "The lens model '{}' is not known to this version, which knows {}; use a newer Optrel or solve the lens again.",
        name, lens_form_names()));
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/measurement.h"

#include <fmt/format.h>

namespace optrel {

std::string to_string(MeasuredSubject::Kind kind) {
    switch (kind) {
        case MeasuredSubject::Kind::lens_copy: return "lens copy";
        case MeasuredSubject::Kind::lens_model: return "lens model";
        case MeasuredSubject::Kind::body: return "body";
        default: return "body model";
    }
}

std::string to_string(const QualityFigure& f) {
    const std::string unit = f.unit.empty() ? "" : " " + f.unit;
    return f.sigma ? fmt::format("{} {:.4g} ± {:.2g}{}", f.name, f.value, *f.sigma, unit)
                   : fmt::format("{} {:.4g}{}", f.name, f.value, unit);
}

}  // namespace optrel

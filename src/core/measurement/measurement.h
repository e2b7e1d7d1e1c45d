// SPDX-License-Identifier: GPL-3.0-or-later
// What every measurement has, whatever was measured: a subject, versions, quality figures, an origin and a document.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "measurement/findings.h"
#include "measurement/origin.h"
#include "measurement/version_state.h"

namespace optrel {

/// What was measured.
struct MeasuredSubject {
    enum class Kind { lens_copy, lens_model, body, body_model };
    Kind kind = Kind::lens_model;
    std::string name;    ///< lens text of a lens; maker and model of a body
    std::string serial;  ///< of a copy or a body; empty for a model
    std::string with;    ///< maker and model of the body that a lens was measured on; empty for a body
};
/// "lens copy", "lens model", "body", "body model".
std::string to_string(MeasuredSubject::Kind kind);

/// A figure that says how good a measurement is.
struct QualityFigure {
    std::string name;
    double value = 0;
    std::string unit;
    std::optional<double> sigma;  ///< one sigma, in the unit of the value; empty: not known
};
/// "RMS 0.123 px", "gain 1.732 ± 0.004 e/DN".
std::string to_string(const QualityFigure& figure);

/// The part of a measurement that does not depend on its kind.
struct Measurement {
    std::string kind;  ///< id of its MeasurementKind
    std::string id;    ///< the same for all versions
    int version = 0;   ///< 0: not published yet
    std::string name;
    MeasuredSubject subject;
    /// Two measurements of one kind with the same key are versions of one another. Empty: a subject of its own.
    std::string subject_key;
    MeasurementOrigin origin = MeasurementOrigin::measured;
    std::string author, time;                                 ///< by whom and when; ISO 8601, UTC
    std::vector<std::pair<std::string, std::string>> frames;  ///< file name and content hash
    std::vector<QualityFigure> figures;
    std::vector<SeriousFinding> findings;
    std::optional<MeasurementSource> taken_in;  ///< empty: made in this studio
    VersionState state;
    std::string document;
};

}  // namespace optrel

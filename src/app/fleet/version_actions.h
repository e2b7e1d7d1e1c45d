// SPDX-License-Identifier: GPL-3.0-or-later
// Versions of a measured body: as they are listed, and what is asked before one is withdrawn or made current.
#pragma once

#include "measurement/measurement.h"
#include "session/parts.h"
#include "widgets/table.h"

class QWidget;

namespace optrel {

using VersionParts = SomeOf<ProfileModel, Jobs, Messages>;

/// Number and state of a version.
Cell version_cell(const Measurement& version);
/// "Brimholt B2  B2-0117".
QString measured_body(const Measurement& version);

/// `effect` says what changes, in whole sentences.
void make_version_current(const VersionParts& parts, QWidget* parent, const Measurement& version,
                          const QString& effect);
void withdraw_version(const VersionParts& parts, QWidget* parent, const Measurement& version, const QString& effect);

}  // namespace optrel

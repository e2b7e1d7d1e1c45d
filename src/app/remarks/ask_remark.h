// SPDX-License-Identifier: GPL-3.0-or-later
// Asking for a remark on something: a tier, a set, a profile, a frame or a finding. It stands in Attention, for
// everybody, until somebody settles it.
#pragma once

#include <QWidget>
#include <string>

#include "session/parts.h"

namespace optrel {

using RemarkParts = SomeOf<ApprovalDesk, Voice>;

/// `kind` and `subject` as Remark has them; `name`: what people call it. `field`: the id of one that the remark is
/// about, or empty.
void ask_remark(const RemarkParts& parts, QWidget* window, const std::string& kind, const std::string& subject,
                const QString& name, const std::string& field = "");

}  // namespace optrel

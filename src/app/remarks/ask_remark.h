// SPDX-License-Identifier: GPL-3.0-or-later
// Asks for a remark on a tier, a set, a profile, a frame or a finding. It is shown in Attention to all users until
// somebody settles it.
#pragma once

#include <QWidget>
#include <string>

#include "session/parts.h"

namespace optrel {

using RemarkParts = SomeOf<ApprovalService, Messages>;

/// `kind` and `subject` as in Remark; `name`: label for the user. `field`: id of the field that the remark is about, or
/// empty.
void ask_remark(const RemarkParts& parts, QWidget* window, const std::string& kind, const std::string& subject,
                const QString& name, const std::string& field = "");

}  // namespace optrel

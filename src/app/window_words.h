// SPDX-License-Identifier: GPL-3.0-or-later
// Texts of the core as the window shows them.
#pragma once

#include <QString>
#include <string>

namespace optrel {

/// Bytes that are no text have characters of their own (base/path_text.h); what a sentence says in brackets of options
/// of the command line is left out, since the window has none.
QString q(const std::string& s);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Handles of Little CMS that close themselves. Only for source files that use the library.
#pragma once

#include <lcms2.h>

#include <memory>
#include <string>

namespace optrel {

using IccHandle = std::unique_ptr<void, decltype(&cmsCloseProfile)>;

/// Opens a profile; null when the bytes are not one.
IccHandle icc_handle(const std::string& bytes);
/// A text of the profile, printable, at most 120 characters; empty when it has none.
std::string icc_text(cmsHPROFILE profile, cmsInfoType which);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Checks the tags of an ICC profile before a library allocates memory for what they promise.
#pragma once

#include <string>

namespace optrel {

/// Whether every tag of a profile lies within it and holds as many texts, curves and table values as it says
/// (ICC.1:2022, 7.3 and 10). A short file that promises a large table would otherwise make Little CMS allocate up to
/// 512 MB.
bool icc_tags_fit(const std::string& bytes);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The correction of a film.
#pragma once

#include <filesystem>
#include <string>

#include "store/store.h"
#include "studio/development/development_facts.h"

namespace optrel {

/// Correction by the matching film rule of the studio; `profile` (id or name), `focal` and `area` (mm) override the
/// rule. Throws Error(input) when information is missing.
FrameDevelopment film_development(const Store& store, const std::filesystem::path& film, const std::string& profile,
                                  double focal_mm, double area_width_mm);
/// The same with a profile from a file.
FrameDevelopment film_development(const std::filesystem::path& film, const std::filesystem::path& profile,
                                  double focal_mm, double area_width_mm);

}  // namespace optrel

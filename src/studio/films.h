// SPDX-License-Identifier: GPL-3.0-or-later
// Moving pictures of a studio: what each is corrected by, and correcting it.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "films/correct_film.h"
#include "store/store.h"

namespace optrel {

/// What a film is corrected with.
struct FilmRecipe {
    FilmTaken taken;
    ResolvedFrame fields;
    std::optional<AppliedProfile> profile;
    std::string chosen = "none";  ///< the profile, for people
};

/// By the rule of the studio that matches the film's path; `profile` (id or name), `focal` and `area` in mm take the
/// place of what it says. Throws Error(input) where neither says what is needed.
FilmRecipe film_recipe(Store& store, const std::filesystem::path& film, const std::string& profile, double focal_mm,
                       double area_width_mm);
/// The same by a profile from a file.
FilmRecipe film_recipe(const std::filesystem::path& profile, double focal_mm, double area_width_mm);

/// A picture of a film as a 16-bit TIFF in sRGB, to be looked at like any frame.
void write_film_still(const std::filesystem::path& film, double seconds, const std::filesystem::path& out,
                      Existing existing);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Moving pictures of a studio: what each is corrected by, and correcting it.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "store/store.h"
#include "studio/exporting.h"

namespace optrel {

/// What a film is corrected with: by the rule of the studio that matches its path; `profile` (id or name), `focal` and
/// `area` in mm take the place of what it says. Throws Error(input) where neither says what is needed.
FrameDevelopment film_development(Store& store, const std::filesystem::path& film, const std::string& profile,
                                  double focal_mm, double area_width_mm);
/// The same by a profile from a file.
FrameDevelopment film_development(const std::filesystem::path& film, const std::filesystem::path& profile,
                                  double focal_mm, double area_width_mm);

/// A film that is about to be corrected.
struct FilmLook {
    std::filesystem::path film;
    FilmFacts facts;
    std::optional<FilmRule> rule;  ///< of the studio, that matches its path
    std::string problem;           ///< why it cannot be read, in one sentence; then the facts are empty
};
std::vector<FilmLook> look_at_films(Store& store, const std::vector<std::filesystem::path>& films,
                                    const Progress& progress);

/// Corrects a film by a delivery that writes films, with its account. Throws as correct_film() does.
Exported export_film(const std::filesystem::path& film, const FrameDevelopment& facts, const Delivery& delivery,
                     const std::filesystem::path& out, Existing existing, Progress& progress);

/// A picture of a film as a 16-bit TIFF in sRGB, to be looked at like any frame.
void write_film_still(const std::filesystem::path& film, double seconds, const std::filesystem::path& out,
                      Existing existing);

}  // namespace optrel

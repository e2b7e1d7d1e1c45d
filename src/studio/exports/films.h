// SPDX-License-Identifier: GPL-3.0-or-later
// Films of a studio: inspection and correction.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "store/store.h"
#include "studio/exports/export_result.h"

namespace optrel {

/// A film that is about to be corrected.
struct FilmLook {
    std::filesystem::path film;
    FilmFacts facts;
    std::optional<FilmRule> rule;  ///< matching rule of the studio
    std::string problem;           ///< reason why it cannot be read; then the facts are empty
};
std::vector<FilmLook> look_at_films(const Store& store, const std::vector<std::filesystem::path>& films,
                                    const Progress& progress);

/// Corrects a film by a delivery, with an account. Throws as correct_film() does.
Exported export_film(const std::filesystem::path& film, const FrameDevelopment& facts, const Delivery& delivery,
                     const std::filesystem::path& out, Existing existing, Progress& progress);

/// Writes a frame of a film as a 16-bit TIFF in sRGB.
void write_film_still(const std::filesystem::path& film, double seconds, const std::filesystem::path& out,
                      Existing existing);

}  // namespace optrel

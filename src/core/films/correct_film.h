// SPDX-License-Identifier: GPL-3.0-or-later
// Correcting a moving picture: every frame of it like a frame of the studio, with one resampling at the film's size.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "films/film_writer.h"
#include "render/framing.h"

namespace optrel {

/// What a film does not say of itself.
struct FilmTaken {
    double focal_mm = 0;
    double area_width_mm = 0;  ///< width of the part of the sensor that was recorded
};

/// A film and what it is corrected with.
struct FilmOrder {
    std::filesystem::path film;
    FilmTaken taken;
    ResolvedFrame fields;
    std::optional<AppliedProfile> profile;
    std::string account = {};  ///< that the film is to carry, as JSON
    /// What makes two orders the same. With it a long film is written in pieces (films/film_pieces.h), and an order
    /// that was interrupted goes on behind the last of them; empty: the film is written in one go.
    std::string same = {};
};

struct FilmDone {
    long long frames = 0;
    std::vector<std::string> remarks;  ///< a sentence each
};

/// Writes `out`, whole or not at all. The fields that hold for a rendered picture hold for each frame, but for a crop,
/// which would change the film's size: Error(input). Throws as reading and writing do; can be cancelled.
FilmDone correct_film(const FilmOrder& order, const std::filesystem::path& out, FilmCodec codec, Existing existing,
                      Progress& progress);

/// A picture of a film at an instant, as linear light in its own primaries. Throws Error(input) for an instant beyond
/// its end.
Planes film_still(const std::filesystem::path& film, double seconds, FilmFacts& facts);

}  // namespace optrel

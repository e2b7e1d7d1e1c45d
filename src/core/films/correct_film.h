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

/// Facts that a film file does not contain.
struct FilmSource {
    double focal_mm = 0;
    double area_width_mm = 0;  ///< width of the part of the sensor that was recorded
};

/// A film and the correction for it.
struct FilmOrder {
    std::filesystem::path film;
    FilmSource taken;
    ResolvedFrame fields;
    std::optional<AppliedProfile> profile;
    std::string account = {};  ///< account to store in the film, as JSON
    /// Identifies the order. With it, a long film is written in pieces (films/film_pieces.h), and an interrupted order
    /// continues after the last complete piece; empty: the film is written in one go.
    std::string same = {};
};

struct FilmDone {
    long long frames = 0;
    std::vector<std::string> remarks;  ///< one sentence each
};

/// Writes `out` atomically. Fields for rendered pictures apply to each frame, except a crop, which would change the
/// size: Error(input). Throws as reading and writing do; can be cancelled.
FilmDone correct_film(const FilmOrder& order, const std::filesystem::path& out, FilmCodec codec, Existing existing,
                      Progress& progress);

/// One picture of a film at a given time, as linear light in the film's primaries. Throws Error(input) for a time after
/// its end.
Planes film_still(const std::filesystem::path& film, double seconds, FilmFacts& facts);

}  // namespace optrel

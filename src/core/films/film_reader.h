// SPDX-License-Identifier: GPL-3.0-or-later
// Reads a film frame by frame as linear light.
#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <string>

#include "films/film_light.h"

namespace optrel {

struct FilmFacts {
    int width = 0, height = 0;
    double frames_per_second = 0;
    double seconds = 0;         ///< 0: unknown
    long long frames = 0;       ///< from the file, or from duration and rate; 0: unknown
    std::string codec, format;  ///< "h264", "yuv420p"
    FilmCurve curve = FilmCurve::bt709;
    bool curve_assumed = false;  ///< the file does not state its transfer curve
    bool full_range = false;
    bool wide_colours = false;  ///< BT.2020 primaries
    int turned_deg = 0;         ///< rotation for display
    int sounds = 0;
    std::string comment;  ///< comment of the film
};

class FilmReader {
public:
    virtual ~FilmReader() = default;
    virtual const FilmFacts& facts() const = 0;
    /// Reads the next frame; returns false at the end. Frames that cannot be decoded are skipped and counted. Throws
    /// Error(input) for an interlaced frame.
    virtual bool next(Planes& light) = 0;
    /// Factors for all following frames, for example to remove vignetting. Planes of the film's size.
    virtual void multiply_by(Planes gain) = 0;
    /// Time of the last frame, in units of the film's time base, and in seconds from the beginning.
    virtual long long time() const = 0;
    virtual double seconds() const = 0;
    virtual int damaged() const = 0;
    /// Seeks to the last frame that begins at or before a time.
    virtual void seek(double seconds) = 0;
    /// Whether all frames have the same duration, within one tick of the time base. Reads the whole file without
    /// decoding and calls `check` for each packet; an exception from it stops the work.
    virtual bool even_rate(const std::function<void()>& check) const = 0;
};

/// Throws Error(input) in one sentence for what is no film, is damaged at its beginning, is interlaced, or has a form
/// that cannot be read; Error(file) where the module for films is not installed (films/film_module.h).
std::unique_ptr<FilmReader> open_film(const std::filesystem::path& path);

}  // namespace optrel

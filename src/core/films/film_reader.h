// SPDX-License-Identifier: GPL-3.0-or-later
// Reading a moving picture, frame by frame, as linear light.
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
    double seconds = 0;         ///< 0: not said
    long long frames = 0;       ///< as the file says, or by length and rate; 0: not known
    std::string codec, format;  ///< "h264", "yuv420p"
    FilmCurve curve = FilmCurve::bt709;
    bool curve_assumed = false;  ///< the file does not say its curve
    bool full_range = false;
    bool wide_colours = false;  ///< primaries of BT.2020
    int turned_deg = 0;         ///< how it is turned when it is shown
    int sounds = 0;
    std::string comment;  ///< of the whole film
};

class FilmReader {
public:
    virtual ~FilmReader() = default;
    virtual const FilmFacts& facts() const = 0;
    /// The next frame; false at the end. Frames that cannot be decoded are passed over and counted. Throws Error(input)
    /// for an interlaced frame.
    virtual bool next(Planes& light) = 0;
    /// By which all that is read from now on is multiplied: what undoes the falloff. Planes of the film's size.
    virtual void multiply_by(Planes gain) = 0;
    /// When the last frame is shown, in units of the film's own clock, and in seconds from its beginning.
    virtual long long time() const = 0;
    virtual double seconds() const = 0;
    virtual int damaged() const = 0;
    /// Goes to the last frame that begins at or before an instant.
    virtual void seek(double seconds) = 0;
    /// True when all pictures have the same duration, within one tick of the film's clock. It reads the whole file
    /// without decoding it, and calls `check` for each packet; an exception from `check` ends it.
    virtual bool even_rate(const std::function<void()>& check) const = 0;
};

/// Throws Error(input) in one sentence for what is no film, is damaged at its beginning, is interlaced, or has a form
/// that cannot be read; Error(file) where the module for films is not installed (films/film_module.h).
std::unique_ptr<FilmReader> open_film(const std::filesystem::path& path);

}  // namespace optrel

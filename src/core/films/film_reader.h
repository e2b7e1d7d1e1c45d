// SPDX-License-Identifier: GPL-3.0-or-later
// Reading a moving picture, frame by frame, as linear light.
#pragma once

#include <filesystem>
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
    /// Throws Error(input) in one sentence for what is no film, is damaged at its beginning, is interlaced, or has a
    /// form that cannot be read.
    explicit FilmReader(const std::filesystem::path& path);
    ~FilmReader();

    const FilmFacts& facts() const { return facts_; }
    /// The next frame; false at the end. Frames that cannot be decoded are passed over and counted. Throws Error(input)
    /// for an interlaced frame.
    bool next(Planes& light);
    /// By which all that is read from now on is multiplied: what undoes the falloff. Planes of the film's size.
    void multiply_by(Planes gain) { gain_ = std::move(gain); }
    /// When the last frame is shown, in units of the film's own clock.
    long long time() const;
    int damaged() const { return damaged_; }
    /// Goes to the last frame that begins at or before an instant.
    void seek(double seconds);

    struct Streams;  ///< what a writer copies: sound, tags, clock
    Streams& streams() { return *streams_; }

private:
    void read_facts();
    bool decode();

    std::filesystem::path path_;
    FilmFacts facts_;
    Planes gain_;
    std::unique_ptr<FilmLight> light_;
    std::unique_ptr<Streams> streams_;
    int damaged_ = 0;
};

}  // namespace optrel

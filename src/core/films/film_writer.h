// SPDX-License-Identifier: GPL-3.0-or-later
// Writing a moving picture from linear light, with what another film has beside its pictures.
#pragma once

#include <filesystem>
#include <limits>
#include <memory>
#include <string>
#include <vector>

#include "base/output.h"
#include "base/progress.h"
#include "films/film_reader.h"
#include "frames/film_codec.h"

namespace optrel {

/// Ours: says "made by Optrel" in its comment.
const OutputFormat& film_output();

/// A film without a source: its size, rate and curve.
struct FilmShape {
    int width = 0, height = 0;
    int frames_per_second = 25;
    FilmCurve curve = FilmCurve::bt709;
};

class FilmWriter {
public:
    virtual ~FilmWriter() = default;
    /// A picture, shown at a time in the units of the source's clock (or the number of the picture).
    virtual void write(const Planes& light, long long time) = 0;
    /// Has to be called last.
    virtual void finish() = 0;
    /// When the last picture is shown, as it was written.
    virtual long long last_time() const = 0;
    /// What of the source is left out or comes otherwise, a sentence each.
    virtual std::vector<std::string> remarks() const = 0;
};

/// Where a film is written: `part` is a temporary file of what will be `wanted`, whose extension says the container
/// (.mkv, .mov, .mp4). `comment` is put before the film's own.
struct FilmTarget {
    std::filesystem::path part, wanted;
    FilmCodec codec = FilmCodec::ffv1;
    std::string comment;
    std::string account = {};  ///< what was done, as JSON; empty: none
    /// A piece of a film: pictures alone, shown later than `after`, in a file that is joined with others.
    bool piece = false;
    long long after = std::numeric_limits<long long>::min();
    bool even_rate = true;  ///< false: the film says no rate that holds for every picture
};
/// With colour tags, clock, turn, tags, chapters, sound, subtitles and attachments of `source`, which has to live as
/// long. Throws Error(input) where
/// codec or container cannot hold it, Error(file) where nothing can be written.
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, FilmReader& source);
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, const FilmShape& shape);

/// Pieces that were written one after the other become the film that `target` says, without being coded once more; the
/// rest as begin_film() does. Gives the remarks of the writer.
std::vector<std::string> join_film(const FilmTarget& target, FilmReader& source,
                                   const std::vector<std::filesystem::path>& pieces, const Progress& progress);

/// The account that a film carries; empty where it carries none, or is no film.
std::string film_account(const std::filesystem::path& film);

}  // namespace optrel

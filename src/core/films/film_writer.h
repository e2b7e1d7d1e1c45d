// SPDX-License-Identifier: GPL-3.0-or-later
// Writes a film from linear light, with the sound, subtitles and tags of another film.
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

/// Files of Optrel: their comment is "made by Optrel".
const OutputFormat& film_output();

/// The shape of a film without a source: size, rate and curve.
struct FilmShape {
    int width = 0, height = 0;
    int frames_per_second = 25;
    FilmCurve curve = FilmCurve::bt709;
};

class FilmWriter {
public:
    virtual ~FilmWriter() = default;
    /// Writes a picture; `time`: in units of the source's time base, or the number of the picture.
    virtual void write(const Planes& light, long long time) = 0;
    /// Must be called last.
    virtual void finish() = 0;
    /// Time of the last picture, as written.
    virtual long long last_time() const = 0;
    /// One sentence for each part of the source that is left out or changed.
    virtual std::vector<std::string> remarks() const = 0;
};

/// Destination of a film: `part` is the temporary file of `wanted`, whose extension selects the container (.mkv, .mov,
/// .mp4). `comment` precedes the film's own comment.
struct FilmTarget {
    std::filesystem::path part, wanted;
    FilmCodec codec = FilmCodec::ffv1;
    std::string comment;
    std::string account = {};  ///< account of the correction, as JSON; empty: none
    /// A piece of a film: only pictures, later than `after`, in a file that is joined with others.
    bool piece = false;
    long long after = std::numeric_limits<long long>::min();
    bool even_rate = true;  ///< false: the film declares no constant frame rate
};
/// Copies colour tags, time base, rotation, tags, chapters, sound, subtitles and attachments of `source`, which must
/// outlive the writer. Throws Error(input) when codec or container cannot represent them, Error(file) when nothing can
/// be written.
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, FilmReader& source);
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, const FilmShape& shape);

/// Joins consecutive pieces to the film that `target` describes, without encoding them again; otherwise as
/// begin_film(). Returns the remarks of the writer.
std::vector<std::string> join_film(const FilmTarget& target, FilmReader& source,
                                   const std::vector<std::filesystem::path>& pieces, const Progress& progress);

/// The account in a film; empty when it has none, or is not a film.
std::string film_account(const std::filesystem::path& film);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Writing a moving picture from linear light, with what another film has beside its pictures.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include "base/output.h"
#include "films/film_reader.h"

namespace optrel {

enum class FilmCodec {
    ffv1,        ///< FFV1 (RFC 9043): loses nothing but what the form of the pictures loses; for keeping
    h264,        ///< H.264 (ITU-T), 8 bits; for showing
    h265,        ///< H.265 (ITU-T), 10 bits; for showing
    vc3,         ///< VC-3 (SMPTE ST 2019), 10 bits, each picture by itself; for going on
    h264_intra,  ///< H.264, High 4:2:2 Intra, 10 bits, each picture by itself; for going on, written much faster
};
std::string to_string(FilmCodec codec);
/// Of "ffv1", "h264", "h265", "vc3" and "h264-intra". Throws Error(input) for any other.
FilmCodec film_codec_from(const std::string& text);

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
};

/// Where a film is written: `part` is a temporary file of what will be `wanted`, whose extension says the container
/// (.mkv, .mov, .mp4). `comment` is put before the film's own.
struct FilmTarget {
    std::filesystem::path part, wanted;
    FilmCodec codec = FilmCodec::ffv1;
    std::string comment;
};
/// With colour tags, clock, turn, tags and sound of `source`, which has to live as long. Throws Error(input) where
/// codec or container cannot hold it, Error(file) where nothing can be written.
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, FilmReader& source);
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, const FilmShape& shape);

}  // namespace optrel

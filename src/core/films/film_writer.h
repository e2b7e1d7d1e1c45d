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
    ffv1,  ///< FFV1 (RFC 9043): loses nothing but what the form of the pictures loses; for keeping
    h264,  ///< H.264 (ITU-T), 8 bits; for showing
    h265,  ///< H.265 (ITU-T), 10 bits; for showing
    vc3,   ///< VC-3 (SMPTE ST 2019), 10 bits, each picture by itself; for going on
};
std::string to_string(FilmCodec codec);
/// Of "ffv1", "h264", "h265" and "vc3". Throws Error(input) for any other.
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
    /// Into `part`, a temporary file of what will be `wanted`, whose extension says the container (.mkv, .mov, .mp4).
    /// Colour tags, clock, turn, tags and sound are those of `source`. `comment` is put before the film's own. Throws
    /// Error(input) where codec or container cannot hold it, Error(file) where nothing can be written.
    FilmWriter(const std::filesystem::path& part, const std::filesystem::path& wanted, FilmReader& source,
               FilmCodec codec, const std::string& comment);
    FilmWriter(const std::filesystem::path& part, const std::filesystem::path& wanted, const FilmShape& shape,
               FilmCodec codec, const std::string& comment);
    ~FilmWriter();

    /// A picture, shown at a time in the units of the source's clock (or the number of the picture).
    void write(const Planes& light, long long time);
    /// Has to be called last.
    void finish();

private:
    struct State;
    void open(const std::filesystem::path& part, FilmCodec codec, const std::string& comment);
    void describe_picture();
    void choose_form(FilmCodec codec);
    void prepare_pictures();
    void copy_others();
    void take_packets();
    void copy_packets();

    std::unique_ptr<State> state_;
};

}  // namespace optrel

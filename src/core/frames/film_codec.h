// SPDX-License-Identifier: GPL-3.0-or-later
// Codecs of moving pictures, by name.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace optrel {

enum class FilmCodec {
    ffv1,        ///< FFV1 (RFC 9043): lossless for the chosen pixel format; for archives
    h264,        ///< H.264 (ITU-T), 8 bits; for viewing
    h265,        ///< H.265 (ITU-T), 10 bits; for viewing
    vc3,         ///< VC-3 (SMPTE ST 2019), 10 bits, intra-only; for further editing
    h264_intra,  ///< H.264, High 4:2:2 Intra, 10 bits, intra-only; for further editing, much faster to write
};
/// "h264-intra", for the command line and files; in the order of the enumeration.
const std::vector<std::string>& film_codec_names();
std::string to_string(FilmCodec codec);
/// Throws Error(input) for any other name.
FilmCodec film_codec_from(const std::string& text);

/// Containers in which films are written: "mkv", "mov", "mp4".
const std::vector<std::string>& film_containers();
/// File name extensions of films that can be read: ".mkv", ".mov" and others.
const std::vector<std::string>& film_endings();
/// True when a file has the extension of a film.
bool named_as_film(const std::filesystem::path& path);

}  // namespace optrel

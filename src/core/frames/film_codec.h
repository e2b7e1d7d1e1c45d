// SPDX-License-Identifier: GPL-3.0-or-later
// How moving pictures are coded, by name.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace optrel {

enum class FilmCodec {
    ffv1,        ///< FFV1 (RFC 9043): loses nothing but what the form of the pictures loses; for keeping
    h264,        ///< H.264 (ITU-T), 8 bits; for showing
    h265,        ///< H.265 (ITU-T), 10 bits; for showing
    vc3,         ///< VC-3 (SMPTE ST 2019), 10 bits, each picture by itself; for going on
    h264_intra,  ///< H.264, High 4:2:2 Intra, 10 bits, each picture by itself; for going on, written much faster
};
/// "h264-intra": on the command line and in files; all of them, in the order of the enumeration.
const std::vector<std::string>& film_codec_names();
std::string to_string(FilmCodec codec);
/// Throws Error(input) for any other.
FilmCodec film_codec_from(const std::string& text);

/// "mkv", "mov", "mp4": what films are written in.
const std::vector<std::string>& film_containers();
/// ".mkv", ".mov" and the others that films to be read have.
const std::vector<std::string>& film_endings();
/// Whether a file's name says that it is a film.
bool named_as_film(const std::filesystem::path& path);

}  // namespace optrel

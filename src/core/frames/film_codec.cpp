// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/film_codec.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"

namespace optrel {

const std::vector<std::string>& film_codec_names() {
    static const std::vector<std::string> names{"ffv1", "h264", "h265", "vc3", "h264-intra"};
    return names;
}

std::string to_string(FilmCodec codec) { return film_codec_names()[static_cast<std::size_t>(codec)]; }

FilmCodec film_codec_from(const std::string& text) {
    const std::vector<std::string>& names = film_codec_names();
    const auto found = std::find(names.begin(), names.end(), lowered(trimmed(text)));
    if (found != names.end()) return static_cast<FilmCodec>(found - names.begin());
    throw input_error(fmt::format("'{}' is no coding of films that is written here{}; choose {}.", printable(text),
                                  nearest_clause(text, names), one_of(names)));
}

const std::vector<std::string>& film_containers() {
    static const std::vector<std::string> all{"mkv", "mov", "mp4"};
    return all;
}

const std::vector<std::string>& film_endings() {
    static const std::vector<std::string> endings{".mkv", ".mov", ".mp4", ".m4v", ".mxf", ".avi", ".mts", ".webm"};
    return endings;
}

bool named_as_film(const std::filesystem::path& path) {
    const std::vector<std::string>& endings = film_endings();
    return std::find(endings.begin(), endings.end(), lowered_extension(path)) != endings.end();
}

}  // namespace optrel

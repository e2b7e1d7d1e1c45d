// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/film_module.h"

#include <dlfcn.h>
#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// Beside the program, where it is built, or in its own folder beneath lib, where it is installed.
const FilmModule& film_module() {
    static const FilmModule* module = []() -> const FilmModule* {
        std::error_code failed;
        const fs::path here = fs::read_symlink("/proc/self/exe", failed).parent_path();
        for (const fs::path& folder : {here, here / "../lib/optrel"}) {
            const fs::path file = folder / film_module_file;
            if (!fs::exists(file, failed)) continue;
            void* library = dlopen(file.c_str(), RTLD_NOW | RTLD_LOCAL);
            const auto entry = library ? reinterpret_cast<FilmModuleEntry>(dlsym(library, film_module_entry)) : nullptr;
            if (entry) return entry();
        }
        return nullptr;
    }();
    if (!module)
        throw file_error(
            fmt::format("The module for films ({}) is not installed with this program, or lacks its libraries; install "
                        "Optrel anew.",
                        film_module_file));
    return *module;
}

struct CodecName {
    FilmCodec codec;
    const char* name;
};
constexpr CodecName codec_names[] = {{FilmCodec::ffv1, "ffv1"},
                                     {FilmCodec::h264, "h264"},
                                     {FilmCodec::h265, "h265"},
                                     {FilmCodec::vc3, "vc3"},
                                     {FilmCodec::h264_intra, "h264-intra"}};

}  // namespace

std::string to_string(FilmCodec codec) { return codec_names[static_cast<int>(codec)].name; }

FilmCodec film_codec_from(const std::string& text) {
    std::vector<std::string> names;
    for (const CodecName& row : codec_names) {
        if (lowered(trimmed(text)) == row.name) return row.codec;
        names.emplace_back(row.name);
    }
    throw input_error(fmt::format("'{}' is no coding of films that is written here{}; choose {}.", printable(text),
                                  nearest_clause(text, names), fmt::join(names, ", ")));
}

std::unique_ptr<FilmReader> open_film(const fs::path& path) { return film_module().open(path); }
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, FilmReader& source) {
    return film_module().begin(target, source);
}
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, const FilmShape& shape) {
    return film_module().begin(target, shape);
}

const OutputFormat& film_output() {
    static const OutputFormat format{"a film", {".mkv", ".mov", ".mp4"}, [](const fs::path& path, const std::string&) {
                                         return film_module().comment(path).find(film_mark) != std::string::npos;
                                     }};
    return format;
}

}  // namespace optrel

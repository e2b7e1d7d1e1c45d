// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/film_module.h"

#include <dlfcn.h>
#include <fmt/format.h>

#include "base/error.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// Located beside the program in a build folder, or in its own folder under lib when installed.
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

}  // namespace

std::unique_ptr<FilmReader> open_film(const fs::path& path) { return film_module().open(path); }
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, FilmReader& source) {
    return film_module().begin(target, source);
}
std::unique_ptr<FilmWriter> begin_film(const FilmTarget& target, const FilmShape& shape) {
    return film_module().begin(target, shape);
}

const OutputFormat& film_output() {
    static const OutputFormat format{"a film", {".mkv", ".mov", ".mp4"}, [](const fs::path& path, const std::string&) {
                                         return film_module().tag(path, "comment").find(film_mark) != std::string::npos;
                                     }};
    return format;
}

std::vector<std::string> join_film(const FilmTarget& target, FilmReader& source, const std::vector<fs::path>& pieces,
                                   const Progress& progress) {
    return film_module().join(target, source, pieces, progress);
}

std::string film_account(const fs::path& film) { return film_module().tag(film, film_account_tag); }

}  // namespace optrel

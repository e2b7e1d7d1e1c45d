// SPDX-License-Identifier: GPL-3.0-or-later
// Plugin that reads and writes films. It is loaded when the first film is opened, because the video libraries depend on
// about a hundred others, which would slow down every start of the program.
#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include "films/film_writer.h"

namespace optrel {

class FilmModule {
public:
    virtual ~FilmModule() = default;
    virtual std::unique_ptr<FilmReader> open(const std::filesystem::path& film) const = 0;
    virtual std::unique_ptr<FilmWriter> begin(const FilmTarget& target, FilmReader& source) const = 0;
    virtual std::unique_ptr<FilmWriter> begin(const FilmTarget& target, const FilmShape& shape) const = 0;
    virtual std::vector<std::string> join(const FilmTarget& target, FilmReader& source,
                                          const std::vector<std::filesystem::path>& pieces,
                                          const Progress& progress) const = 0;
    /// A metadata tag of a film; empty when the film does not have it, or the file is no film.
    virtual std::string tag(const std::filesystem::path& film, const char* key) const = 0;
};

/// File name of the plugin, and of its entry function.
inline constexpr const char* film_module_file = "optrel-films.so";
inline constexpr const char* film_module_entry = "optrel_film_module";
using FilmModuleEntry = const FilmModule* (*)();

/// Comment in films that Optrel wrote.
inline constexpr const char* film_mark = "made by Optrel";
/// Tag that holds the account.
inline constexpr const char* film_account_tag = "OPTREL_ACCOUNT";

}  // namespace optrel

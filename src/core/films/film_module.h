// SPDX-License-Identifier: GPL-3.0-or-later
// The module that reads and writes films. The libraries for moving pictures bring a hundred others along, for which
// every start of the program would pay; so they are loaded when the first film is asked for.
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
    /// A tag of the whole film; empty where it has none, or is none.
    virtual std::string tag(const std::filesystem::path& film, const char* key) const = 0;
};

/// The name of the module's file, and of the function in it that gives the module.
inline constexpr const char* film_module_file = "optrel-films.so";
inline constexpr const char* film_module_entry = "optrel_film_module";
using FilmModuleEntry = const FilmModule* (*)();

/// What a film of Optrel says in its comment.
inline constexpr const char* film_mark = "made by Optrel";
/// Under which it carries its account.
inline constexpr const char* film_account_tag = "OPTREL_ACCOUNT";

}  // namespace optrel

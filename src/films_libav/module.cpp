// SPDX-License-Identifier: GPL-3.0-or-later
// The entry point of the plugin.
#include "films/film_module.h"
#include "libav_writer.h"

namespace optrel {
namespace {

class LibavModule : public FilmModule {
public:
    std::unique_ptr<FilmReader> open(const std::filesystem::path& film) const override {
        return std::make_unique<LibavReader>(film);
    }
    std::unique_ptr<FilmWriter> begin(const FilmTarget& target, FilmReader& source) const override {
        return std::make_unique<LibavWriter>(target, dynamic_cast<LibavReader&>(source));
    }
    std::unique_ptr<FilmWriter> begin(const FilmTarget& target, const FilmShape& shape) const override {
        return std::make_unique<LibavWriter>(target, shape);
    }
    std::vector<std::string> join(const FilmTarget& target, FilmReader& source,
                                  const std::vector<std::filesystem::path>& pieces,
                                  const Progress& progress) const override {
        return LibavWriter(target, dynamic_cast<LibavReader&>(source), pieces, progress).remarks();
    }
    std::string tag(const std::filesystem::path& film, const char* key) const override {
        const av::Input file = av::opened_header(film);
        if (!file) return {};
        const AVDictionaryEntry* said = av_dict_get(file->metadata, key, nullptr, 0);
        return said ? said->value : "";
    }
};

}  // namespace
}  // namespace optrel

extern "C" const optrel::FilmModule* optrel_film_module() {
    static const optrel::LibavModule module;
    return &module;
}

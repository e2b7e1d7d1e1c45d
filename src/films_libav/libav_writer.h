// SPDX-License-Identifier: GPL-3.0-or-later
// Films written by FFmpeg's libraries.
#pragma once

#include "films/film_writer.h"
#include "libav_reader.h"

namespace optrel {

class LibavWriter : public FilmWriter {
public:
    LibavWriter(const FilmTarget& target, LibavReader& source);
    LibavWriter(const FilmTarget& target, const FilmShape& shape);
    /// Writes the whole film at once from pieces.
    LibavWriter(const FilmTarget& target, LibavReader& source, const std::vector<std::filesystem::path>& pieces,
                const Progress& progress);
    ~LibavWriter() override;

    void write(const Planes& light, long long time) override;
    void finish() override;
    long long last_time() const override;
    std::vector<std::string> remarks() const override;

private:
    struct State;
    void open_file(const FilmTarget& target);
    void begin_file(const FilmTarget& target);
    void open(const FilmTarget& target);
    void copy_piece(const std::filesystem::path& piece, const Progress& progress);
    void pass_others(bool to_the_end);
    void choose_turn();
    AVRational pixel_shape() const;
    AVRational declared_rate(const FilmTarget& target) const;
    void describe_picture(const FilmTarget& target);
    void choose_form(const FilmTarget& target);
    void require_range(const FilmTarget& target) const;
    void prepare_pictures();
    void convert(const Planes& as_recorded);
    void copy_others();
    void take_packets();
    void copy_packets();
    void close();

    std::unique_ptr<State> state_;
};

}  // namespace optrel

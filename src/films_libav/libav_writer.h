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
    ~LibavWriter() override;

    void write(const Planes& light, long long time) override;
    void finish() override;

private:
    struct State;
    void open(const FilmTarget& target);
    void describe_picture();
    void choose_form(FilmCodec codec);
    void prepare_pictures();
    void copy_others();
    void take_packets();
    void copy_packets();

    std::unique_ptr<State> state_;
};

}  // namespace optrel

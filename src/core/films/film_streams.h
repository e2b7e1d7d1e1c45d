// SPDX-License-Identifier: GPL-3.0-or-later
// What reader and writer of films share: the open file, and what of it goes along.
#pragma once

#include <deque>

#include "films/film_reader.h"
#include "films/libav.h"

namespace optrel {

struct FilmReader::Streams {
    av::Input file;
    av::Codec decoder;
    av::Scaler scaler;
    av::Frame frame, wide;
    av::Packet packet;
    int video = -1;
    bool ended = false, flushed = false;
    std::deque<av::Packet> others;  ///< of sound and subtitles, read on the way and not yet taken

    AVStream* picture() const { return file->streams[video]; }
};

}  // namespace optrel

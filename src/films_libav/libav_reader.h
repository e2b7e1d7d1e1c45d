// SPDX-License-Identifier: GPL-3.0-or-later
// Reads films by FFmpeg's libraries, and provides the parts of the open file that a writer copies.
#pragma once

#include <deque>

#include "films/film_reader.h"
#include "libav.h"

namespace optrel {

class LibavReader : public FilmReader {
public:
    explicit LibavReader(const std::filesystem::path& path);

    const FilmFacts& facts() const override { return facts_; }
    bool next(Planes& light) override;
    void multiply_by(Planes gain) override;
    long long time() const override;
    double seconds() const override;
    int damaged() const override { return damaged_; }
    void seek(double seconds) override;
    bool even_rate(const std::function<void()>& check) const override;

    struct Streams {
        av::Input file;
        av::Codec decoder;
        av::Scaler scaler;
        av::Frame frame, wide;
        av::Packet packet;
        int video = -1;
        bool ended = false, flushed = false;
        std::deque<av::Packet> others;  ///< packets of sound and subtitles that were read and not taken yet

        AVStream* picture() const { return file->streams[video]; }
    };
    Streams& streams() { return streams_; }

private:
    void read_facts();
    void prepare_conversion();
    bool decode();

    std::filesystem::path path_;
    FilmFacts facts_;
    Planes gain_;
    std::unique_ptr<FilmLight> light_;
    std::unique_ptr<YuvLight> yuv_;                 ///< null: the scaler is used
    AVPixelFormat form_ = AV_PIX_FMT_NONE;          ///< format for which both were created
    AVColorRange range_ = AVCOL_RANGE_UNSPECIFIED;  ///< likewise the range, of the first picture
    Streams streams_;
    int damaged_ = 0;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "film_samples.h"

#include <catch2/catch.hpp>

#include "support/sample_profile.h"

extern "C" {
#include <libavutil/display.h>
}

namespace optrel::test {

Profile film_lens() {
    Profile p = sample_profile();
    p.nodes[0].model = LensModel(LensModelKind::radial_tangential, {-0.35, 0.1, 0, 0, 0, 0, 0, 0, 0, 0});
    p.nodes[0].focal_mm = p.nodes[0].setting.focal_mm = 20;
    p.nodes[0].largest_radius_mm = 16;
    return p;
}

FrameMap film_map(const cv::Size& size) {
    const Profile p = film_lens();
    return {p.nodes[0], p.geometry, {size.width, size.height, 1000 * film_area_mm / size.width}};
}

/// Ruled as the lens shows it; the lines move down by a pixel from picture to picture.
Planes ruled(const FrameMap& lens, const cv::Size& size, int number) {
    Planes out(size);
    for (int row = 0; row < size.height; ++row)
        for (int i = 0; i < size.width; ++i) {
            double mean = 0;
            for (int k = 0; k < 4; ++k) {
                const auto at = lens.ideal(Vec2(i + (k % 2 + 0.5) / 2, row + (k / 2 + 0.5) / 2));
                const double off = at ? std::abs(std::remainder(at->y() - number - 120, 60)) : 30;
                mean += std::min(1.0, off / 4) / 4;
            }
            for (cv::Mat1f& c : out.channel) c(row, i) = static_cast<float>(0.1 + 0.6 * mean);
        }
    return out;
}

/// The height of the dark line nearest to a row, in a column.
double line_at(const Planes& p, int row, int column) {
    double sum = 0, weight = 0;
    for (int r = row - 14; r < row + 14; ++r) {
        const double w = std::max(0.0, 0.65 - p.channel[1](r, column));
        sum += w * (r + 0.5);
        weight += w;
    }
    return weight > 0 ? sum / weight : HUGE_VAL;
}

void write_film(const fs::path& path, const cv::Size& size, int pictures, FilmCodec codec, FilmCurve curve,
                const std::vector<long long>& times) {
    const FrameMap lens = film_map(size);
    const auto film = begin_film({path, path, codec, "a test"}, FilmShape{size.width, size.height, 25, curve});
    for (int i = 0; i < pictures; ++i)
        film->write(ruled(lens, size, i), times.empty() ? i : times[static_cast<std::size_t>(i)]);
    film->finish();
}

/// The same film with a sound of its own, turned by 90 degrees, with a time code, or marked as interlaced.
void add_to_film(const fs::path& from, const fs::path& to, bool sound, bool turned, bool interlaced) {
    AVFormatContext* opened = nullptr;
    REQUIRE(avformat_open_input(&opened, from.c_str(), nullptr, nullptr) >= 0);
    const av::Input in(opened);
    avformat_find_stream_info(opened, nullptr);
    AVFormatContext* out = nullptr;
    avformat_alloc_output_context2(&out, nullptr, nullptr, to.c_str());
    AVStream* picture = avformat_new_stream(out, nullptr);
    avcodec_parameters_copy(picture->codecpar, in->streams[0]->codecpar);
    picture->codecpar->codec_tag = 0;
    picture->time_base = in->streams[0]->time_base;
    picture->avg_frame_rate = {25, 1};
    av_dict_set(&out->metadata, "title", "A day at the bench", 0);
    av_dict_set(&picture->metadata, "timecode", "10:00:00:00", 0);
    if (interlaced) picture->codecpar->field_order = AV_FIELD_TT;
    if (turned) {
        auto* matrix = av_stream_new_side_data(picture, AV_PKT_DATA_DISPLAYMATRIX, 36);
        av_display_rotation_set(reinterpret_cast<std::int32_t*>(matrix), 90);
    }
    AVStream* noise = nullptr;
    if (sound) {
        noise = avformat_new_stream(out, nullptr);
        noise->codecpar->codec_type = AVMEDIA_TYPE_AUDIO;
        noise->codecpar->codec_id = AV_CODEC_ID_PCM_S16LE;
        noise->codecpar->format = AV_SAMPLE_FMT_S16;
        noise->codecpar->sample_rate = 8000;
        noise->codecpar->ch_layout = AV_CHANNEL_LAYOUT_MONO;
        noise->codecpar->bits_per_coded_sample = 16;
        noise->codecpar->block_align = 2;
        noise->time_base = {1, 8000};
    }
    avio_open(&out->pb, to.c_str(), AVIO_FLAG_WRITE);
    REQUIRE(avformat_write_header(out, nullptr) >= 0);
    const av::Packet packet(av_packet_alloc());
    while (av_read_frame(in.get(), packet.get()) >= 0) {
        av_packet_rescale_ts(packet.get(), in->streams[0]->time_base, picture->time_base);
        packet->stream_index = 0;
        av_interleaved_write_frame(out, packet.get());
    }
    for (int i = 0; sound && i < 10; ++i) {
        av_new_packet(packet.get(), 640);
        for (int k = 0; k < 640; ++k) packet->data[k] = static_cast<std::uint8_t>(i * 7 + k);
        packet->pts = packet->dts = av_rescale_q(320 * i, {1, 8000}, noise->time_base);
        packet->duration = av_rescale_q(320, {1, 8000}, noise->time_base);
        packet->stream_index = 1;
        av_interleaved_write_frame(out, packet.get());
    }
    av_write_trailer(out);
    avio_closep(&out->pb);
    avformat_free_context(out);
}

FilmDone corrected(const fs::path& film, const fs::path& out, FilmCodec codec) {
    const Profile p = film_lens();
    Progress progress;
    return correct_film({film, {20, film_area_mm}, neutral_start(), AppliedProfile{p.nodes[0], p.geometry}}, out, codec,
                        Existing::keep, progress);
}

std::vector<Planes> pictures_of(const fs::path& film, std::vector<long long>* times) {
    const auto reader = open_film(film);
    std::vector<Planes> out;
    Planes light;
    while (reader->next(light)) {
        Planes copy(light.size());
        for (int c = 0; c < 3; ++c) light.channel[c].copyTo(copy.channel[c]);
        out.push_back(copy);
        if (times) times->push_back(reader->time());
    }
    return out;
}

std::string sound_of(const fs::path& film) {
    AVFormatContext* opened = nullptr;
    REQUIRE(avformat_open_input(&opened, film.c_str(), nullptr, nullptr) >= 0);
    const av::Input in(opened);
    avformat_find_stream_info(opened, nullptr);
    std::string out;
    const av::Packet packet(av_packet_alloc());
    while (av_read_frame(in.get(), packet.get()) >= 0) {
        if (in->streams[packet->stream_index]->codecpar->codec_type == AVMEDIA_TYPE_AUDIO)
            out.append(reinterpret_cast<const char*>(packet->data), static_cast<std::size_t>(packet->size));
        av_packet_unref(packet.get());
    }
    return out;
}

/// Of the whole film, or of one of its streams.
std::string tag_of(const fs::path& film, const char* key, int stream) {
    AVFormatContext* opened = nullptr;
    REQUIRE(avformat_open_input(&opened, film.c_str(), nullptr, nullptr) >= 0);
    const av::Input in(opened);
    avformat_find_stream_info(opened, nullptr);
    const AVDictionaryEntry* e =
        av_dict_get(stream < 0 ? in->metadata : in->streams[stream]->metadata, key, nullptr, 0);
    return e ? e->value : "";
}

}  // namespace optrel::test

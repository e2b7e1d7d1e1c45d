// SPDX-License-Identifier: GPL-3.0-or-later
// What a film is beside its pictures: turn, range, rate, attachments, chapters.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <cstring>

#include "base/files.h"
#include "film_samples.h"
#include "films/film_pieces.h"

extern "C" {
#include <libavutil/display.h>
}

using namespace optrel;
using namespace optrel::test;

namespace {

/// A film that a test makes by hand from the coded pictures of another.
class HandMade {
public:
    HandMade(const fs::path& from, const fs::path& to) : to_(to) {
        in_ = av::opened(from);
        REQUIRE(in_);
        avformat_alloc_output_context2(&out_, nullptr, nullptr, to.c_str());
        picture = avformat_new_stream(out_, nullptr);
        avcodec_parameters_copy(picture->codecpar, in_->streams[0]->codecpar);
        picture->codecpar->codec_tag = 0;
        picture->time_base = in_->streams[0]->time_base;
        picture->avg_frame_rate = {25, 1};
    }

    void turn_by(const std::array<std::int32_t, 9>& matrix) const {
        std::memcpy(av_stream_new_side_data(picture, AV_PKT_DATA_DISPLAYMATRIX, 36), matrix.data(), 36);
    }
    AVStream* attach(const std::string& bytes, const char* name, const char* type) const {
        AVStream* s = avformat_new_stream(out_, nullptr);
        s->codecpar->codec_type = AVMEDIA_TYPE_ATTACHMENT;
        s->codecpar->extradata = static_cast<std::uint8_t*>(av_mallocz(bytes.size() + AV_INPUT_BUFFER_PADDING_SIZE));
        s->codecpar->extradata_size = static_cast<int>(bytes.size());
        std::memcpy(s->codecpar->extradata, bytes.data(), bytes.size());
        av_dict_set(&s->metadata, "filename", name, 0);
        av_dict_set(&s->metadata, "mimetype", type, 0);
        return s;
    }
    void add_chapter(const char* title, std::int64_t start_ms, std::int64_t end_ms) const {
        auto* c = static_cast<AVChapter*>(av_mallocz(sizeof(AVChapter)));
        c->id = static_cast<std::int64_t>(out_->nb_chapters) + 1;
        c->time_base = {1, 1000};
        c->start = start_ms;
        c->end = end_ms;
        av_dict_set(&c->metadata, "title", title, 0);
        int count = static_cast<int>(out_->nb_chapters);
        av_dynarray_add(&out_->chapters, &count, c);
        out_->nb_chapters = static_cast<unsigned>(count);
    }
    void write() {
        avio_open(&out_->pb, to_.c_str(), AVIO_FLAG_WRITE);
        REQUIRE(avformat_write_header(out_, nullptr) >= 0);
        const av::Packet packet(av_packet_alloc());
        while (av_read_frame(in_.get(), packet.get()) >= 0) {
            av_packet_rescale_ts(packet.get(), in_->streams[0]->time_base, picture->time_base);
            packet->stream_index = 0;
            av_interleaved_write_frame(out_, packet.get());
        }
        av_write_trailer(out_);
        avio_closep(&out_->pb);
        avformat_free_context(out_);
    }

    AVStream* picture = nullptr;

private:
    fs::path to_;
    av::Input in_;
    AVFormatContext* out_ = nullptr;
};

constexpr std::int32_t one = 1 << 16;
std::array<std::int32_t, 9> matrix(int a, int b, int c, int d) {
    return {a * one, b * one, 0, c * one, d * one, 0, 0, 0, 1 << 30};
}

FilmDone unchanged(const fs::path& film, const fs::path& out, FilmCodec codec) {
    Progress progress;
    return correct_film({film, {20, film_area_mm}, neutral_start(), std::nullopt}, out, codec, Existing::keep,
                        progress);
}

/// The rate that the container itself says, which is none where no header holds one.
double declared_rate(const fs::path& film) {
    AVFormatContext* opened = nullptr;
    REQUIRE(avformat_open_input(&opened, film.c_str(), nullptr, nullptr) >= 0);
    const av::Input in(opened);
    const AVRational rate = in->streams[0]->avg_frame_rate;
    return rate.num > 0 && rate.den > 0 ? av_q2d(rate) : 0;
}

/// Three pictures whose left top corner alone is bright, coded one by one.
void code_corner(AVFormatContext* out, AVStream* stream, AVPixelFormat form, AVColorRange range, int from) {
    av::Codec coder(avcodec_alloc_context3(avcodec_find_encoder(AV_CODEC_ID_MJPEG)));
    coder->width = 64;
    coder->height = 48;
    coder->pix_fmt = form;
    coder->color_range = range;
    coder->time_base = {1, 25};
    coder->framerate = {25, 1};
    REQUIRE(avcodec_open2(coder.get(), coder->codec, nullptr) >= 0);
    if (from == 0) {
        avcodec_parameters_from_context(stream->codecpar, coder.get());
        avio_open(&out->pb, out->url, AVIO_FLAG_WRITE);
        REQUIRE(avformat_write_header(out, nullptr) >= 0);
    }
    const av::Frame frame(av_frame_alloc());
    frame->format = form;
    frame->width = 64;
    frame->height = 48;
    frame->color_range = range;
    av_frame_get_buffer(frame.get(), 0);
    const AVPixFmtDescriptor& planes = *av_pix_fmt_desc_get(form);
    const av::Packet packet(av_packet_alloc());
    for (int n = from; n < from + 3; ++n) {
        av_frame_make_writable(frame.get());
        for (int p = 0; p < 3; ++p)
            for (int row = 0; row < (p ? 48 >> planes.log2_chroma_h : 48); ++row)
                std::memset(frame->data[p] + row * frame->linesize[p], p ? 128 : 20,
                            static_cast<std::size_t>(p ? 64 >> planes.log2_chroma_w : 64));
        for (int row = 0; row < 16; ++row) std::memset(frame->data[0] + row * frame->linesize[0], 250, 16);
        frame->pts = n;
        REQUIRE(avcodec_send_frame(coder.get(), frame.get()) >= 0);
        while (avcodec_receive_packet(coder.get(), packet.get()) >= 0) {
            av_packet_rescale_ts(packet.get(), coder->time_base, stream->time_base);
            av_interleaved_write_frame(out, packet.get());
        }
    }
}

/// A film of such pictures, of one form after the other.
void write_corner(const fs::path& path, const std::vector<AVPixelFormat>& forms, AVColorRange range) {
    AVFormatContext* out = nullptr;
    avformat_alloc_output_context2(&out, nullptr, nullptr, path.c_str());
    AVStream* stream = avformat_new_stream(out, nullptr);
    stream->time_base = {1, 25};
    stream->avg_frame_rate = {25, 1};
    for (std::size_t i = 0; i < forms.size(); ++i) code_corner(out, stream, forms[i], range, static_cast<int>(3 * i));
    av_write_trailer(out);
    avio_closep(&out->pb);
    avformat_free_context(out);
}

}  // namespace

TEST_CASE("a turned film is shown alike from every container", "[films]") {
    const TemporaryFolder folder;
    write_corner(folder / "plain.mov", {AV_PIX_FMT_YUVJ420P}, AVCOL_RANGE_JPEG);
    struct Way {
        std::array<std::int32_t, 9> turn;
        bool exchanged, right, bottom;  ///< where the bright corner is shown
    };
    int number = 0;
    for (const Way& way : {Way{matrix(0, 1, -1, 0), true, true, false},
                           {matrix(-1, 0, 0, -1), false, true, true},
                           {matrix(0, -1, 1, 0), true, false, true},
                           {matrix(-1, 0, 0, 1), false, true, false}}) {
        const fs::path film = folder / fmt::format("a{}.mov", ++number), mkv = folder / fmt::format("b{}.mkv", number),
                       mov = folder / fmt::format("c{}.mov", number);
        INFO(number);
        HandMade made(folder / "plain.mov", film);
        made.turn_by(way.turn);
        made.write();
        const FilmDone done = unchanged(film, mkv, FilmCodec::h264);
        const FilmFacts facts = open_film(mkv)->facts();
        CHECK(facts.turned_deg == 0);
        CHECK((facts.width == 48) == way.exchanged);
        CHECK(facts.width * facts.height == 64 * 48);
        CHECK(std::any_of(done.remarks.begin(), done.remarks.end(), [](const std::string& s) {
            return s.find("stored as they are shown") != std::string::npos;
        }));
        const cv::Mat1f green = pictures_of(mkv)[1].channel[1];
        CHECK(green(way.bottom ? green.rows - 4 : 4, way.right ? green.cols - 4 : 4) > 0.8);
        CHECK(green(way.bottom ? 4 : green.rows - 4, way.right ? green.cols - 4 : 4) < 0.1);
        CHECK(green(way.bottom ? green.rows - 4 : 4, way.right ? 4 : green.cols - 4) < 0.1);
        // The other containers say it, and keep the pictures as they were recorded.
        unchanged(film, mov, FilmCodec::h264);
        CHECK(open_film(mov)->facts().width == 64);
        CHECK(open_film(mov)->facts().turned_deg == open_film(film)->facts().turned_deg);
        CHECK(pictures_of(mov)[1].channel[1](4, 4) > 0.8);
    }
    // By an angle that no exchange of rows and columns makes.
    HandMade made(folder / "plain.mov", folder / "oblique.mov");
    std::array<std::int32_t, 9> oblique{};
    av_display_rotation_set(oblique.data(), 30);
    made.turn_by(oblique);
    made.write();
    const std::string refused =
        sentence_of([&] { unchanged(folder / "oblique.mov", folder / "o.mkv", FilmCodec::h264); });
    CHECK(is_one_sentence(refused));
    CHECK(refused.find(".mov") != std::string::npos);
    unchanged(folder / "oblique.mov", folder / "o.mov", FilmCodec::h264);
}

TEST_CASE("a long turned film is joined from pieces as it is written in one go", "[films]") {
    const TemporaryFolder folder;
    const int count = static_cast<int>(film_piece) + 20;
    write_film(folder / "plain.mkv", {64, 48}, count);
    add_to_film(folder / "plain.mkv", folder / "a.mov", true, true, false);
    FilmOrder order{folder / "a.mov", {20, film_area_mm}, neutral_start(), std::nullopt};
    Progress progress;
    correct_film(order, folder / "whole.mkv", FilmCodec::ffv1, Existing::keep, progress);
    order.same = "this order";
    const FilmDone done = correct_film(order, folder / "joined.mkv", FilmCodec::ffv1, Existing::keep, progress);
    CHECK(done.remarks.size() == 1);
    const auto a = pictures_of(folder / "whole.mkv"), b = pictures_of(folder / "joined.mkv");
    REQUIRE(a.size() == static_cast<std::size_t>(count));
    REQUIRE(b.size() == a.size());
    CHECK(b[510].size() == cv::Size(48, 64));
    CHECK(cv::norm(a[510].channel[1], b[510].channel[1], cv::NORM_INF) == 0);
}

TEST_CASE("full-range pictures of 8 bits stay what they are, or are refused", "[films]") {
    const TemporaryFolder folder;
    write_corner(folder / "a.mov", {AV_PIX_FMT_YUVJ420P}, AVCOL_RANGE_JPEG);
    REQUIRE(open_film(folder / "a.mov")->facts().full_range);
    const auto before = pictures_of(folder / "a.mov");
    for (const auto& [codec, name] : {std::pair(FilmCodec::ffv1, "b.mkv"),
                                      {FilmCodec::h264, "c.mkv"},
                                      {FilmCodec::h264, "c.mov"},
                                      {FilmCodec::h264, "c.mp4"},
                                      {FilmCodec::h265, "d.mkv"},
                                      {FilmCodec::h265, "d.mp4"}}) {
        INFO(name);
        unchanged(folder / "a.mov", folder / name, codec);
        const FilmFacts facts = open_film(folder / name)->facts();
        CHECK(facts.full_range);
        CHECK((facts.format == "yuv420p" || facts.format == "yuvj420p"));
        const auto after = pictures_of(folder / name);
        REQUIRE(after.size() == 3);
        CHECK(cv::norm(after[1].channel[1](cv::Rect(24, 24, 32, 20)), before[1].channel[1](cv::Rect(24, 24, 32, 20)),
                       cv::NORM_INF) < 0.004);
        CHECK(after[1].channel[1](4, 4) == Approx(before[1].channel[1](4, 4)).margin(0.02));
    }
    const std::string refused = sentence_of([&] { unchanged(folder / "a.mov", folder / "b.mov", FilmCodec::ffv1); });
    CHECK(is_one_sentence(refused));
    CHECK(refused.find("full range") != std::string::npos);
}

TEST_CASE("a film whose rate varies says no rate that holds for every picture", "[films]") {
    const TemporaryFolder folder;
    write_film(folder / "even.mkv", {160, 90}, 8);
    write_film(folder / "varies.mkv", {160, 90}, 8, FilmCodec::ffv1, FilmCurve::bt709, {0, 1, 3, 4, 8, 9, 10, 15});
    CHECK(open_film(folder / "even.mkv")->even_rate([] {}));
    CHECK_FALSE(open_film(folder / "varies.mkv")->even_rate([] {}));
    for (const FilmCodec codec : {FilmCodec::ffv1, FilmCodec::h264, FilmCodec::h265}) {
        const std::string name = to_string(codec);
        unchanged(folder / "even.mkv", folder / ("even-" + name + ".mkv"), codec);
        unchanged(folder / "varies.mkv", folder / ("varies-" + name + ".mkv"), codec);
        INFO(name);
        CHECK(declared_rate(folder / ("even-" + name + ".mkv")) == Approx(25).epsilon(1e-4));
        CHECK(declared_rate(folder / ("varies-" + name + ".mkv")) == 0);
        std::vector<long long> before, after;
        pictures_of(folder / "varies.mkv", &before);
        pictures_of(folder / ("varies-" + name + ".mkv"), &after);
        CHECK(before == after);
    }
    CHECK_THROWS_AS(open_film(folder / "even.mkv")->even_rate([] { throw Cancelled(); }), Cancelled);
}

TEST_CASE("attachments and chapters of a film go along, or are named as left out", "[films]") {
    const TemporaryFolder folder;
    write_film(folder / "plain.mkv", {160, 90}, 10);
    HandMade made(folder / "plain.mkv", folder / "a.mkv");
    const std::string bytes("notes\0of a day", 14);
    made.attach(bytes, "day.txt", "text/plain");
    made.add_chapter("Fronds", 0, 200);
    made.add_chapter("Ledges", 200, 400);
    made.write();
    CHECK(unchanged(folder / "a.mkv", folder / "b.mkv", FilmCodec::ffv1).remarks.empty());
    const av::Input kept = av::opened(folder / "b.mkv");
    REQUIRE(kept->nb_streams == 2);
    CHECK(kept->streams[1]->codecpar->codec_type == AVMEDIA_TYPE_ATTACHMENT);
    CHECK(std::string(reinterpret_cast<const char*>(kept->streams[1]->codecpar->extradata),
                      static_cast<std::size_t>(kept->streams[1]->codecpar->extradata_size)) == bytes);
    CHECK(tag_of(folder / "b.mkv", "filename", 1) == "day.txt");
    CHECK(tag_of(folder / "b.mkv", "mimetype", 1) == "text/plain");
    REQUIRE(kept->nb_chapters == 2);
    CHECK(std::string(av_dict_get(kept->chapters[1]->metadata, "title", nullptr, 0)->value) == "Ledges");
    CHECK(av_rescale_q(kept->chapters[1]->start, kept->chapters[1]->time_base, {1, 1000}) == 200);

    const FilmDone done = unchanged(folder / "a.mkv", folder / "c.mp4", FilmCodec::h264);
    REQUIRE(done.remarks.size() == 1);
    CHECK(is_one_sentence(done.remarks[0]));
    CHECK(done.remarks[0].find("day.txt") != std::string::npos);
    CHECK(av::opened(folder / "c.mp4")->nb_chapters == 2);
    // From there the track that holds the chapters' titles is no data that is left out.
    const FilmDone again = unchanged(folder / "c.mp4", folder / "d.mov", FilmCodec::h264);
    CHECK(std::none_of(again.remarks.begin(), again.remarks.end(),
                       [](const std::string& s) { return s.find("Left out") != std::string::npos; }));
    CHECK(av::opened(folder / "d.mov")->nb_chapters == 2);
}

TEST_CASE("a film that changes its form on the way is read as far as it keeps to the first", "[films]") {
    const TemporaryFolder folder;
    for (const auto& [first, then] :
         {std::pair(AV_PIX_FMT_YUVJ420P, AV_PIX_FMT_YUVJ444P), {AV_PIX_FMT_YUVJ444P, AV_PIX_FMT_YUVJ420P}}) {
        const fs::path film = folder / fmt::format("{}.mkv", static_cast<int>(first));
        write_corner(film, {first, then, first}, AVCOL_RANGE_JPEG);
        const auto reader = open_film(film);
        Planes light;
        int pictures = 0;
        while (reader->next(light)) ++pictures;
        CHECK(pictures == 6);
        CHECK(reader->damaged() == 3);
    }
}

TEST_CASE("a list of files is no film, whatever it names", "[films]") {
    const TemporaryFolder folder;
    write_film(folder / "real.mkv", {64, 48}, 3);
    const std::string real = (folder / "real.mkv").string();
    write_bytes(folder / "list.m3u8", "#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n" + real + "\n#EXT-X-ENDLIST\n");
    write_bytes(folder / "list.ffconcat", "ffconcat version 1.0\nfile real.mkv\n");
    for (const char* name : {"list.m3u8", "list.ffconcat"}) {
        INFO(name);
        CHECK(error_of([&] { open_film(folder / name); }) == "input");
        CHECK(film_account(folder / name).empty());
    }
}

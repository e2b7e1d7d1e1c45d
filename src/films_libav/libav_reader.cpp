// SPDX-License-Identifier: GPL-3.0-or-later
#include "libav_reader.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"

extern "C" {
#include <libavutil/display.h>
}

namespace optrel {
namespace {

FilmCurve curve_of(AVColorTransferCharacteristic tag, bool& assumed) {
    assumed = false;
    switch (tag) {
        case AVCOL_TRC_BT709:
        case AVCOL_TRC_SMPTE170M:
        case AVCOL_TRC_BT2020_10:
        case AVCOL_TRC_BT2020_12: return FilmCurve::bt709;
        case AVCOL_TRC_IEC61966_2_1: return FilmCurve::srgb;
        case AVCOL_TRC_GAMMA22: return FilmCurve::gamma22;
        case AVCOL_TRC_GAMMA28: return FilmCurve::gamma28;
        case AVCOL_TRC_ARIB_STD_B67: return FilmCurve::hlg;
        case AVCOL_TRC_SMPTE2084: return FilmCurve::pq;
        case AVCOL_TRC_LINEAR: return FilmCurve::linear;
        default: assumed = true; return FilmCurve::bt709;
    }
}

int turn_of(const AVStream& stream) {
    const std::uint8_t* matrix = av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, nullptr);
    if (!matrix) return 0;
    const double turn = av_display_rotation_get(reinterpret_cast<const std::int32_t*>(matrix));
    return std::isfinite(turn) ? static_cast<int>(std::lround(-turn)) : 0;
}

}  // namespace

LibavReader::LibavReader(const std::filesystem::path& path) : path_(path) {
    require_regular(path);
    const std::string name = printable(path.string());
    streams_.file = av::opened(path);
    if (!streams_.file)
        throw input_error(
            fmt::format("{} is no film that can be read: it is damaged, cut off, or something else.", name));
    const AVCodec* codec = nullptr;
    streams_.video = av_find_best_stream(streams_.file.get(), AVMEDIA_TYPE_VIDEO, -1, -1, &codec, 0);
    if (streams_.video < 0 || !codec)
        throw input_error(fmt::format("{} holds no moving picture in a coding that is known here.", name));
    const AVStream& stream = *streams_.picture();
    streams_.decoder.reset(avcodec_alloc_context3(codec));
    AVCodecContext& d = *streams_.decoder;
    avcodec_parameters_to_context(&d, stream.codecpar);
    d.thread_count = 2;
    d.pkt_timebase = stream.time_base;
    if (avcodec_open2(&d, codec, nullptr) < 0 || d.width < 16 || d.height < 16 || d.width > 16384 || d.height > 16384)
        throw input_error(fmt::format("{} cannot be decoded: its picture has no sane size or coding.", name));
    const AVFieldOrder order = stream.codecpar->field_order;
    if (order != AV_FIELD_PROGRESSIVE && order != AV_FIELD_UNKNOWN)
        throw input_error(fmt::format(
            "{} is interlaced: its rows are of two instants and cannot be moved together; make it progressive first.",
            name));
    read_facts();
    streams_.frame.reset(av_frame_alloc());
    streams_.packet.reset(av_packet_alloc());
    light_ = std::make_unique<FilmLight>(facts_.curve);
    form_ = d.pix_fmt;
    if (const auto form =
            av::yuv_form(d.pix_fmt, stream.codecpar->color_space, facts_.full_range, stream.codecpar->chroma_location))
        yuv_ = std::make_unique<YuvLight>(*form, *light_, cv::Size(d.width, d.height));
    else
        prepare_conversion();
}

/// For pictures in all other formats.
void LibavReader::prepare_conversion() {
    const AVCodecContext& d = *streams_.decoder;
    if (d.pix_fmt != AV_PIX_FMT_NONE)
        streams_.scaler = av::scaler(d.width, d.height, d.pix_fmt, AV_PIX_FMT_GBRP16LE,
                                     streams_.picture()->codecpar->color_space, facts_.full_range);
    const std::string name = printable(path_.string());
    if (!streams_.scaler)
        throw input_error(
            fmt::format("{} has pictures of the form {}, which cannot be converted.", name, facts_.format));
    streams_.wide.reset(av_frame_alloc());
    streams_.wide->format = AV_PIX_FMT_GBRP16LE;
    streams_.wide->width = d.width;
    streams_.wide->height = d.height;
    if (av_frame_get_buffer(streams_.wide.get(), 0) < 0) throw input_error(name + " is too large to be decoded.");
}

void LibavReader::read_facts() {
    const AVCodecContext& d = *streams_.decoder;
    const AVStream& stream = *streams_.picture();
    facts_.width = d.width;
    facts_.height = d.height;
    const AVRational rate = av_guess_frame_rate(streams_.file.get(), streams_.picture(), nullptr);
    facts_.frames_per_second = rate.den > 0 ? av_q2d(rate) : 0;
    if (stream.duration > 0) facts_.seconds = static_cast<double>(stream.duration) * av_q2d(stream.time_base);
    if (facts_.seconds <= 0 && streams_.file->duration > 0)
        facts_.seconds = static_cast<double>(streams_.file->duration) / AV_TIME_BASE;
    facts_.frames = stream.nb_frames > 0 ? stream.nb_frames : std::llround(facts_.seconds * facts_.frames_per_second);
    facts_.codec = d.codec->name;
    const char* format = av_get_pix_fmt_name(d.pix_fmt);
    facts_.format = format ? format : "unknown";
    facts_.curve = curve_of(stream.codecpar->color_trc, facts_.curve_assumed);
    facts_.full_range = stream.codecpar->color_range == AVCOL_RANGE_JPEG || av::plain_form(d.pix_fmt) != d.pix_fmt;
    facts_.wide_colours = stream.codecpar->color_primaries == AVCOL_PRI_BT2020;
    facts_.turned_deg = turn_of(stream);
    if (const AVDictionaryEntry* e = av_dict_get(streams_.file->metadata, "comment", nullptr, 0))
        facts_.comment = printable(std::string(e->value).substr(0, 1000));
    for (unsigned i = 0; i < streams_.file->nb_streams; ++i)
        facts_.sounds += streams_.file->streams[i]->codecpar->codec_type == AVMEDIA_TYPE_AUDIO;
}

bool LibavReader::decode() {
    Streams& s = streams_;
    constexpr int hopeless = 1000;  // failures in succession
    for (int failures = 0; failures < hopeless;) {
        const int got = avcodec_receive_frame(s.decoder.get(), s.frame.get());
        if (got >= 0) return true;
        if (got == AVERROR_EOF) return false;
        if (got != AVERROR(EAGAIN)) {
            if (s.flushed) return false;
            ++damaged_;
            ++failures;
            continue;
        }
        if (s.ended) {
            if (s.flushed) return false;
            avcodec_send_packet(s.decoder.get(), nullptr);
            s.flushed = true;
            continue;
        }
        if (av_read_frame(s.file.get(), s.packet.get()) < 0) {
            s.ended = true;
            continue;
        }
        if (s.packet->stream_index != s.video) {
            s.others.emplace_back(av_packet_clone(s.packet.get()));
        } else if (avcodec_send_packet(s.decoder.get(), s.packet.get()) < 0) {
            ++damaged_;
        }
        av_packet_unref(s.packet.get());
    }
    return false;
}

bool LibavReader::next(Planes& light) {
    Streams& s = streams_;
    for (;;) {
        if (!decode()) return false;
        // The decoder adapts when a film changes its format, but our conversion does not.
        if (range_ == AVCOL_RANGE_UNSPECIFIED) range_ = s.frame->color_range;
        if (s.frame->width == facts_.width && s.frame->height == facts_.height && s.frame->format == form_ &&
            s.frame->color_range == range_)
            break;
        ++damaged_;  // a frame of another size, format or range within the film
    }
    if (s.frame->interlaced_frame)
        throw input_error(fmt::format(
            "{} is interlaced: its rows are of two instants and cannot be moved together; make it progressive first.",
            printable(path_.string())));
    if (light.size() != cv::Size(facts_.width, facts_.height)) light = Planes({facts_.width, facts_.height});
    if (yuv_) {
        yuv_->to_light(av::yuv_planes<const std::uint8_t>(*s.frame), gain_, light);
        return true;
    }
    if (sws_scale_frame(s.scaler.get(), s.wide.get(), s.frame.get()) < 0)
        throw input_error(fmt::format("A picture of {} cannot be converted.", printable(path_.string())));
    std::array<const std::uint16_t*, 3> planes{};
    std::array<int, 3> stride{};
    for (int p = 0; p < 3; ++p) {
        planes[static_cast<std::size_t>(p)] = reinterpret_cast<const std::uint16_t*>(s.wide->data[p]);
        stride[static_cast<std::size_t>(p)] = s.wide->linesize[p] / 2;
    }
    light_->to_light(planes, stride, gain_, light);
    return true;
}

void LibavReader::multiply_by(Planes gain) {
    gain_ = std::move(gain);
    // Falloff is usually equal for all colours; then one plane is read, not three.
    for (const int c : {1, 2})
        if (std::equal(gain_.channel[c].begin(), gain_.channel[c].end(), gain_.channel[0].begin()))
            gain_.channel[c] = gain_.channel[0];
}

long long LibavReader::time() const {
    const AVFrame& f = *streams_.frame;
    return f.best_effort_timestamp != AV_NOPTS_VALUE ? f.best_effort_timestamp : f.pts;
}

double LibavReader::seconds() const {
    const AVStream& picture = *streams_.picture();
    const long long first = picture.start_time == AV_NOPTS_VALUE ? 0 : picture.start_time;
    return static_cast<double>(time() - first) * av_q2d(picture.time_base);
}

bool LibavReader::even_rate(const std::function<void()>& check) const {
    const av::Input file = av::opened(path_);
    if (!file) return false;
    for (unsigned i = 0; i < file->nb_streams; ++i)
        if (static_cast<int>(i) != streams_.video) file->streams[i]->discard = AVDISCARD_ALL;
    std::vector<std::int64_t> shown;
    const av::Packet packet(av_packet_alloc());
    while (av_read_frame(file.get(), packet.get()) >= 0) {
        check();
        if (packet->stream_index == streams_.video)
            shown.push_back(packet->pts != AV_NOPTS_VALUE ? packet->pts : packet->dts);
        av_packet_unref(packet.get());
    }
    std::sort(shown.begin(), shown.end());
    if (shown.size() < 3) return true;
    const double step = static_cast<double>(shown.back() - shown.front()) / static_cast<double>(shown.size() - 1);
    for (std::size_t i = 0; i < shown.size(); ++i)
        if (std::abs(static_cast<double>(shown[i] - shown.front()) - step * static_cast<double>(i)) > 1) return false;
    return true;
}

void LibavReader::seek(double seconds) {
    Streams& s = streams_;
    const AVRational base = s.picture()->time_base;
    const auto at = static_cast<std::int64_t>(seconds / av_q2d(base));
    av_seek_frame(s.file.get(), s.video, at, AVSEEK_FLAG_BACKWARD);
    avcodec_flush_buffers(s.decoder.get());
    s.ended = s.flushed = false;
    s.others.clear();
}

}  // namespace optrel

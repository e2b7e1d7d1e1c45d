// SPDX-License-Identifier: GPL-3.0-or-later
#include "libav_writer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <deque>
#include <map>
#include <vector>

#include "base/error.h"
#include "base/words.h"
#include "films/film_module.h"
#include "libav_companions.h"
#include "libav_turn.h"

namespace optrel {
namespace {

struct CodecRow {
    FilmCodec codec;
    const char *name, *library;
    AVPixelFormat form;  ///< replaces the format of the source when the codec does not support it
};
constexpr CodecRow codecs[] = {
    {FilmCodec::ffv1, "ffv1", "ffv1", AV_PIX_FMT_YUV422P10LE},
    {FilmCodec::h264, "h264", "libx264", AV_PIX_FMT_YUV420P},
    {FilmCodec::h265, "h265", "libx265", AV_PIX_FMT_YUV420P10LE},
    {FilmCodec::vc3, "vc3", "dnxhd", AV_PIX_FMT_YUV422P10LE},
    {FilmCodec::h264_intra, "h264-intra", "libx264", AV_PIX_FMT_YUV422P10LE},
};
/// Container of pieces: it supports every codec and every time base exactly.
constexpr const char* piece_format = "nut";
const CodecRow& row_of(FilmCodec codec) { return codecs[static_cast<int>(codec)]; }

AVColorTransferCharacteristic tag_of(FilmCurve curve) {
    switch (curve) {
        case FilmCurve::srgb: return AVCOL_TRC_IEC61966_2_1;
        case FilmCurve::gamma22: return AVCOL_TRC_GAMMA22;
        case FilmCurve::gamma28: return AVCOL_TRC_GAMMA28;
        case FilmCurve::hlg: return AVCOL_TRC_ARIB_STD_B67;
        case FilmCurve::pq: return AVCOL_TRC_SMPTE2084;
        case FilmCurve::linear: return AVCOL_TRC_LINEAR;
        default: return AVCOL_TRC_BT709;
    }
}

}  // namespace

struct LibavWriter::State {
    struct CloseOutput {
        void operator()(AVFormatContext* f) const {
            if (f->pb) avio_closep(&f->pb);
            avformat_free_context(f);
        }
    };
    std::unique_ptr<AVFormatContext, CloseOutput> file;
    av::Codec encoder;
    av::Scaler scaler;
    av::Frame wide, coded;
    av::Packet packet;
    AVStream* picture = nullptr;
    LibavReader* source = nullptr;
    const AVOutputFormat* container = nullptr;  ///< of the whole film; pieces use another one
    FilmShape shape;
    AVRational clock{1, 25};
    AVColorSpace matrix = AVCOL_SPC_BT709;
    std::map<int, AVStream*> others;  ///< by the stream of the source
    av::Turn turn;                    ///< rotation that is applied to the pictures, when the container cannot store it
    std::vector<std::string> remarks;
    Planes turned;
    std::unique_ptr<FilmLight> light;
    std::unique_ptr<YuvLight> yuv;  ///< null: the scaler is used
    std::string name;
    long long last = INT64_MIN;

    void check(int result, const char* what) const {
        if (result < 0)
            throw file_error(fmt::format("{} cannot be written ({}: {}); check the space on the disk.", name, what,
                                         av::words_of(result)));
    }
};

LibavWriter::LibavWriter(const FilmTarget& target, LibavReader& source) : state_(std::make_unique<State>()) {
    State& s = *state_;
    s.name = printable(target.wanted.string());
    s.source = &source;
    s.shape = {source.facts().width, source.facts().height, 25, source.facts().curve};
    s.clock = source.streams().picture()->time_base;
    s.matrix = source.streams().picture()->codecpar->color_space;
    open(target);
}

LibavWriter::LibavWriter(const FilmTarget& target, const FilmShape& shape) : state_(std::make_unique<State>()) {
    state_->name = printable(target.wanted.string());
    state_->shape = shape;
    state_->clock = {1, shape.frames_per_second};
    open(target);
}

LibavWriter::~LibavWriter() = default;

/// Pictures are stored rotated when the container cannot store the rotation.
void LibavWriter::choose_turn() {
    State& s = *state_;
    if (!s.source || av::keeps_turn(*s.container)) return;
    const std::optional<av::Turn> turn = av::turn_of(*s.source->streams().picture());
    if (!turn)
        throw input_error(
            fmt::format("The film is turned by {} degrees when it is shown, which {} cannot say; name it .mov or .mp4.",
                        s.source->facts().turned_deg, s.name));
    s.turn = *turn;
}

/// Aspect ratio of a stored pixel.
AVRational LibavWriter::pixel_shape() const {
    const AVRational shape = state_->source->streams().picture()->codecpar->sample_aspect_ratio;
    return state_->turn.exchange && shape.num > 0 ? av_inv_q(shape) : shape;
}

/// The frame rate that is written into the container; 0 for none. Matroska declares one duration for every picture, so
/// it gets none when the rate varies. The other containers store the time of each picture and need the mean rate only
/// for their time code.
AVRational LibavWriter::declared_rate(const FilmTarget& target) const {
    const State& s = *state_;
    if (!target.even_rate && av::is_container(*s.container, "matroska")) return {0, 1};
    return av_guess_frame_rate(s.source->streams().file.get(), s.source->streams().picture(), nullptr);
}

/// The pixel format: that of the source when the codec supports it and most players show it.
void LibavWriter::choose_form(const FilmTarget& target) {
    State& s = *state_;
    AVCodecContext& e = *s.encoder;
    const FilmCodec codec = target.codec;
    e.pix_fmt = row_of(codec).form;
    if (s.source) {
        const AVPixelFormat own = av::plain_form(s.source->streams().decoder->pix_fmt);
        const AVPixFmtDescriptor& form = *av_pix_fmt_desc_get(own);
        // Few players show H.264 with more than 8 bits, and one container confuses it with another codec.
        const bool eight_bits = form.comp[0].depth == 8;
        const bool keeps = codec == FilmCodec::ffv1 || (codec == FilmCodec::h264 && eight_bits) ||
                           (codec == FilmCodec::h265 && own == AV_PIX_FMT_YUV420P);
        for (const AVPixelFormat* f = e.codec->pix_fmts; keeps && f && *f != AV_PIX_FMT_NONE; ++f)
            if (*f == own) e.pix_fmt = own;
    }
    const AVPixFmtDescriptor* form = av_pix_fmt_desc_get(e.pix_fmt);
    if (e.width % (1 << form->log2_chroma_w) || e.height % (1 << form->log2_chroma_h))
        throw input_error(
            fmt::format("{} × {} pixels do not go into {}, whose colours stand for two of them; choose ffv1.", e.width,
                        e.height, row_of(codec).name));
    if (codec == FilmCodec::ffv1) {
        e.level = 3;
        e.slices = 4;
        av_opt_set_int(e.priv_data, "slicecrc", 1, 0);
        if (e.width % (1 << form->log2_chroma_w) == 0 && e.width < 64) e.slices = 1;
    }
    if (codec == FilmCodec::h264 || codec == FilmCodec::h265) {
        av_opt_set(e.priv_data, "crf", "16", 0);
        av_opt_set(e.priv_data, "preset", "veryfast", 0);
        // The coded stream would declare a constant rate.
        if (codec == FilmCodec::h265)
            av_opt_set(e.priv_data, "x265-params",
                       target.even_rate ? "log-level=none" : "log-level=none:vui-timing-info=0", 0);
    }
    if (codec == FilmCodec::h264_intra) {
        av_opt_set(e.priv_data, "crf", "6", 0);
        av_opt_set(e.priv_data, "preset", "ultrafast", 0);
        av_opt_set(e.priv_data, "x264-params", "keyint=1", 0);
    }
    if (codec == FilmCodec::vc3) av_opt_set(e.priv_data, "profile", "dnxhr_hqx", 0);
}

/// Sets size, time base and colour tags to those of the source.
void LibavWriter::describe_picture(const FilmTarget& target) {
    State& s = *state_;
    AVCodecContext& e = *s.encoder;
    e.width = s.turn.exchange ? s.shape.height : s.shape.width;
    e.height = s.turn.exchange ? s.shape.width : s.shape.height;
    e.time_base = s.clock;
    e.thread_count = 2;
    e.color_trc = tag_of(s.shape.curve);
    e.color_primaries = AVCOL_PRI_BT709;
    e.colorspace = AVCOL_SPC_BT709;
    e.color_range = AVCOL_RANGE_MPEG;
    if (s.source) {
        const AVCodecParameters& p = *s.source->streams().picture()->codecpar;
        e.color_trc = p.color_trc;
        e.color_primaries = p.color_primaries;
        e.colorspace = p.color_space;
        e.color_range = s.source->facts().full_range ? AVCOL_RANGE_JPEG : p.color_range;
        e.chroma_sample_location = p.chroma_location;
        e.sample_aspect_ratio = s.picture->sample_aspect_ratio = pixel_shape();
        const AVRational rate =
            av_guess_frame_rate(s.source->streams().file.get(), s.source->streams().picture(), nullptr);
        if (rate.num > 0) e.framerate = rate;
        s.picture->avg_frame_rate = declared_rate(target);
    } else {
        s.picture->avg_frame_rate = e.framerate = {s.shape.frames_per_second, 1};
    }
}

/// One codec states its range only in the container, and one container cannot state it.
void LibavWriter::require_range(const FilmTarget& target) const {
    const State& s = *state_;
    if (s.encoder->color_range == AVCOL_RANGE_JPEG && target.codec == FilmCodec::ffv1 &&
        av::is_container(*s.container, "mov"))
        throw input_error(
            fmt::format("{} would not say that the values of the film fill the full range, and would be shown with "
                        "too much contrast; name it .mkv.",
                        s.name));
}

void LibavWriter::prepare_pictures() {
    State& s = *state_;
    const AVCodecContext& e = *s.encoder;
    s.packet.reset(av_packet_alloc());
    s.light = std::make_unique<FilmLight>(s.shape.curve);
    const bool full_range = e.color_range == AVCOL_RANGE_JPEG;
    if (const auto form = av::yuv_form(e.pix_fmt, s.matrix, full_range, e.chroma_sample_location))
        s.yuv = std::make_unique<YuvLight>(*form, *s.light, cv::Size(e.width, e.height));
    else
        s.scaler = av::scaler(e.width, e.height, AV_PIX_FMT_GBRP16LE, e.pix_fmt, s.matrix, full_range);
    if (!s.yuv && !s.scaler)
        throw input_error(fmt::format("{} × {} pixels cannot be converted for {}.", e.width, e.height, s.name));
    const auto picture = [&](int format) {
        av::Frame f(av_frame_alloc());
        f->format = format;
        f->width = e.width;
        f->height = e.height;
        s.check(av_frame_get_buffer(f.get(), 0), "memory");
        return f;
    };
    if (s.scaler) s.wide = picture(AV_PIX_FMT_GBRP16LE);
    s.coded = picture(e.pix_fmt);
}

void LibavWriter::open_file(const FilmTarget& target) {
    av::mute();
    State& s = *state_;
    s.container = av_guess_format(nullptr, target.wanted.c_str(), nullptr);
    if (!s.container)
        throw input_error(fmt::format("{} says no container for a film; name it .mkv, .mov or .mp4.", s.name));
    AVFormatContext* made = nullptr;
    avformat_alloc_output_context2(&made, target.piece ? nullptr : s.container, target.piece ? piece_format : nullptr,
                                   nullptr);
    s.file.reset(made);
    // No random values and no library names, so that equal orders give equal films.
    s.file->flags |= AVFMT_FLAG_BITEXACT;
    // Keeps the times of all pictures, also when a codec begins with frames that are decoded earlier.
    s.file->avoid_negative_ts = 0;
    s.picture = avformat_new_stream(s.file.get(), nullptr);
    s.last = target.after;
    choose_turn();
}

/// Copies the other streams and writes the header.
void LibavWriter::begin_file(const FilmTarget& target) {
    State& s = *state_;
    // By default one container identifies this format as another codec.
    if (target.codec == FilmCodec::h264_intra && av_codec_get_id(s.file->oformat->codec_tag, MKTAG('a', 'v', 'c', '1')))
        s.picture->codecpar->codec_tag = MKTAG('a', 'v', 'c', '1');
    if (s.source && !target.piece) copy_others();
    const AVDictionaryEntry* own = av_dict_get(s.file->metadata, "comment", nullptr, 0);
    const std::string said =
        std::string(film_mark) + ": " + target.comment + (own ? "; " + std::string(own->value) : "");
    av_dict_set(&s.file->metadata, "comment", said.c_str(), 0);
    av_dict_set(&s.file->metadata, film_account_tag, target.account.empty() ? nullptr : target.account.c_str(), 0);
    s.check(avio_open(&s.file->pb, ("file:" + target.part.string()).c_str(), AVIO_FLAG_WRITE), "opening");
    AVDictionary* options = nullptr;
    // Without this option some containers keep only the tags that they know.
    av_dict_set(&options, "movflags", "use_metadata_tags", 0);
    const int begun = avformat_write_header(s.file.get(), &options);
    av_dict_free(&options);
    if (begun < 0)
        throw input_error(
            fmt::format("{} cannot hold a film that is coded as {}; name it .mkv, or choose another coding.", s.name,
                        row_of(target.codec).name));
}

void LibavWriter::open(const FilmTarget& target) {
    const FilmCodec codec = target.codec;
    State& s = *state_;
    open_file(target);
    const AVCodec* encoder = avcodec_find_encoder_by_name(row_of(codec).library);
    if (!encoder)
        throw input_error(fmt::format("This computer's libraries cannot write {}; choose ffv1.", row_of(codec).name));
    s.encoder.reset(avcodec_alloc_context3(encoder));
    AVCodecContext& e = *s.encoder;
    describe_picture(target);
    choose_form(target);
    require_range(target);
    if (s.file->oformat->flags & AVFMT_GLOBALHEADER) e.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    if (avcodec_open2(&e, encoder, nullptr) < 0)
        throw input_error(fmt::format("{} cannot be written as {} at {} × {} pixels; choose ffv1.", s.name,
                                      row_of(codec).name, e.width, e.height));
    s.picture->time_base = s.clock;
    avcodec_parameters_from_context(s.picture->codecpar, &e);
    begin_file(target);
    prepare_pictures();
}

LibavWriter::LibavWriter(const FilmTarget& target, LibavReader& source,
                         const std::vector<std::filesystem::path>& pieces, const Progress& progress)
    : state_(std::make_unique<State>()) {
    State& s = *state_;
    s.name = printable(target.wanted.string());
    s.source = &source;
    open_file(target);
    const av::Input first = av::opened(pieces.front());
    if (!first)
        throw file_error(fmt::format("The pieces of {} cannot be read any more; correct the film once more.", s.name));
    const AVStream& from = *source.streams().picture();
    s.picture->time_base = from.time_base;
    s.picture->sample_aspect_ratio = pixel_shape();
    s.picture->avg_frame_rate = declared_rate(target);
    avcodec_parameters_copy(s.picture->codecpar, first->streams[0]->codecpar);
    s.picture->codecpar->codec_tag = 0;
    begin_file(target);
    s.packet.reset(av_packet_alloc());
    for (const std::filesystem::path& piece : pieces) copy_piece(piece, progress);
    pass_others(true);
    close();
}

namespace {

/// Decoding times of the coded pictures of a piece, in the requested time base, because its container stores only
/// presentation times. A picture is decoded at the presentation time of the picture that precedes it by the reorder
/// depth; the first ones are one tick apart, before anything is shown.
std::deque<std::int64_t> decoding_times(const std::filesystem::path& piece, AVRational clock) {
    std::vector<std::int64_t> shown;
    const av::Input in = av::opened(piece);
    const av::Packet packet(av_packet_alloc());
    while (in && av_read_frame(in.get(), packet.get()) >= 0) {
        shown.push_back(av_rescale_q(packet->pts, in->streams[0]->time_base, clock));
        av_packet_unref(packet.get());
    }
    std::vector<std::int64_t> sorted = shown;
    std::sort(sorted.begin(), sorted.end());
    std::ptrdiff_t moved = 0;
    for (std::size_t i = 0; i < shown.size(); ++i) {
        const auto place = std::lower_bound(sorted.begin(), sorted.end(), shown[i]) - sorted.begin();
        moved = std::max(moved, static_cast<std::ptrdiff_t>(i) - place);
    }
    std::deque<std::int64_t> out;
    for (std::ptrdiff_t i = 0; i < static_cast<std::ptrdiff_t>(sorted.size()); ++i)
        out.push_back(i < moved ? sorted.front() - (moved - i) : sorted[static_cast<std::size_t>(i - moved)]);
    return out;
}

}  // namespace

/// Copies the coded pictures of a piece, interleaved with the other streams of the source.
void LibavWriter::copy_piece(const std::filesystem::path& piece, const Progress& progress) {
    State& s = *state_;
    const av::Input in = av::opened(piece);
    if (!in) throw file_error(fmt::format("The piece {} cannot be read any more; delete it.", piece.string()));
    std::deque<std::int64_t> decoded = decoding_times(piece, s.picture->time_base);
    while (!decoded.empty() && av_read_frame(in.get(), s.packet.get()) >= 0) {
        progress.check();
        av_packet_rescale_ts(s.packet.get(), in->streams[0]->time_base, s.picture->time_base);
        s.packet->dts = decoded.front();
        decoded.pop_front();
        s.packet->stream_index = s.picture->index;
        s.packet->pos = -1;
        s.check(av_interleaved_write_frame(s.file.get(), s.packet.get()), "pictures");
        pass_others(false);
    }
}

/// Reads the source up to its next picture or its end, and copies packets of other streams.
void LibavWriter::pass_others(bool to_the_end) {
    LibavReader::Streams& in = state_->source->streams();
    bool picture = false;
    while ((to_the_end || !picture) && av_read_frame(in.file.get(), in.packet.get()) >= 0) {
        picture = in.packet->stream_index == in.video;
        if (!picture) in.others.emplace_back(av_packet_clone(in.packet.get()));
        av_packet_unref(in.packet.get());
        copy_packets();
    }
}

/// Adds the other streams, and the rotation when the pictures are not stored rotated.
void LibavWriter::copy_others() {
    State& s = *state_;
    LibavReader::Streams& in = s.source->streams();
    const AVStream& picture = *in.picture();
    av::Companions along = av::add_companions(*s.file, *in.file, in.video, s.name);
    s.others = std::move(along.streams);
    s.remarks = std::move(along.left_out);
    if (s.turn.any())
        s.remarks.emplace_back(
            "The pictures are stored as they are shown, because Optrel writes no note into a .mkv file that turns "
            "them.");
    av_dict_copy(&s.picture->metadata, picture.metadata, 0);
    s.picture->disposition = picture.disposition;
    for (int i = 0; i < picture.nb_side_data; ++i) {
        const AVPacketSideData& d = picture.side_data[i];
        if (s.turn.any() && d.type == AV_PKT_DATA_DISPLAYMATRIX) continue;
        if (std::uint8_t* to = av_stream_new_side_data(s.picture, d.type, d.size)) std::memcpy(to, d.data, d.size);
    }
}

void LibavWriter::copy_packets() {
    State& s = *state_;
    if (!s.source) return;
    LibavReader::Streams& in = s.source->streams();
    for (; !in.others.empty(); in.others.pop_front()) {
        AVPacket& p = *in.others.front();
        const auto to = s.others.find(p.stream_index);
        if (to == s.others.end()) continue;
        av_packet_rescale_ts(&p, in.file->streams[p.stream_index]->time_base, to->second->time_base);
        p.stream_index = to->second->index;
        p.pos = -1;
        s.check(av_interleaved_write_frame(s.file.get(), &p), "sound");
    }
}

void LibavWriter::take_packets() {
    State& s = *state_;
    for (;;) {
        const int got = avcodec_receive_packet(s.encoder.get(), s.packet.get());
        if (got == AVERROR(EAGAIN) || got == AVERROR_EOF) return;
        s.check(got, "coding");
        av_packet_rescale_ts(s.packet.get(), s.encoder->time_base, s.picture->time_base);
        s.packet->stream_index = s.picture->index;
        s.check(av_interleaved_write_frame(s.file.get(), s.packet.get()), "pictures");
    }
}

/// Converts into the picture that is encoded next.
void LibavWriter::convert(const Planes& as_recorded) {
    State& s = *state_;
    if (s.turn.any()) av::turn(as_recorded, s.turn, s.turned);
    const Planes& light = s.turn.any() ? s.turned : as_recorded;
    s.check(av_frame_make_writable(s.coded.get()), "memory");
    if (s.yuv) {
        s.yuv->to_numbers(light, av::yuv_planes<std::uint8_t>(*s.coded));
        return;
    }
    s.check(av_frame_make_writable(s.wide.get()), "memory");
    std::array<std::uint16_t*, 3> planes{};
    std::array<int, 3> stride{};
    for (int p = 0; p < 3; ++p) {
        planes[static_cast<std::size_t>(p)] = reinterpret_cast<std::uint16_t*>(s.wide->data[p]);
        stride[static_cast<std::size_t>(p)] = s.wide->linesize[p] / 2;
    }
    s.light->to_values(light, planes, stride);
    s.check(sws_scale_frame(s.scaler.get(), s.coded.get(), s.wide.get()), "converting");
}

void LibavWriter::write(const Planes& light, long long time) {
    State& s = *state_;
    convert(light);
    s.last = time > s.last ? time : s.last + 1;  // time stands still or goes back
    s.coded->pts = s.last;
    s.check(avcodec_send_frame(s.encoder.get(), s.coded.get()), "coding");
    take_packets();
    copy_packets();
}

void LibavWriter::finish() {
    State& s = *state_;
    s.check(avcodec_send_frame(s.encoder.get(), nullptr), "coding");
    take_packets();
    copy_packets();
    close();
}

long long LibavWriter::last_time() const { return state_->last; }
std::vector<std::string> LibavWriter::remarks() const { return state_->remarks; }

void LibavWriter::close() {
    State& s = *state_;
    s.check(av_write_trailer(s.file.get()), "its end");
    const int closed = avio_closep(&s.file->pb);
    s.check(closed, "its end");
}

}  // namespace optrel

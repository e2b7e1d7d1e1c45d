// SPDX-License-Identifier: GPL-3.0-or-later
#include "libav.h"

#include <array>

namespace optrel::av {

std::string words_of(int error) {
    std::array<char, AV_ERROR_MAX_STRING_SIZE> text{};
    av_strerror(error, text.data(), text.size());
    return text.data();
}

void mute() {
    static const bool done = [] {
        av_log_set_level(AV_LOG_QUIET);
        return true;
    }();
    (void)done;
}

Input opened_header(const std::filesystem::path& path) {
    mute();
    AVFormatContext* file = nullptr;
    // Protocol and containers are fixed, so that a playlist or a name with a colon opens nothing else.
    AVDictionary* options = nullptr;
    av_dict_set(&options, "protocol_whitelist", "file", 0);
    av_dict_set(&options, "format_whitelist",
                "matroska,webm,mov,mp4,m4a,3gp,3g2,mj2,avi,mxf,mxf_opatom,nut,mpegts,mpeg,ogg,asf,flv,dv,gxf,ivf,"
                "yuv4mpegpipe",
                0);
    const int failed = avformat_open_input(&file, ("file:" + path.string()).c_str(), nullptr, &options);
    av_dict_free(&options);
    return failed < 0 ? Input() : Input(file);
}

Input opened(const std::filesystem::path& path) {
    Input out = opened_header(path);
    if (out && avformat_find_stream_info(out.get(), nullptr) < 0) out.reset();
    return out;
}

Scaler scaler(int width, int height, AVPixelFormat from, AVPixelFormat to, AVColorSpace matrix, bool full_range) {
    Scaler out(sws_alloc_context());
    if (!out) return out;
    av_opt_set_int(out.get(), "srcw", width, 0);
    av_opt_set_int(out.get(), "srch", height, 0);
    av_opt_set_int(out.get(), "dstw", width, 0);
    av_opt_set_int(out.get(), "dsth", height, 0);
    av_opt_set_int(out.get(), "src_format", from, 0);
    av_opt_set_int(out.get(), "dst_format", to, 0);
    av_opt_set_int(out.get(), "sws_flags", SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT | SWS_FULL_CHR_H_INP, 0);
    av_opt_set_int(out.get(), "threads", 2, 0);
    const bool from_rgb = (av_pix_fmt_desc_get(from)->flags & AV_PIX_FMT_FLAG_RGB) != 0;
    const int* coefficients = sws_getCoefficients(matrix == AVCOL_SPC_UNSPECIFIED ? SWS_CS_ITU709 : matrix);
    sws_setColorspaceDetails(out.get(), coefficients, from_rgb || full_range, coefficients, !from_rgb || full_range, 0,
                             1 << 16, 1 << 16);
    if (sws_init_context(out.get(), nullptr, nullptr) < 0) out.reset();
    return out;
}

AVPixelFormat plain_form(AVPixelFormat form) {
    switch (form) {
        case AV_PIX_FMT_YUVJ420P: return AV_PIX_FMT_YUV420P;
        case AV_PIX_FMT_YUVJ422P: return AV_PIX_FMT_YUV422P;
        case AV_PIX_FMT_YUVJ444P: return AV_PIX_FMT_YUV444P;
        case AV_PIX_FMT_YUVJ440P: return AV_PIX_FMT_YUV440P;
        case AV_PIX_FMT_YUVJ411P: return AV_PIX_FMT_YUV411P;
        default: return form;
    }
}

std::optional<YuvForm> yuv_form(AVPixelFormat form, AVColorSpace matrix, bool full_range, AVChromaLocation where) {
    const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(form);
    constexpr std::uint64_t other = AV_PIX_FMT_FLAG_RGB | AV_PIX_FMT_FLAG_ALPHA | AV_PIX_FMT_FLAG_BE |
                                    AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM | AV_PIX_FMT_FLAG_HWACCEL |
                                    AV_PIX_FMT_FLAG_FLOAT;
    if (!d || d->nb_components != 3 || !(d->flags & AV_PIX_FMT_FLAG_PLANAR) || (d->flags & other) != 0 ||
        d->log2_chroma_w > 1 || d->log2_chroma_h > 1)
        return std::nullopt;
    YuvForm out;
    out.depth = d->comp[0].depth;
    for (int c = 0; c < 3; ++c)
        if (d->comp[c].plane != c || d->comp[c].shift != 0 || d->comp[c].offset != 0 || d->comp[c].depth != out.depth ||
            d->comp[c].step != (out.depth > 8 ? 2 : 1))
            return std::nullopt;
    out.wide = d->log2_chroma_w == 1;
    out.tall = d->log2_chroma_h == 1;
    out.full_range = full_range;
    switch (matrix) {
        case AVCOL_SPC_UNSPECIFIED:
        case AVCOL_SPC_BT709: break;
        case AVCOL_SPC_BT470BG:
        case AVCOL_SPC_SMPTE170M: out.kr = 0.299, out.kb = 0.114; break;
        case AVCOL_SPC_BT2020_NCL: out.kr = 0.2627, out.kb = 0.0593; break;
        default: return std::nullopt;
    }
    if (where == AVCHROMA_LOC_BOTTOMLEFT || where == AVCHROMA_LOC_BOTTOM) return std::nullopt;
    // Without a statement, the most common position is assumed: at the left one of two columns, between two rows.
    const bool centre = where == AVCHROMA_LOC_CENTER || where == AVCHROMA_LOC_TOP;
    out.right = out.wide && out.tall && centre ? 0.5 : 0;
    const bool top = where == AVCHROMA_LOC_TOPLEFT || where == AVCHROMA_LOC_TOP;
    out.down = out.tall && !top ? 0.5 : 0;
    return out;
}

}  // namespace optrel::av

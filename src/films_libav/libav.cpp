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

Input opened(const std::filesystem::path& path) {
    mute();
    AVFormatContext* file = nullptr;
    // The protocol is said, so that a playlist or a name with a colon leads nowhere else.
    AVDictionary* options = nullptr;
    av_dict_set(&options, "protocol_whitelist", "file", 0);
    const int failed = avformat_open_input(&file, ("file:" + path.string()).c_str(), nullptr, &options);
    av_dict_free(&options);
    Input out(file);
    if (failed < 0 || avformat_find_stream_info(file, nullptr) < 0) out.reset();
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

}  // namespace optrel::av

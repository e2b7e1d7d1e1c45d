// SPDX-License-Identifier: GPL-3.0-or-later
// The libraries for moving pictures, with their things released by themselves. For source files of this folder only.
#pragma once

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
#include <libswscale/swscale.h>
}

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "films/yuv_light.h"

namespace optrel::av {

template <class T, void (*release)(T**)>
struct Release {
    void operator()(T* t) const { release(&t); }
};
using Input = std::unique_ptr<AVFormatContext, Release<AVFormatContext, avformat_close_input>>;
using Codec = std::unique_ptr<AVCodecContext, Release<AVCodecContext, avcodec_free_context>>;
using Frame = std::unique_ptr<AVFrame, Release<AVFrame, av_frame_free>>;
using Packet = std::unique_ptr<AVPacket, Release<AVPacket, av_packet_free>>;
struct FreeScaler {
    void operator()(SwsContext* s) const { sws_freeContext(s); }
};
using Scaler = std::unique_ptr<SwsContext, FreeScaler>;

/// The libraries' own words for a failure.
std::string words_of(int error);
/// Whether a container has this name in the library.
inline bool is_container(const AVOutputFormat& container, std::string_view name) { return container.name == name; }

/// What they print is turned off; what matters comes back as a failure. Cheap, thread-safe.
void mute();

/// A file that is open with its streams known; null where it cannot be. Only this file is opened, whatever it names:
/// playlists and other lists of files are no films.
Input opened(const std::filesystem::path& path);
/// Opens it the same way, but reads the header only; streams may be described incompletely.
Input opened_header(const std::filesystem::path& path);

/// The conversion of pictures between two forms at one size, exact rather than quick, with the coefficients and ranges
/// of the frames themselves. Null where the library has none.
Scaler scaler(int width, int height, AVPixelFormat from, AVPixelFormat to, AVColorSpace matrix, bool full_range);

/// The same form without a note of the range in its name, as encoders know it.
AVPixelFormat plain_form(AVPixelFormat form);

/// The form of pictures that need no such conversion: planes of luma and colour differences in a matrix that is known.
std::optional<YuvForm> yuv_form(AVPixelFormat form, AVColorSpace matrix, bool full_range, AVChromaLocation where);
template <class Byte>
YuvPlanes<Byte> yuv_planes(const AVFrame& frame) {
    YuvPlanes<Byte> out;
    for (std::size_t p = 0; p < 3; ++p) {
        out.first[p] = frame.data[p];
        out.stride[p] = frame.linesize[p];
    }
    return out;
}

}  // namespace optrel::av

// SPDX-License-Identifier: GPL-3.0-or-later
// The FFmpeg libraries with automatic release of their objects. For source files of this folder only.
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

/// The library's text for an error code.
std::string words_of(int error);
/// True when a container has this name in the library.
inline bool is_container(const AVOutputFormat& container, std::string_view name) { return container.name == name; }

/// Silences the libraries' output; errors are returned as codes. Cheap, thread-safe.
void mute();

/// Opens a file and reads its streams; null when that fails. Only this file is opened, whatever it refers to: playlists
/// and other lists of files are not films.
Input opened(const std::filesystem::path& path);
/// Opens it the same way, but reads the header only; streams may be described incompletely.
Input opened_header(const std::filesystem::path& path);

/// A conversion between two pixel formats at one size, accurate rather than fast, with the coefficients and ranges of
/// the frames themselves. Null when the library has none.
Scaler scaler(int width, int height, AVPixelFormat from, AVPixelFormat to, AVColorSpace matrix, bool full_range);

/// The same format without a range in its name, as encoders need it.
AVPixelFormat plain_form(AVPixelFormat form);

/// The format of pictures that need no such conversion: planes of luma and colour differences with a known matrix.
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

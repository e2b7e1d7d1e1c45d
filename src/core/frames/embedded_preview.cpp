// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/embedded_preview.h"

#include <algorithm>
#include <exiv2/exiv2.hpp>
#include <memory>
#include <opencv2/imgproc.hpp>

#include <libraw/libraw.h>

#include "base/files.h"
#include "frames/decode.h"
#include "frames/reduced_size.h"

namespace optrel {

namespace {

/// A preview is smaller; more is a damaged or hostile file.
constexpr std::uintmax_t largest_preview = std::uintmax_t{64} << 20;

bool is_jpeg(const std::string& bytes) { return bytes.size() > 3 && bytes.compare(0, 3, "\xff\xd8\xff") == 0; }

/// Previews that are strips of their own in a DNG are found by LibRaw alone, which gives the largest one.
std::string largest_preview_bytes(const OpenedFrame& frame) {
    const auto raw = std::make_unique<LibRaw>();
    if (raw->open_file(frame.path().c_str()) != LIBRAW_SUCCESS || raw->unpack_thumb() != LIBRAW_SUCCESS) return {};
    const libraw_thumbnail_t& found = raw->imgdata.thumbnail;
    if (found.tformat != LIBRAW_THUMBNAIL_JPEG || !found.thumb || found.tlength > largest_preview) return {};
    return {found.thumb, found.tlength};
}

std::string preview_bytes(const OpenedFrame& frame, int side) {
    const Exiv2::PreviewManager previews(frame.image());
    Exiv2::PreviewPropertiesList all = previews.getPreviewProperties();
    std::erase_if(all, [](const Exiv2::PreviewProperties& p) {
        return p.mimeType_ != "image/jpeg" || p.size_ > largest_preview;
    });
    if (all.empty()) return largest_preview_bytes(frame);
    const auto longer = [](const Exiv2::PreviewProperties& p) {
        return static_cast<int>(std::max(p.width_, p.height_));
    };
    std::stable_sort(all.begin(), all.end(), [&](const auto& a, const auto& b) { return longer(a) < longer(b); });
    const auto fits = std::find_if(all.begin(), all.end(), [&](const auto& p) { return longer(p) >= side; });
    const Exiv2::PreviewImage image = previews.getPreviewImage(fits == all.end() ? all.back() : *fits);
    return {reinterpret_cast<const char*>(image.pData()), image.size()};
}

}  // namespace

std::optional<cv::Mat3b> embedded_preview(const OpenedFrame& frame, int side) {
    try {
        std::string bytes;
        if (frame.container() == OpenedFrame::Container::rendered)
            bytes = read_file(frame.path(), largest_preview);
        else
            bytes = preview_bytes(frame, side);
        if (!is_jpeg(bytes)) return std::nullopt;
        const cv::Mat3b decoded = decode_jpeg_reduced(bytes, side, frame.path());
        cv::Mat3b out;
        const cv::Size size = reduced_size(decoded.size(), side);
        cv::resize(decoded, out, size, 0, 0, cv::INTER_AREA);
        return out;
    } catch (const std::exception&) {
        return std::nullopt;
    }
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Reads raw frames by the raw library.
#include <fmt/format.h>
#include <libraw/libraw.h>

#include <cmath>
#include <cstring>
#include <memory>
#include <string_view>

#include "base/error.h"
#include "frames/picture.h"

namespace optrel {
namespace {

/// The decoder begins the visible part of a Bayer mosaic at an even row and column. When a DNG states an odd one, this
/// adds the row or column that the decoder skipped; black levels count from the stated place.
VisiblePart visible_part(const libraw_image_sizes_t& sizes, const std::optional<VisiblePart>& stated) {
    VisiblePart out{sizes.top_margin, sizes.left_margin, sizes.height, sizes.width};
    if (!stated) return out;
    if (stated->top >= 0 && stated->top == out.top - 1 && stated->height == out.height + 1) {
        --out.top;
        ++out.height;
    }
    if (stated->left >= 0 && stated->left == out.left - 1 && stated->width == out.width + 1) {
        --out.left;
        ++out.width;
    }
    return out;
}

/// The channels of the decoder's colours by their names; its second green is green. Empty for other colours.
std::optional<std::array<int, 4>> channels_of(const libraw_iparams_t& about) {
    std::array<int, 4> out{1, 1, 1, 1};
    for (int i = 0; i < about.colors; ++i) {
        const std::size_t channel = std::string_view("RGB").find(about.cdesc[i]);
        if (channel == std::string_view::npos) return std::nullopt;
        out[static_cast<std::size_t>(i)] = static_cast<int>(channel);
    }
    return out;
}

constexpr unsigned six_by_six_filter = 9;

std::optional<SampleLayout> layout_of(const LibRaw& raw) {
    const auto& about = raw.imgdata.idata;
    const auto& data = raw.imgdata.rawdata;
    if (data.raw_image && about.filters == 0 && about.colors == 1) return SampleLayout::monochrome;
    if (about.colors != 3 || !channels_of(about)) return std::nullopt;
    if (data.raw_image && about.filters == six_by_six_filter) return SampleLayout::six_by_six;
    if (data.raw_image && about.filters >= 1000) return SampleLayout::bayer;
    if ((data.color3_image || data.color4_image) && about.filters == 0) return SampleLayout::interpolated;
    return std::nullopt;
}

/// The black level of a sample of one of the decoder's colours, counted from the visible part.
double black_of(const libraw_colordata_t& color, int colour, int row, int column) {
    double black = color.black + color.cblack[colour];
    const unsigned rows = color.cblack[4], columns = color.cblack[5];
    if (rows && columns) black += color.cblack[6 + (row % rows) * columns + column % columns];
    return black;
}

/// All three samples of each pixel, red first; a copy.
cv::Mat3w three_samples(const LibRaw& raw) {
    const auto& sizes = raw.imgdata.sizes;
    const auto& data = raw.imgdata.rawdata;
    const std::size_t pixel = data.color4_image ? 4 : 3;
    const std::uint16_t* in = data.color4_image ? &data.color4_image[0][0] : &data.color3_image[0][0];
    const std::size_t line = sizes.raw_pitch / sizeof(std::uint16_t);
    const std::array<int, 4> channel = *channels_of(raw.imgdata.idata);
    cv::Mat3w out(sizes.raw_height, sizes.raw_width);
    for (int row = 0; row < out.rows; ++row) {
        const std::uint16_t* from = in + row * line;
        cv::Vec3w* to = out.ptr<cv::Vec3w>(row);
        for (int i = 0; i < out.cols; ++i)
            for (std::size_t c = 0; c < 3; ++c) to[i][channel[c]] = from[static_cast<std::size_t>(i) * pixel + c];
    }
    return out;
}

/// All samples, the visible part, filter, black and white levels. The decoder owns the samples of a mosaic.
RawMosaic take_samples(LibRaw& raw, SampleLayout layout, const std::optional<VisiblePart>& stated) {
    const auto& sizes = raw.imgdata.sizes;
    const auto& color = raw.imgdata.color;
    RawMosaic mosaic;
    RawPicture& out = mosaic.picture;
    out.layout = layout;
    out.white = color.maximum;
    const VisiblePart part = mosaic.visible =
        visible_part(sizes, layout == SampleLayout::bayer ? stated : std::nullopt);
    const cv::Rect visible(part.left, part.top, part.width, part.height);
    if (layout == SampleLayout::interpolated) {
        mosaic.whole = three_samples(raw);
        out.interpolated = mosaic.whole(visible);
        cv::extractChannel(out.interpolated, out.counts, 1);
        out.filter = SitePattern<int>(1);
        const std::array<int, 4> channel = *channels_of(raw.imgdata.idata);
        for (int c = 0; c < 3; ++c)
            out.interpolated_black[static_cast<std::size_t>(channel[static_cast<std::size_t>(c)])] =
                black_of(color, c, 0, 0);
        out.black = SitePattern<double>(out.interpolated_black[1]);
        return mosaic;
    }
    mosaic.whole = cv::Mat1w(sizes.raw_height, sizes.raw_width, raw.imgdata.rawdata.raw_image,
                             static_cast<std::size_t>(sizes.raw_pitch));
    out.counts = mosaic.whole(visible);
    const int by_rows = static_cast<int>(color.cblack[4]), by_columns = static_cast<int>(color.cblack[5]);
    if (layout == SampleLayout::monochrome) {
        out.filter = SitePattern<int>(1);
        const int period = by_rows > 1 || by_columns > 1 ? 6 : 1;
        out.black = {period, [&](int row, int column) { return black_of(color, 0, row, column); }};
        return mosaic;
    }
    const std::array<int, 4> channel = *channels_of(raw.imgdata.idata);
    const int down = sizes.top_margin - part.top, across = sizes.left_margin - part.left;
    const auto colour = [&](int row, int column) { return raw.COLOR(row + down, column + across); };
    const int period = layout == SampleLayout::bayer ? 2 : 6;
    out.filter = {period, [&](int row, int column) { return channel[static_cast<std::size_t>(colour(row, column))]; }};
    out.black = {std::max({period, by_rows > 2 ? 6 : 1, by_columns > 2 ? 6 : 1}),
                 [&](int row, int column) { return black_of(color, colour(row, column), row, column); }};
    return mosaic;
}

void take_colour(const libraw_colordata_t& color, RawPicture& out) {
    const auto take_matrix = [&](const auto& matrix) {
        double sum = 0;
        for (int i = 0; i < 3; ++i)
            for (int j = 0; j < 3; ++j) {
                out.xyz_to_camera(i, j) = matrix[i][j];
                sum += std::abs(matrix[i][j]);
            }
        out.has_colour_matrix = sum > 0.1;
        return out.has_colour_matrix;
    };
    // A DNG contains one or two matrices; the one for daylight (Exif light source 21, D65) is used.
    constexpr int d65 = 21;
    const int daylight = color.dng_color[1].illuminant == d65 ? 1 : 0;
    if (!take_matrix(color.dng_color[daylight].colormatrix) &&
        !take_matrix(color.dng_color[1 - daylight].colormatrix) && !take_matrix(color.cam_xyz))
        out.xyz_to_camera = cv::Matx33d(3.2406, -1.5372, -0.4986, -0.9689, 1.8758, 0.0415, 0.0557, -0.2040, 1.0570);
    for (int i = 0; i < 3; ++i)
        if (color.cam_mul[i] > 0 && color.cam_mul[1] > 0) out.as_shot_neutral[i] = color.cam_mul[1] / color.cam_mul[i];
}

/// Reads the file; the result is valid as long as `raw`.
RawMosaic unpacked(const OpenedFrame& frame, LibRaw& raw) {
    const std::string name = frame.path().string();
    if (sniff_kind(frame) == FrameKind::rendered)
        throw input_error(fmt::format(
            "{} is a rendered picture, but a raw file is needed here; choose the raw file of that frame.", name));

    bool damaged = false;
    raw.set_dataerror_handler([](void* seen, const char*, const int) { *static_cast<bool*>(seen) = true; }, &damaged);
    const auto unsupported = [&](const std::string& why) {
        return input_error(fmt::format("The raw file {} cannot be used: {}; leave it out.", name, why));
    };
    const auto refuse = [&](const std::string& why) {
        return input_error(
            fmt::format("The raw file {} cannot be read: {}; copy it again from the card or leave it out.", name, why));
    };
    if (const int code = raw.open_file(name.c_str()); code != LIBRAW_SUCCESS)
        throw refuse(code == LIBRAW_FILE_UNSUPPORTED ? "it is no raw file that the decoder knows, or it is damaged"
                                                     : LibRaw::strerror(code));
    if (const int code = raw.unpack(); code != LIBRAW_SUCCESS)
        throw refuse(code == LIBRAW_IO_ERROR ? "it is truncated" : LibRaw::strerror(code));
    if (damaged) throw refuse("it is truncated or damaged");
    const auto& sizes = raw.imgdata.sizes;
    const auto& color = raw.imgdata.color;
    if (raw.imgdata.rawdata.float_image || raw.imgdata.rawdata.float3_image || raw.imgdata.rawdata.float4_image)
        throw unsupported("its samples are floating-point numbers, not counts");
    const std::optional<SampleLayout> layout = layout_of(raw);
    if (!layout)
        throw unsupported(
            "its samples are neither a mosaic of red, green and blue that repeats every 2 or 6 rows and columns, nor "
            "monochrome, nor interpolated red, green and blue");
    for (const unsigned repeat : {color.cblack[4], color.cblack[5]})
        if (repeat > 0 && 6 % repeat != 0)
            throw unsupported(fmt::format("its black level repeats every {} rows or columns", repeat));
    if (sizes.width < 64 || sizes.height < 64) throw refuse("its picture is smaller than 64 by 64 pixels");
    if (sizes.left_margin + sizes.width > sizes.raw_width || sizes.top_margin + sizes.height > sizes.raw_height)
        throw refuse("its visible part reaches beyond it");

    // The decoder can have moved the beginning only when the picture does not begin in the corner of the mosaic.
    const bool inside = sizes.top_margin > 0 || sizes.left_margin > 0;
    RawMosaic out =
        take_samples(raw, *layout, raw.imgdata.idata.dng_version && inside ? stated_visible_part(frame) : std::nullopt);
    const bool mosaic = *layout == SampleLayout::bayer || *layout == SampleLayout::six_by_six;
    std::array<bool, 3> occurs{};
    for (int row = 0; row < SitePattern<int>::largest; ++row)
        for (int column = 0; column < SitePattern<int>::largest; ++column) {
            occurs[static_cast<std::size_t>(out.picture.filter.at(row, column))] = true;
            if (!(out.picture.white > out.picture.black.at(row, column) + 1))
                throw refuse("its white level does not lie above its black level");
        }
    if (mosaic && !(occurs[0] && occurs[1] && occurs[2]))
        throw unsupported("its colour filter lacks red, green or blue");
    for (const double black : out.picture.interpolated_black)
        if (!(out.picture.white > black + 1)) throw refuse("its white level does not lie above its black level");
    if (out.picture.has_colours()) take_colour(color, out.picture);
    return out;
}

}  // namespace

RawPicture read_raw(const OpenedFrame& frame) {
    const auto raw = std::make_unique<LibRaw>();
    RawPicture out = unpacked(frame, *raw).picture;
    out.counts = out.counts.clone();
    if (!out.interpolated.empty()) out.interpolated = out.interpolated.clone();
    return out;
}

RawMosaic read_mosaic(const OpenedFrame& frame) {
    const auto raw = std::make_unique<LibRaw>();
    RawMosaic out = unpacked(frame, *raw);
    if (out.picture.layout == SampleLayout::interpolated) return out;
    out.whole = out.whole.clone();
    const VisiblePart& part = out.visible;
    out.picture.counts = out.whole(cv::Rect(part.left, part.top, part.width, part.height));
    return out;
}

}  // namespace optrel

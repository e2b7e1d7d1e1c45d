// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/picture.h"

#include <fmt/format.h>
#include <libraw/libraw.h>

#include <cmath>
#include <cstring>
#include <memory>

#include "base/choose.h"
#include "base/error.h"
#include "frames/decode.h"

namespace optrel {
namespace fs = std::filesystem;

std::vector<SamplePlane> RawPicture::planes() const {
    std::vector<SamplePlane> planes;
    for (int row = 0; row < 2; ++row)
        for (int column = 0; column < 2; ++column) {
            SamplePlane plane;
            plane.channel = channel_at(row, column);
            plane.step = 2;
            plane.u0 = column + 0.5;
            plane.v0 = row + 0.5;
            plane.values.create((counts.rows - row + 1) / 2, (counts.cols - column + 1) / 2);
            const float offset = static_cast<float>(black[row][column]);
            const float scale = static_cast<float>(1 / (white - black[row][column]));
            for (int j = 0; j < plane.values.rows; ++j) {
                const std::uint16_t* in = counts.ptr<std::uint16_t>(2 * j + row) + column;
                float* out = plane.values.ptr<float>(j);
                for (int i = 0; i < plane.values.cols; ++i) out[i] = (in[2 * i] - offset) * scale;
            }
            planes.push_back(std::move(plane));
        }
    return planes;
}

namespace {

/// The decoder begins the visible part at an even row and column. When the file states an odd one (DNG), the skipped
/// row and column belong to the picture nevertheless, and black levels count from there.
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

/// All samples, the visible part, filter, black and white levels. The decoder owns the samples.
RawMosaic take_samples(LibRaw& raw, const std::optional<VisiblePart>& stated) {
    const auto& sizes = raw.imgdata.sizes;
    const auto& color = raw.imgdata.color;
    RawMosaic mosaic;
    mosaic.whole = cv::Mat1w(sizes.raw_height, sizes.raw_width, raw.imgdata.rawdata.raw_image,
                             static_cast<std::size_t>(sizes.raw_pitch));
    const VisiblePart part = mosaic.visible = visible_part(sizes, stated);
    RawPicture& out = mosaic.picture;
    out.counts = mosaic.whole(cv::Rect(part.left, part.top, part.width, part.height));
    for (int row = 0; row < 2; ++row)
        for (int column = 0; column < 2; ++column) {
            const int c = raw.COLOR(row + sizes.top_margin - part.top, column + sizes.left_margin - part.left);
            out.filter[row][column] = c == 3 ? 1 : c;
            double black = color.black + color.cblack[c];
            if (color.cblack[4] && color.cblack[5])
                black += color.cblack[6 + (row % color.cblack[4]) * color.cblack[5] + column % color.cblack[5]];
            out.black[row][column] = black;
        }
    out.white = color.maximum;
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

}  // namespace

namespace {

/// Reads the file; the result is valid as long as `raw`.
RawMosaic unpacked(const OpenedFrame& frame, LibRaw& raw) {
    const std::string name = frame.path().string();
    if (sniff_kind(frame) == FrameKind::rendered)
        throw input_error(fmt::format(
            "{} is a rendered picture, but a raw file is needed here; choose the raw file of that frame.", name));

    bool damaged = false;
    raw.set_dataerror_handler([](void* seen, const char*, const int) { *static_cast<bool*>(seen) = true; }, &damaged);
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
    if (raw.imgdata.rawdata.raw_image == nullptr || raw.imgdata.idata.filters < 1000 || raw.imgdata.idata.colors != 3)
        throw refuse("its colour filter is not a Bayer pattern of red, green and blue");
    if (sizes.width < 64 || sizes.height < 64) throw refuse("its picture is smaller than 64 by 64 pixels");
    if (sizes.left_margin + sizes.width > sizes.raw_width || sizes.top_margin + sizes.height > sizes.raw_height)
        throw refuse("its visible part reaches beyond it");

    // The decoder can have moved the beginning only when the picture does not begin in the corner of the mosaic.
    const bool inside = sizes.top_margin > 0 || sizes.left_margin > 0;
    RawMosaic out =
        take_samples(raw, raw.imgdata.idata.dng_version && inside ? stated_visible_part(frame) : std::nullopt);
    for (const auto& line : out.picture.black)
        for (const double black : line)
            if (!(out.picture.white > black + 1)) throw refuse("its white level does not lie above its black level");
    take_colour(color, out.picture);
    return out;
}

}  // namespace

RawPicture read_raw(const OpenedFrame& frame) {
    const auto raw = std::make_unique<LibRaw>();
    RawPicture out = unpacked(frame, *raw).picture;
    out.counts = out.counts.clone();
    return out;
}

RawMosaic read_mosaic(const OpenedFrame& frame) {
    const auto raw = std::make_unique<LibRaw>();
    RawMosaic out = unpacked(frame, *raw);
    out.whole = out.whole.clone();
    const VisiblePart& part = out.visible;
    out.picture.counts = out.whole(cv::Rect(part.left, part.top, part.width, part.height));
    return out;
}

namespace {

/// One sample of a picture of 8 or 16 bits, or of linear floats.
float linear_sample(const cv::Mat& picture, int row, int column, int channel, const std::vector<float>& decode) {
    switch (picture.depth()) {
        case CV_16U: return decode[picture.ptr<cv::Vec3w>(row)[column][channel]];
        case CV_8U: return decode[picture.ptr<cv::Vec3b>(row)[column][channel]];
        default: return picture.ptr<cv::Vec3f>(row)[column][channel];
    }
}

}  // namespace

cv::Mat3f read_rendered(const OpenedFrame& frame) {
    const fs::path& path = frame.path();
    if (sniff_kind(frame) == FrameKind::raw)
        throw input_error(fmt::format(
            "{} is not a rendered picture (JPEG, PNG or TIFF), but one is needed here; choose another file.",
            path.string()));
    const cv::Mat picture = decode_picture(path);
    if (picture.cols < 64 || picture.rows < 64)
        throw input_error(
            fmt::format("The picture {} is smaller than 64 by 64 pixels; choose a larger one.", path.string()));
    const double full =
        first_of<double>({{picture.depth() == CV_16U, 65535.0}, {picture.depth() == CV_8U, 255.0}}, 1.0);
    std::vector<float> decode(picture.depth() == CV_16U ? 65536 : 256);
    for (std::size_t i = 0; i < decode.size(); ++i) {
        const double v = i / full;
        decode[i] = static_cast<float>(v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4));
    }
    cv::Mat3f linear(picture.size());
    for (int row = 0; row < picture.rows; ++row) {
        cv::Vec3f* out = linear.ptr<cv::Vec3f>(row);
        for (int i = 0; i < picture.cols; ++i)
            for (int c = 0; c < 3; ++c) out[i][c] = linear_sample(picture, row, i, c, decode);
    }
    return linear;
}

MeasuringPicture read_for_measuring(const OpenedFrame& frame) {
    MeasuringPicture out;
    out.metadata = read_metadata(frame);
    if (out.metadata.kind == FrameKind::raw) {
        const RawPicture raw = read_raw(frame);
        out.width = raw.counts.cols;
        out.height = raw.counts.rows;
        out.planes = raw.planes();
        return out;
    }
    const cv::Mat3f rgb = read_rendered(frame);
    out.width = rgb.cols;
    out.height = rgb.rows;
    for (int c = 0; c < 3; ++c) {
        SamplePlane plane;
        plane.channel = static_cast<Channel>(c);
        cv::extractChannel(rgb, plane.values, c);
        out.planes.push_back(std::move(plane));
    }
    return out;
}

}  // namespace optrel

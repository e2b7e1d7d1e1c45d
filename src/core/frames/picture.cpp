// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/picture.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "base/choose.h"
#include "base/error.h"
#include "frames/decode.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// Samples of a mosaic from (row, column) on, `step` apart.
SamplePlane plane_of(const RawPicture& raw, int row, int column, int step) {
    SamplePlane plane;
    plane.channel = raw.channel_at(row, column);
    plane.step = step;
    plane.u0 = column + 0.5;
    plane.v0 = row + 0.5;
    plane.values.create((raw.counts.rows - row + step - 1) / step, (raw.counts.cols - column + step - 1) / step);
    const double black = raw.black.at(row, column);
    const float offset = static_cast<float>(black), scale = static_cast<float>(1 / (raw.white - black));
    for (int j = 0; j < plane.values.rows; ++j) {
        const std::uint16_t* in = raw.counts.ptr<std::uint16_t>(step * j + row) + column;
        float* out = plane.values.ptr<float>(j);
        for (int i = 0; i < plane.values.cols; ++i) out[i] = (in[step * i] - offset) * scale;
    }
    return plane;
}

std::vector<SamplePlane> interpolated_planes(const RawPicture& raw) {
    std::vector<SamplePlane> planes;
    for (int c = 0; c < 3; ++c) {
        SamplePlane plane;
        plane.channel = static_cast<Channel>(c);
        const double black = raw.interpolated_black[static_cast<std::size_t>(c)];
        cv::Mat1w counts;
        cv::extractChannel(raw.interpolated, counts, c);
        counts.convertTo(plane.values, CV_32F, 1 / (raw.white - black), -black / (raw.white - black));
        planes.push_back(std::move(plane));
    }
    return planes;
}

}  // namespace

std::vector<SamplePlane> RawPicture::planes() const {
    if (layout == SampleLayout::interpolated) return interpolated_planes(*this);
    const int step = period();
    std::vector<SamplePlane> planes;
    for (int row = 0; row < step; ++row)
        for (int column = 0; column < step; ++column) planes.push_back(plane_of(*this, row, column, step));
    return planes;
}

void require_bayer(const RawPicture& raw, const std::string& name, const std::string& purpose) {
    const char* what = nullptr;
    switch (raw.layout) {
        case SampleLayout::bayer: return;
        case SampleLayout::six_by_six: what = "a colour filter of 6 x 6 samples"; break;
        case SampleLayout::monochrome: what = "no colour filter"; break;
        case SampleLayout::interpolated: what = "interpolated samples"; break;
    }
    throw input_error(fmt::format("{} has {}, but only frames with a Bayer filter can be used to {}; leave it out.",
                                  name, what, purpose));
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

namespace {

/// Every pixel as the mean of the nearest samples of its channel, weighted by distance, at half the resolution.
std::vector<SamplePlane> dense_planes(const RawPicture& raw) {
    std::vector<SamplePlane> out;
    for (int c = 0; c < 3; ++c) {
        cv::Mat1f values = cv::Mat1f::zeros(raw.counts.size()), present = cv::Mat1f::zeros(raw.counts.size());
        for (int row = 0; row < values.rows; ++row)
            for (int i = 0; i < values.cols; ++i)
                if (raw.filter.at(row, i) == c) {
                    const double black = raw.black.at(row, i);
                    values(row, i) = static_cast<float>((raw.counts(row, i) - black) / (raw.white - black));
                    present(row, i) = 1;
                }
        const cv::Size window(7, 7);
        const double sigma = c == 1 ? 0.8 : 1.2;
        cv::GaussianBlur(values, values, window, sigma);
        cv::GaussianBlur(present, present, window, sigma);
        if (cv::countNonZero(present) == 0) continue;
        values /= present;
        SamplePlane plane;
        plane.channel = static_cast<Channel>(c);
        plane.step = 2;
        plane.u0 = plane.v0 = 1;
        const cv::Rect even(0, 0, values.cols / 2 * 2, values.rows / 2 * 2);
        cv::resize(values(even), plane.values, even.size() / 2, 0, 0, cv::INTER_AREA);
        out.push_back(std::move(plane));
    }
    return out;
}

}  // namespace

bool MeasuringPicture::has(Channel channel) const {
    return std::any_of(planes.begin(), planes.end(), [&](const SamplePlane& p) { return p.channel == channel; });
}

std::vector<const SamplePlane*> MeasuringPicture::for_search(Channel channel) const {
    std::vector<const SamplePlane*> out;
    for (const SamplePlane& plane : dense.empty() ? planes : dense)
        if (plane.channel == channel) out.push_back(&plane);
    return out;
}

MeasuringPicture read_for_measuring(const OpenedFrame& frame) {
    MeasuringPicture out;
    out.metadata = read_metadata(frame);
    if (out.metadata.kind == FrameKind::raw) {
        const RawPicture raw = read_raw(frame);
        out.width = raw.counts.cols;
        out.height = raw.counts.rows;
        out.planes = raw.planes();
        if (out.planes.front().step > 2) out.dense = dense_planes(raw);
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

// SPDX-License-Identifier: GPL-3.0-or-later
// The recorded pixels of a frame. A raw frame has counts with black and white level, mostly as a mosaic of colours; a
// rendered frame has three linear channels. Both give the same SamplePlanes for measuring.
#pragma once

#include <algorithm>
#include <array>
#include <filesystem>
#include <memory>
#include <opencv2/core.hpp>
#include <vector>

#include "frames/metadata.h"
#include "frames/site_pattern.h"
#include "optics/coordinates.h"

namespace optrel {

struct EmbeddedColours;

/// Samples of one colour on a regular grid: values(j, i) is at image position (u0 + i * step, v0 + j * step). Values
/// are linear: 0 at black, 1 at the white level.
struct SamplePlane {
    Channel channel = Channel::green;
    cv::Mat1f values;
    double u0 = 0.5, v0 = 0.5, step = 1;
};

/// How the samples of a raw frame see colours.
enum class SampleLayout {
    bayer,         ///< one colour a sample, repeated every 2 rows and columns
    six_by_six,    ///< one colour a sample, repeated every 6 rows and columns
    monochrome,    ///< no colour filter
    interpolated,  ///< all three colours at each pixel ("linear" DNG)
};

/// Raw counts.
struct RawPicture {
    SampleLayout layout = SampleLayout::bayer;
    cv::Mat1w counts;         ///< visible area; the green samples of an interpolated frame
    cv::Mat3w interpolated;   ///< red first, of the same size; empty for every other layout
    SitePattern<int> filter;  ///< channel: 0 red, 1 green, 2 blue; green everywhere where there is no mosaic
    SitePattern<double> black;
    std::array<double, 3> interpolated_black{};  ///< of the three samples of an interpolated pixel
    double white = 0;
    cv::Matx33d xyz_to_camera = cv::Matx33d::eye();  ///< as in the DNG tag ColorMatrix
    bool has_colour_matrix = false;
    std::array<double, 3> as_shot_neutral{1, 1,
                                          1};  ///< camera values of a neutral patch, as in the DNG tag AsShotNeutral
    EmbeddedRendering rendering;               ///< empty unless set from read_rendering()
    std::shared_ptr<const EmbeddedColours> carried;  ///< empty unless set from carried_colours()
    std::vector<std::string> camera_names;           ///< likewise: names of the camera in the file
    /// Noise of the body at the frame's ISO, where it was measured: slope and offset of the variance for red, green and
    /// blue, over light as a share of the white level above black.
    std::optional<std::array<double, 6>> noise;

    /// Rows and columns after which filter and black levels repeat: 1, 2 or 6.
    int period() const { return std::max(filter.period(), black.period()); }
    bool has_colours() const { return layout != SampleLayout::monochrome; }
    Channel channel_at(int row, int column) const { return static_cast<Channel>(filter.at(row, column)); }
    /// Each colour at its own sample positions: red, two greens and blue of a Bayer mosaic, 36 planes of a 6 x 6
    /// mosaic, one green plane of a monochrome frame, three planes of an interpolated one.
    std::vector<SamplePlane> planes() const;
};

/// Throws Error(input) with the reason when a frame has no Bayer mosaic, which `purpose` needs, as in "measure noise".
void require_bayer(const RawPicture& raw, const std::string& name, const std::string& purpose);

/// Throws Error(input) in one sentence for a truncated, empty, hostile or unsupported file, and for a rendered one.
RawPicture read_raw(const OpenedFrame& frame);

/// All samples with their invisible border, for copies of the raw file.
struct RawMosaic {
    cv::Mat whole;  ///< 16 bits, one channel; three for an interpolated frame
    VisiblePart visible;
    RawPicture picture;  ///< its samples are the visible part of `whole`
};
/// Throws as read_raw() does.
RawMosaic read_mosaic(const OpenedFrame& frame);

/// A rendered picture (JPEG, PNG, TIFF) as linear float RGB. The sRGB encoding is undone and the orientation tag
/// ignored, so rows and columns are the sensor's. Throws Error(input) for a raw or damaged file.
cv::Mat3f read_rendered(const OpenedFrame& frame);

/// The samples of any frame for measuring.
struct MeasuringPicture {
    Metadata metadata;
    int width = 0, height = 0;
    std::vector<SamplePlane> planes;
    /// Red, green and blue on dense grids, interpolated, for searching; empty unless `planes` are too sparse for it.
    std::vector<SamplePlane> dense;

    bool has(Channel channel) const;
    /// The planes of a channel that suit a search: the dense one, otherwise all at their own positions.
    std::vector<const SamplePlane*> for_search(Channel channel) const;
};
MeasuringPicture read_for_measuring(const OpenedFrame& frame);

}  // namespace optrel

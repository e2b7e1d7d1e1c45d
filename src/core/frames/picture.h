// SPDX-License-Identifier: GPL-3.0-or-later
// The recorded pixels of a frame. A raw frame is a mosaic of
// counts with black and white level; a rendered frame has three
// linear channels. Both give the same SamplePlanes for
// measuring.
#pragma once

#include <array>
#include <filesystem>
#include <memory>
#include <opencv2/core.hpp>
#include <vector>

#include "frames/metadata.h"
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

/// A mosaic of raw counts.
struct RawPicture {
    cv::Mat1w counts;                          ///< visible area
    std::array<std::array<int, 2>, 2> filter;  ///< channel (0 red, 1 green, 2 blue) at [row % 2][column % 2]
    std::array<std::array<double, 2>, 2> black;
    double white = 0;
    cv::Matx33d xyz_to_camera = cv::Matx33d::eye();  ///< as in the DNG tag ColorMatrix
    bool has_colour_matrix = false;
    std::array<double, 3> as_shot_neutral{1, 1,
                                          1};  ///< camera values of a neutral patch, as in the DNG tag AsShotNeutral
    EmbeddedRendering rendering;               ///< empty unless set from read_rendering()
    std::shared_ptr<const EmbeddedColours> carried;  ///< empty unless set from carried_colours()
    std::vector<std::string> camera_names;           ///< likewise: names of the camera in the file

    Channel channel_at(int row, int column) const { return static_cast<Channel>(filter[row & 1][column & 1]); }
    /// Red, two greens and blue, each at its own sample positions.
    std::vector<SamplePlane> planes() const;
};

/// Throws Error(input) in one sentence for a truncated, empty, hostile or unsupported file, and for a rendered one.
RawPicture read_raw(const OpenedFrame& frame);

/// A mosaic with its invisible border, for copies of the raw file.
struct RawMosaic {
    cv::Mat1w whole;
    VisiblePart visible;
    RawPicture picture;  ///< its counts are the visible part of `whole`
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
};
MeasuringPicture read_for_measuring(const OpenedFrame& frame);

}  // namespace optrel

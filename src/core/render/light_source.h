// SPDX-License-Identifier: GPL-3.0-or-later
// Provides the linear light of a frame, part by part, before resampling.
#pragma once

#include <memory>
#include <optional>

#include "base/progress.h"
#include "frames/picture.h"
#include "render/demosaic.h"
#include "render/framing.h"
#include "render/noise_reduction.h"
#include "render/planes.h"
#include "render/resample.h"

namespace optrel {

/// Thread-safe: several threads request parts at once.
class LightSource {
public:
    virtual ~LightSource() = default;

    virtual cv::Size size() const = 0;
    /// Three linear planes of a part of the frame that begins at an even row and column, with falloff corrected.
    virtual Planes part(const cv::Rect& part, const Progress& progress) const = 0;
    /// Radius (px) of the neighbourhood that the value at a place depends on.
    virtual int margin() const = 0;
    virtual ColourPlanes fringes() const = 0;
};

/// A raw frame with resolved fields. Noise is reduced when the fields ask for it, by the measured noise of the body
/// where the picture has it; otherwise it is measured on the requested part. Picture and framing must outlive it.
class RawLight : public LightSource {
public:
    RawLight(const RawPicture& raw, cv::Mat1w counts, const ResolvedFrame& fields, const Framing& framing);

    cv::Size size() const override { return counts_.size(); }
    Planes part(const cv::Rect& part, const Progress& progress) const override;
    int margin() const override;
    ColourPlanes fringes() const override;

private:
    const RawPicture& raw_;
    cv::Mat1w counts_;
    const ResolvedFrame& fields_;
    const Framing& framing_;
    std::array<double, 3> multipliers_;
    std::optional<GainTable> gains_;
    std::shared_ptr<const ScaleNoise> scales_;  ///< null: noise is not reduced, or not known
};

/// A rendered picture in linear form; otherwise the same.
class RenderedLight : public LightSource {
public:
    RenderedLight(cv::Mat3f linear, const ResolvedFrame& fields, const Framing& framing);

    cv::Size size() const override { return linear_.size(); }
    Planes part(const cv::Rect& part, const Progress& progress) const override;
    int margin() const override;
    ColourPlanes fringes() const override { return ColourPlanes::as_recorded; }

private:
    cv::Mat3f linear_;
    const ResolvedFrame& fields_;
    std::optional<GainTable> gains_;
};

/// Existing planes.
class ReadyLight : public LightSource {
public:
    ReadyLight(Planes planes, ColourPlanes fringes) : planes_(std::move(planes)), fringes_(fringes) {}

    cv::Size size() const override { return planes_.size(); }
    /// Not a copy; must not be modified.
    Planes part(const cv::Rect& part, const Progress& progress) const override;
    int margin() const override;
    ColourPlanes fringes() const override { return fringes_; }

private:
    Planes planes_;
    ColourPlanes fringes_;
};

/// An area of the corrected picture; places outside the frame become `empty`.
Planes corrected_area(const LightSource& source, const Framing& framing, const Sampling& at, const Progress& progress,
                      float empty = 0);
/// An area of the frame without resampling; lies within the frame. A copy.
Planes area_in_place(const LightSource& source, const cv::Rect& area, const Progress& progress);

}  // namespace optrel

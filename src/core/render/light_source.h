// SPDX-License-Identifier: GPL-3.0-or-later
// Where the light of a frame comes from, part by part, before its places are moved.
#pragma once

#include <memory>
#include <optional>

#include "base/progress.h"
#include "frames/picture.h"
#include "render/demosaic.h"
#include "render/framing.h"
#include "render/planes.h"
#include "render/resample.h"

namespace optrel {

/// Thread-safe: parts of it are asked for on several threads at once.
class LightSource {
public:
    virtual ~LightSource() = default;

    virtual cv::Size size() const = 0;
    /// Three linear planes of a part of the frame, from an even row and column, with the falloff undone.
    virtual Planes part(const cv::Rect& part, const Progress& progress) const = 0;
    /// How many px about a place what is made of it depends on.
    virtual int margin() const = 0;
    virtual ColourPlanes fringes() const = 0;
};

/// A raw frame with resolved fields; noise is reduced where they ask for it, and measured on the part that is asked
/// for. The picture and the framing must outlive it.
class RawLight : public LightSource {
public:
    RawLight(const RawPicture& raw, cv::Mat1w counts, const ResolvedFrame& fields, const Framing& framing);

    cv::Size size() const override { return counts_.size(); }
    Planes part(const cv::Rect& part, const Progress& progress) const override;
    int margin() const override;
    ColourPlanes fringes() const override { return ColourPlanes::aligned; }

private:
    const RawPicture& raw_;
    cv::Mat1w counts_;
    const ResolvedFrame& fields_;
    const Framing& framing_;
    std::array<double, 3> multipliers_;
    std::optional<GainTable> gains_;
};

/// A rendered picture that was made linear, likewise.
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

/// Planes that are there already.
class ReadyLight : public LightSource {
public:
    ReadyLight(Planes planes, ColourPlanes fringes) : planes_(std::move(planes)), fringes_(fringes) {}

    cv::Size size() const override { return planes_.size(); }
    /// Not a copy: it must not be written to.
    Planes part(const cv::Rect& part, const Progress& progress) const override;
    int margin() const override;
    ColourPlanes fringes() const override { return fringes_; }

private:
    Planes planes_;
    ColourPlanes fringes_;
};

/// Places of the corrected picture; what lies outside the frame becomes `empty`.
Planes corrected_area(const LightSource& source, const Framing& framing, const Sampling& at, const Progress& progress,
                      float empty = 0);
/// Places of the frame where nothing moves, within it. A copy.
Planes area_in_place(const LightSource& source, const cv::Rect& area, const Progress& progress);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Fast display of a frame while its fields change: the visible area is developed at the displayed size.
#pragma once

#include <memory>
#include <optional>

#include "base/progress.h"
#include "frames/picture.h"
#include "render/framing.h"
#include "render/light_distribution.h"
#include "render/planes.h"

namespace optrel {

class ColourRendering;

/// A frame that is displayed repeatedly with different fields. Thread-safe.
class PreparedFrame {
public:
    PreparedFrame(RawPicture raw, const CaptureGeometry& taken);
    PreparedFrame(cv::Mat3f linear, const CaptureGeometry& taken);

    cv::Size size() const { return size_; }
    const CaptureGeometry& taken() const { return taken_; }

    struct Look {
        cv::Mat3w rgb;
        cv::Mat1b empty;  ///< not 0 where the picture is empty
        Planes light;     ///< white-balanced and linear, before all tones; only on request
        std::shared_ptr<const Framing> framing;
    };
    enum class Keep { picture, light };
    /// The area `at` of the corrected picture. With steps of 2 px and more it is made from means over cells of the
    /// frame, without noise reduction, fringe suppression and sharpening, whose effect is invisible there. With smaller
    /// steps it equals develop(), except that noise is measured on this area and levels on a reduced picture. Throws as
    /// framing_of() does.
    Look look(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile, const Sampling& at,
              const Progress& progress, Keep keep = Keep::picture) const;

    /// Histogram of its light before and after falloff correction.
    LightDistribution light(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile) const;

private:
    cv::Matx33f matrix(const ResolvedFrame& fields) const;
    EmbeddedRendering rendering() const;
    std::shared_ptr<const ColourRendering> colours(const ResolvedFrame& fields) const;
    cv::Mat1w counts(const ResolvedFrame& fields) const;
    std::array<double, 6> sensor_noise() const;
    Planes cells(const ResolvedFrame& fields, int cell) const;
    Planes lit_cells(const ResolvedFrame& fields, const Framing& framing, int cell) const;
    Planes reduced(const ResolvedFrame& fields, const Framing& framing, const Sampling& at,
                   const Progress& progress) const;
    Planes in_full(const ResolvedFrame& fields, const Framing& framing, const Sampling& at,
                   const Progress& progress) const;
    std::optional<std::pair<float, float>> levels(const ResolvedFrame& fields, const Framing& framing) const;

    std::optional<RawPicture> raw_;
    cv::Mat3f linear_;
    CaptureGeometry taken_;
    cv::Size size_;
    struct Cache;
    std::shared_ptr<Cache> cache_;
};

}  // namespace optrel

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
#include "render/screen_colours.h"

namespace optrel {

class ColourRendering;
struct LostCells;

/// A frame that is displayed repeatedly with different fields. Thread-safe.
class PreparedFrame {
public:
    PreparedFrame(RawPicture raw, const CaptureGeometry& taken);
    PreparedFrame(cv::Mat3f linear, const CaptureGeometry& taken);

    cv::Size size() const { return size_; }
    const CaptureGeometry& taken() const { return taken_; }

    struct Look {
        cv::Mat3w rgb;     ///< values of the screen
        cv::Mat1b empty;   ///< not 0 where the picture is empty
        cv::Mat1b marks;   ///< LostMark bits; only on request
        Planes light;      ///< white-balanced and linear, before all tones; only on request
        Planes developed;  ///< linear sRGB as it is encoded; only on request
        std::shared_ptr<const Framing> framing;
    };
    enum class Keep { picture, light, developed };
    /// Options of look().
    struct Wanted {
        Keep keep = Keep::picture;
        const ScreenColours* screen = nullptr;  ///< null: sRGB
        bool marks = false;
    };
    /// The area `at` of the corrected picture. With steps of 2 px and more it is made from means over cells of the
    /// frame, without noise reduction, fringe suppression and sharpening, whose effect is invisible there. With smaller
    /// steps it equals develop(), except that noise is measured on this area and levels on a reduced picture. Throws as
    /// framing_of() does.
    Look look(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile, const Sampling& at,
              const Progress& progress, const Wanted& wanted) const;
    Look look(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile, const Sampling& at,
              const Progress& progress) const {
        return look(fields, profile, at, progress, Wanted());
    }

    /// The raw samples of the 2 x 2 square around a position of the frame (px), counts after black, row by row; the
    /// three of the pixel in an interpolated frame. Empty for a rendered picture, and outside the frame.
    struct RawSample {
        Channel channel;
        double count;
    };
    std::vector<RawSample> samples_at(const Vec2& place) const;
    /// Counts of the white level after black; 0 for a rendered picture.
    double white_above_black() const;

    /// Histogram of its light before and after falloff correction.
    LightDistribution light(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile) const;

private:
    cv::Matx33f matrix(const ResolvedFrame& fields) const;
    EmbeddedRendering rendering() const;
    std::shared_ptr<const ColourRendering> colours(const ResolvedFrame& fields) const;
    cv::Mat1w counts(const ResolvedFrame& fields) const;
    std::array<double, 6> sensor_noise() const;
    Planes cells(const ResolvedFrame& fields, int cell) const;
    LostCells lost_in(int cell) const;
    cv::Mat1b marks(const Framing& framing, const Sampling& at, const Progress& progress) const;
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

// SPDX-License-Identifier: GPL-3.0-or-later
// How far bodies render the same chart apart, and the fewest settings that bring them together.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "patches/body_colours.h"
#include "patches/colorimetry.h"
#include "patches/colour_writer.h"

namespace optrel {

/// What a body is to match: the rendering of another body, or the chart's own values.
struct AlikeTarget {
    std::vector<cv::Vec3d> xyz;  ///< for each patch; a perfect diffuser has Y = 1
    std::vector<bool> used;
    /// log2 of green over the light: the exposure that other bodies are brought to. Empty: exposure is left alone.
    std::optional<double> sensitivity_ev;
    double sensitivity_sigma = 0;
    /// Whether exposure time and aperture are recorded; light is comparable only where both bodies record the same.
    bool has_time = false, has_aperture = false;
};

/// Settings of a body at an ISO, with one sigma of each.
struct AlikePins {
    int iso = 0;
    ColourFigure exposure_ev, warmth, tint;  ///< 0 with sigma 0: not needed
    bool exposure = false, neutral = false, colour_file = false;
    /// What the colour file has to hold: from this body's colours to those of the target. Warmth and tint then make
    /// its neutral grey. Null where no file is needed.
    std::shared_ptr<const FittedLight> fit;
    Spread before, after;
    bool reached = false;  ///< the limit is met
};

struct AlikeLimit {
    double mean = 0.6, p95 = 1.5;
};

/// The chart as a body renders it at a setting without any pins: by its own matrix, balanced as the frame records.
AlikeTarget rendered_as_recorded(const ColourSetting& setting);
/// The chart's own values. Exposure is left alone: what light was on the chart is not known.
AlikeTarget target_of_chart(const BodyColours& body);

/// Whether a colour file may be proposed.
enum class AlikeColours { may_fit, always_fit, leave };

/// The fewest pins that bring a body at a setting under the limit: none, exposure, exposure with warmth and tint, or
/// those with a colour file of its own. When none reaches it, those that come closest. Exposure is compared for equal
/// light, by the recorded time and aperture and by the ISO.
AlikePins pins_alike(const ColourSetting& setting, const PatchChart& chart, const AlikeTarget& target,
                     const AlikeLimit& limit, AlikeColours colours = AlikeColours::may_fit);

/// log2 of green of a perfect diffuser for equal light: exposure time, aperture and ISO divided out.
double sensitivity_of(const ColourSetting& setting);
/// Difference in brightness from the target at equal light, EV. Empty unless both record the same of exposure time and
/// aperture.
std::optional<double> lighter_than(const ColourSetting& setting, const AlikeTarget& target);

/// The bytes of the colour file that pins with a fit need: an ICC profile for a matrix, otherwise a profile of the DNG
/// specification, whose hue table takes a third of the time of a table of colours.
std::string alike_file(const FittedLight& fit, const ColourFileText& text);

/// The setting of a body that is nearest to another one's light at an ISO; null when none is in that light.
const ColourSetting* setting_like(const BodyColours& body, double kelvin, int iso);

/// One span of ISO for which one set of pins holds: settings next to each other whose pins differ by less than twice
/// their uncertainty are taken together, with their weighted mean.
struct AlikeSpan {
    int first_iso = 0, last_iso = 0;
    AlikePins pins;
};
std::vector<AlikeSpan> spans_of(const std::vector<AlikePins>& by_iso);

}  // namespace optrel

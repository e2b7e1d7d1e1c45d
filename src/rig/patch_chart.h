// SPDX-License-Identifier: GPL-3.0-or-later
// The rig's own patch chart, whose surfaces, lights and sensors have spectra. Core sees the chart file and the frames
// alone.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "rig/scene.h"

namespace optrel::rig {

/// Values every 5 nm from 380 to 830 nm.
using Curve = std::vector<double>;
inline constexpr int curve_first_nm = 380, curve_last_nm = 830, curve_step_nm = 5;

/// The sensitivity of a sensor: a lobe for each colour, and what all colours see.
struct Sensitivity {
    std::array<double, 3> centre_nm{602, 536, 456}, width_nm{36, 42, 27};
    double leak = 0.05;   ///< of green light, by all colours
    double infrared = 0;  ///< of light beyond 700 nm, by all colours: a body whose filter was taken out
    double gain_ev = 0;   ///< of this copy
    std::array<Curve, 3> curves() const;
};

/// "daylight": black body radiation of 5500 K that loses its violet; "lamp": of 3200 K. Throws Error(input) otherwise.
Curve light_named(const std::string& name);

/// Red, green and blue that a surface gives in a light; a perfect diffuser gives 1 in green to an unchanged sensor.
std::array<double, 3> response(const Sensitivity& sensor, const Curve& light, const Curve& surface);
/// The same for a perfect diffuser.
std::array<double, 3> response_to_white(const Sensitivity& sensor, const Curve& light);

/// 40 colours and 8 greys in 8 columns and 6 rows; patches of 24 mm every 30 mm.
inline constexpr int patch_columns = 8, patch_rows = 6;
inline constexpr double patch_pitch_mm = 30, patch_side_mm = 24;
const std::vector<Curve>& patch_surfaces();

/// The chart file with the spectra of all patches (ISO 28178).
std::string patch_chart_text();
/// The chart as a PDF page (A4) to look at: colours for sRGB, which a printer does not reproduce as measured.
std::string patch_chart_pdf();

/// The chart on a grey wall, in a light, as a sensor sees it. The origin is the middle of the chart.
class PatchScene : public Scene {
public:
    PatchScene(const Sensitivity& sensor, const Curve& light);
    Surface at(double x_mm, double y_mm) const override;
    bool gives_camera_values() const override { return true; }

private:
    std::vector<std::array<float, 3>> patches_;
    std::array<float, 3> frame_, wall_;
};

}  // namespace optrel::rig

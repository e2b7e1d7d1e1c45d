// SPDX-License-Identifier: GPL-3.0-or-later
// The simulated body, which converts light to counts.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/progress.h"
#include "frames/picture.h"
#include "rig/lens.h"
#include "rig/patch_chart.h"
#include "rig/scene.h"
#include "rig/sensor.h"

namespace optrel::rig {

struct Body {
    std::string maker, model, serial;
    int width = 2464, height = 1640;
    double pitch_um = 9.4;
    SampleLayout layout = SampleLayout::bayer;  ///< not interpolated
    SitePattern<int> filter{{0, 1}, {1, 2}};
    double black = 2048, white = 63000;
    double full_well = 42000;  ///< electrons at the white level and ISO 100
    double read_noise = 3.2;   ///< electrons
    SensorTraits sensor;
    cv::Matx33d xyz_to_camera;
    /// Rendering settings in its metadata: -1 none, otherwise as numbered by Exif; sharpness may rise with
    /// ISO.
    int contrast = -1, saturation = -1;
    std::vector<std::pair<int, int>> sharpness_from_iso;
    double baseline_exposure = 0;                  ///< EV, embedded in its DNG
    std::array<double, 3> neutral{0.47, 1, 0.61};  ///< camera values of a neutral patch in the lamp's light
    Sensitivity spectral;                          ///< for scenes with spectra
    Sensitivity spectral_model;  ///< what the body takes itself for: its white balance as recorded follows from it
};

struct Exposure {
    int iso = 100;
    double seconds = 0;             ///< exposure time, which hot pixels follow; 0: unknown
    double level = 0.6;             ///< camera value of a perfect white in green, on the lens axis; 1 = white level
    double blur_px = 0.55;          ///< Gaussian blur of the lens
    cv::Vec2d lamp_gradient{0, 0};  ///< relative change of the light over the half-diagonal (flat fields)
    std::uint64_t seed = 1;
    std::string light;  ///< of scenes with spectra, see light_named(); empty: the neutral of the body
};

/// A photograph of a plane scene. About 20 samples a pixel where the scene varies, 80 at the edges of uniform areas.
RawPicture photograph(const Body& body, const Lens& lens, const Exposure& exposure, const Scene& scene,
                      const Placement& placement, const Progress& progress);

/// A photograph of an evenly lit plain surface, strongly out of focus.
RawPicture photograph_flat(const Body& body, const Lens& lens, const Exposure& exposure, const Progress& progress);

}  // namespace optrel::rig

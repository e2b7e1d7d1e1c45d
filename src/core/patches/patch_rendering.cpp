// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/patch_rendering.h"

#include <cmath>

#include "render/colour.h"
#include "render/colour_rendering.h"

namespace optrel {

std::vector<cv::Vec3d> rendered_patches(const ColourSetting& s, const std::string& camera,
                                        const ResolvedFrame& fields) {
    RawPicture raw;
    raw.xyz_to_camera = s.xyz_to_camera;
    raw.has_colour_matrix = true;
    raw.as_shot_neutral = s.as_shot;
    raw.camera_names = {camera};
    const std::array<double, 3> neutral = wanted_neutral(raw, fields);
    const double gain = std::exp2(fields[Field::exposure].value.number) / s.neutral[1];
    Planes planes(cv::Size(static_cast<int>(s.patches.size()), 1));
    for (int c = 0; c < 3; ++c)
        for (std::size_t i = 0; i < s.patches.size(); ++i) {
            const auto at = static_cast<std::size_t>(c);
            planes.channel[at](0, static_cast<int>(i)) =
                static_cast<float>(s.patches[i].raw[at] / neutral[at] * neutral[1]);
        }
    std::vector<cv::Vec3d> out;
    const auto rendering = colour_rendering(raw, fields);
    const cv::Matx33d to_xyz = camera_to_xyz_d50(own_matrices(raw), neutral);
    if (rendering) rendering->begin(planes, 1);
    const cv::Matx33d srgb_to_xyz = xyz_d50_to_srgb().inv();
    for (int i = 0; i < planes.size().width; ++i) {
        const cv::Vec3d v(planes.channel[0](0, i), planes.channel[1](0, i), planes.channel[2](0, i));
        out.push_back((rendering ? srgb_to_xyz * v : to_xyz * v) * gain);
    }
    return out;
}

}  // namespace optrel

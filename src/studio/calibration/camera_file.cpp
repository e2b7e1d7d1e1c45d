// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/camera_file.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "exchange/camera_model.h"
#include "studio/calibration/profile_of_frame.h"

namespace optrel {

const OutputFormat& camera_output() {
    static const OutputFormat format{
        "a camera model", {".yml", ".yaml", ".json"}, [](const std::filesystem::path& path, const std::string&) {
            const std::string text = read_file(path);
            const std::size_t at = text.find("written_by");
            return at != std::string::npos && text.find("Optrel", at) < at + 40;
        }};
    return format;
}

CameraFile profile_of_camera_file(const std::filesystem::path& file, const std::filesystem::path& frame,
                                  const FrameDevelopment& development, const std::string& author) {
    const std::string where = file.string();
    const CameraModel model = camera_from_text(read_file(file, 4u << 20), where);
    CameraFile out;
    out.model = model.form();
    out.profile = profile_of_frame(frame, development.metadata, MeasurementOrigin::calibration_file, author);
    CameraAsNode made = node_of_camera(model, out.profile.geometry, where);
    out.followed_px = made.largest_px;
    made.node.setting = {development.metadata.focal_mm, development.metadata.aperture, development.metadata.distance_m};
    out.profile.provenance.note = fmt::format("from the camera model {} ({})", file.filename().string(), out.model);
    out.profile.nodes = {made.node};
    out.in_use = development.chosen;
    if (development.profile) try {
            out.difference = compare_nodes(development.profile->node, made.node, out.profile.geometry);
        } catch (const Error&) {
            // The models have no common area, for example a fisheye and a perspective lens.
        }
    return out;
}

std::string CameraFile::in_words() const {
    std::string text = fmt::format("The file says a {}; as a profile it is followed to {}.\n", model,
                                   figure_text(figures::shift, followed_px));
    if (difference)
        text += fmt::format("The profile in use ({}) lies {} RMS beside it, {} at most.\n", in_use,
                            figure_text(figures::shift, difference->rms_px),
                            figure_text(figures::shift, difference->largest_px));
    else
        text += in_use == "none" ? "No profile corrects this frame now.\n"
                                 : fmt::format("It has nothing in common with the profile in use ({}).\n", in_use);
    return text;
}

}  // namespace optrel

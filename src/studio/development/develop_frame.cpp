// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/develop_frame.h"

#include "frames/colour_profile.h"

namespace optrel {
namespace fs = std::filesystem;

void add_own_colours(RawPicture& raw, const OpenedFrame& frame, const Metadata& metadata) {
    raw.rendering = read_rendering(frame);
    raw.carried = std::make_shared<const EmbeddedColours>(embedded_colours(frame));
    raw.camera_names = {camera_name(metadata), metadata.model};
}

Developed develop_file(const fs::path& path, const Metadata& metadata, const ResolvedFrame& fields,
                       const std::optional<AppliedProfile>& profile, const Progress& progress,
                       const PictureForm& form) {
    const OpenedFrame frame(path);
    const CaptureGeometry taken{geometry_of(metadata).pitch_um, metadata.focal_mm, metadata.orientation};
    if (metadata.kind == FrameKind::rendered) {
        const cv::Mat3f linear = read_rendered(frame);
        progress.check();
        return develop_rendered(linear, taken, fields, profile, progress, form);
    }
    RawPicture raw = read_raw(frame);
    progress.check();
    add_own_colours(raw, frame, metadata);
    return develop(raw, taken, fields, profile, progress, form);
}

}  // namespace optrel

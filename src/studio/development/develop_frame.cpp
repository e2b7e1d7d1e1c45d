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
    FrameDevelopment facts;
    facts.metadata = metadata;
    facts.fields = fields;
    facts.profile = profile;
    return develop_file(path, facts, progress, form);
}

Developed develop_file(const fs::path& path, const FrameDevelopment& facts, const Progress& progress,
                       const PictureForm& form) {
    const Metadata& metadata = facts.metadata;
    const OpenedFrame frame(path);
    const CaptureGeometry taken{geometry_of(metadata).pitch_um, metadata.focal_mm, metadata.orientation};
    if (metadata.kind == FrameKind::rendered) {
        const cv::Mat3f linear = read_rendered(frame);
        progress.check();
        return develop_rendered(linear, taken, facts.fields, facts.profile, progress, form);
    }
    RawPicture raw = read_raw(frame);
    progress.check();
    apply_sensor_facts(raw, frame, metadata.iso, facts.sensor);
    add_own_colours(raw, frame, metadata);
    return develop(raw, taken, facts.fields, facts.profile, progress, form);
}

}  // namespace optrel

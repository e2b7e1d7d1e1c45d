// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/prepare_frame.h"

#include "studio/development/develop_frame.h"

namespace optrel {

std::shared_ptr<const PreparedFrame> prepare_frame(const std::filesystem::path& path, const Metadata& metadata,
                                                   const SensorFacts& sensor, const Progress& progress) {
    const OpenedFrame frame(path);
    const CaptureGeometry taken{geometry_of(metadata).pitch_um, metadata.focal_mm, metadata.orientation};
    if (metadata.kind == FrameKind::rendered) return std::make_shared<const PreparedFrame>(read_rendered(frame), taken);
    RawPicture raw = read_raw(frame);
    progress.check();
    apply_sensor_facts(raw, frame, metadata.iso, sensor);
    add_own_colours(raw, frame, metadata);
    return std::make_shared<const PreparedFrame>(std::move(raw), taken);
}

}  // namespace optrel

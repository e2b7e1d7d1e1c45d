// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/corrected_light.h"

#include <algorithm>

namespace optrel {

MeasuringPicture corrected_light(const PreparedFrame& prepared, const FrameDevelopment& r, const cv::Rect& part,
                                 const Progress& progress) {
    const PreparedFrame::Look look =
        prepared.look(r.fields, r.profile, {double(part.x), double(part.y), 1, part.size()}, progress,
                      {.keep = PreparedFrame::Keep::light});
    MeasuringPicture out;
    out.width = prepared.size().width;
    out.height = prepared.size().height;
    for (int c = 0; c < 3; ++c) {
        SamplePlane plane;
        plane.channel = static_cast<Channel>(c);
        double most = 0;
        cv::minMaxLoc(look.light.channel[c], nullptr, &most);
        // White balance raises channels above the white level; clipping is determined from the frame's own samples.
        plane.values = look.light.channel[c] * (0.9 / std::max(most, 1e-6));
        plane.u0 = part.x + 0.5;
        plane.v0 = part.y + 0.5;
        out.planes.push_back(plane);
    }
    return out;
}

}  // namespace optrel

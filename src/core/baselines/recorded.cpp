// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/recorded.h"

namespace optrel {

std::vector<std::pair<Field, Value>> values_of(const Recorded& r) {
    static constexpr double steps[] = {0, -25, 25}, sharpening[] = {25, 10, 60};
    std::vector<std::pair<Field, Value>> out;
    if (r.contrast >= 0 && r.contrast <= 2) out.push_back({Field::contrast, {steps[r.contrast], ""}});
    if (r.saturation >= 0 && r.saturation <= 2) out.push_back({Field::saturation, {steps[r.saturation], ""}});
    if (r.sharpness >= 0 && r.sharpness <= 2) out.push_back({Field::sharpening_amount, {sharpening[r.sharpness], ""}});
    if (r.rendering) out.push_back({Field::rendering, {0, "as recorded"}});
    return out;
}

}  // namespace optrel

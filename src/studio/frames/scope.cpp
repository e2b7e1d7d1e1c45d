// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/scope.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"

namespace optrel {
namespace fs = std::filesystem;

std::vector<FrameRecord> frames_in(const std::vector<FrameRecord>& all, const std::vector<fs::path>& folders) {
    if (folders.empty()) return all;
    std::vector<fs::path> places;
    std::vector<bool> used(folders.size());
    for (const fs::path& f : folders) places.push_back(plain_path(f));
    std::vector<FrameRecord> out;
    for (const FrameRecord& frame : all) {
        bool inside = false;
        for (std::size_t i = 0; i < places.size(); ++i)
            if (lies_within(frame.path, places[i])) inside = used[i] = true;
        if (inside) out.push_back(frame);
    }
    for (std::size_t i = 0; i < places.size(); ++i)
        if (!used[i])
            throw input_error(
                fmt::format("No frame that the store knows lies in {}; check the path, or index the folder first.",
                            printable(folders[i].string())));
    return out;
}

}  // namespace optrel

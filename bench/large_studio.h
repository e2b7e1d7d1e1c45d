// SPDX-License-Identifier: GPL-3.0-or-later
// A studio of 500 bodies, 2,000 tiers and 200,000 frames, as records only: no picture is made.
#pragma once

#include "store/store.h"

namespace optrel::bench {

struct LargeStudio {
    Register entries;
    std::vector<FrameRecord> frames;
    Revision revision;
};
LargeStudio large_studio(int bodies = 500, int tiers = 2000, int frames = 200000);

/// Makes a small file for each frame below a folder, and says that it lies there.
void make_files(LargeStudio& studio, const std::filesystem::path& folder);

/// Writes it into a store, unless the folder holds one already.
void write_store(const LargeStudio& studio, const std::filesystem::path& folder);

}  // namespace optrel::bench

// SPDX-License-Identifier: GPL-3.0-or-later
// Copies the other parts of a film: tags, chapters, sound, subtitles, attachments.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "libav.h"

namespace optrel::av {

struct Companions {
    std::map<int, AVStream*> streams;   ///< streams of the new film, by their number in the source
    std::vector<std::string> left_out;  ///< one sentence each
};

/// Creates in `to`, before its header is written, everything that is copied from `from`. `video`: number of the
/// corrected stream, `name`: the file that is written. Throws Error(input) when its container cannot represent the
/// sound or the subtitles.
Companions add_companions(AVFormatContext& to, const AVFormatContext& from, int video, const std::string& name);

}  // namespace optrel::av

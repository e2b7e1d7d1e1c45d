// SPDX-License-Identifier: GPL-3.0-or-later
// What a film has beside its pictures, and goes along: tags, chapters, sound, subtitles, attachments.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "libav.h"

namespace optrel::av {

struct Companions {
    std::map<int, AVStream*> streams;   ///< of the new film, by the number of the source's stream
    std::vector<std::string> left_out;  ///< a sentence each
};

/// Makes in `to`, whose header is not written yet, what goes along from `from`. `video` is the number of the pictures
/// that are corrected, `name` the file that is written. Throws Error(input) where its container cannot hold the sound
/// or the subtitles.
Companions add_companions(AVFormatContext& to, const AVFormatContext& from, int video, const std::string& name);

}  // namespace optrel::av

// SPDX-License-Identifier: GPL-3.0-or-later
// Whether the file of a picture is there to its end, by what its container says of itself: a file that is still being
// copied is a picture of half a frame to every reader that does not ask.
#pragma once

#include <filesystem>

namespace optrel {

/// For TIFF, DNG and what is built like them: everything that the directories name lies within the file. For JPEG and
/// PNG: the file ends as they end. For boxes of ISO base media: the last box ends with the file. Other containers do
/// not say; they count as whole, and so does nothing that is empty. Never throws: what cannot be read is not whole.
bool is_whole(const std::filesystem::path& path);

}  // namespace optrel

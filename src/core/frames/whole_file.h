// SPDX-License-Identifier: GPL-3.0-or-later
// Checks by its container whether the file of a picture is complete. Readers that do not check see a file that is still
// being copied as half a picture.
#pragma once

#include <filesystem>

namespace optrel {

/// TIFF, DNG and similar: all data that the directories refer to lie within the file. JPEG and PNG: the file has its
/// end marker. ISO base media: the last box ends with the file. Other containers cannot be checked and count as
/// complete. An empty file, and one that cannot be read, is not complete. Never throws.
bool is_whole(const std::filesystem::path& path);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Pictures as other programs write and read them, by a library that the program itself does not use.
//
// It is loaded when it is asked for: with the hundred libraries that it needs, it would slow the start of every test.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

namespace optrel::test {

/// Blue first, as that library has it; JPEG, PNG or TIFF by the name.
void write_picture(const std::filesystem::path& path, const cv::Mat& picture);
/// As it stands in the file, blue first.
cv::Mat read_picture(const std::filesystem::path& path);

}  // namespace optrel::test

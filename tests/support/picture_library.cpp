// SPDX-License-Identifier: GPL-3.0-or-later
// What pictures.cpp loads.
#include <opencv2/imgcodecs.hpp>

extern "C" bool write_picture(const char* path, const cv::Mat* picture) { return cv::imwrite(path, *picture); }

extern "C" void read_picture(const char* path, cv::Mat* out) { *out = cv::imread(path, cv::IMREAD_UNCHANGED); }

// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/pictures.h"

#include <dlfcn.h>

#include <catch2/catch.hpp>

namespace optrel::test {
namespace {

void* loaded(const char* name) {
    static void* const library = dlopen(OPTREL_TEST_PICTURES, RTLD_LAZY | RTLD_LOCAL);
    void* const found = library ? dlsym(library, name) : nullptr;
    if (!found) FAIL("The library of pictures cannot be loaded: " << dlerror());
    return found;
}

}  // namespace

void write_picture(const std::filesystem::path& path, const cv::Mat& picture) {
    const auto write = reinterpret_cast<bool (*)(const char*, const cv::Mat*)>(loaded("write_picture"));
    if (!write(path.c_str(), &picture)) FAIL("No picture was written to " << path);
}

cv::Mat read_picture(const std::filesystem::path& path) {
    cv::Mat out;
    reinterpret_cast<void (*)(const char*, cv::Mat*)>(loaded("read_picture"))(path.c_str(), &out);
    return out;
}

}  // namespace optrel::test

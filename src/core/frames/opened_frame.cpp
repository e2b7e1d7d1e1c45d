// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/opened_frame.h"

#include <fmt/format.h>

#include <cstring>
#include <exiv2/exiv2.hpp>
#include <fstream>

#include "base/error.h"
#include "base/files.h"
#include "frames/exiv2_guard.h"

namespace optrel {

OpenedFrame::OpenedFrame(std::filesystem::path path) : path_(std::move(path)) {}

OpenedFrame::~OpenedFrame() = default;

OpenedFrame::Container OpenedFrame::container() const {
    if (container_) return *container_;
    require_regular(path_);
    std::ifstream in(path_, std::ios::binary);
    unsigned char head[16] = {};
    in.read(reinterpret_cast<char*>(head), sizeof head);
    const auto got = in.gcount();
    if (got == 0) throw input_error(fmt::format("{} is empty; copy it again from the card.", path_.string()));
    const auto starts = [&](const char* magic, std::size_t n) {
        return got >= static_cast<std::streamsize>(n) && std::memcmp(head, magic, n) == 0;
    };
    if (starts("\xff\xd8\xff", 3) || starts("\x89PNG", 4))
        container_ = Container::rendered;
    else
        container_ = starts("II*\0", 4) || starts("MM\0*", 4) ? Container::tiff : Container::other;
    return *container_;
}

const Exiv2::Image& OpenedFrame::image() const {
    if (image_) return *image_;
    prepare_exiv2();
    auto image = Exiv2::ImageFactory::open(path_.string());
    image->readMetadata();
    image_ = std::move(image);
    return *image_;
}

}  // namespace optrel

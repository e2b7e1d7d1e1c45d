// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/opcode_lists.h"

#include <algorithm>
#include <exiv2/exiv2.hpp>

#include "frames/opcodes.h"

namespace optrel {

std::string lens_corrections_in(const std::array<std::string, 3>& lists) {
    constexpr std::uint32_t corrections[] = {1, 2, 3, 9};  // two warps, two falloffs
    std::string out;
    for (const std::string& list : lists)
        for (const std::uint32_t id : opcode_ids(list)) {
            const std::string name = opcode_name(id);
            if (std::find(std::begin(corrections), std::end(corrections), id) != std::end(corrections) &&
                out.find(name) == std::string::npos)
                out += (out.empty() ? "" : ", ") + name;
        }
    return out;
}

std::array<std::string, 3> opcode_lists_in(const Exiv2::ExifData& exif) {
    constexpr std::size_t most = 64u << 20;
    std::array<std::string, 3> out;
    try {
        long long widest = -1;
        for (const std::string directory : {"Exif.Image.", "Exif.SubImage1.", "Exif.SubImage2.", "Exif.SubImage3."}) {
            const auto find = [&](const std::string& tag) { return exif.findKey(Exiv2::ExifKey(directory + tag)); };
            const auto width = find("ImageWidth");
            if (width == exif.end() || width->count() != 1 || width->toLong() <= widest) continue;
            widest = width->toLong();
            for (int i = 0; i < 3; ++i) {
                const auto list = find("OpcodeList" + std::to_string(i + 1));
                out[i].clear();
                if (list == exif.end() || list->size() == 0 || static_cast<std::size_t>(list->size()) > most) continue;
                out[i].resize(static_cast<std::size_t>(list->size()));
                list->copy(reinterpret_cast<Exiv2::byte*>(out[i].data()), Exiv2::littleEndian);
            }
        }
    } catch (const std::exception&) {
        return {};
    }
    return out;
}

std::array<std::string, 3> read_opcode_lists(const OpenedFrame& frame) {
    try {
        return opcode_lists_in(frame.image().exifData());
    } catch (const std::exception&) {
        return {};
    }
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/opcode_lists.h"

#include <exiv2/exiv2.hpp>

#include "frames/exiv2_guard.h"

namespace optrel {

std::string lens_corrections_in(const std::array<std::string, 3>& lists) {
    // Digital Negative 1.4, chapter 7; all numbers are big-endian.
    constexpr std::array<const char*, 4> names{nullptr, "WarpRectilinear", "WarpFisheye", "FixVignetteRadial"};
    std::string out;
    for (const std::string& list : lists) {
        const auto number_at = [&](std::size_t at) {
            std::uint32_t v = 0;
            for (int k = 0; k < 4; ++k) v = v << 8 | static_cast<unsigned char>(list[at + k]);
            return v;
        };
        if (list.size() < 4) continue;
        std::size_t at = 4;
        for (std::uint32_t left = number_at(0); left > 0 && at + 16 <= list.size(); --left) {
            const std::uint32_t id = number_at(at);
            constexpr std::uint32_t gain_map = 9;
            const char* name = id < names.size() ? names[id] : nullptr;
            if (id == gain_map) name = "GainMap";
            if (name && out.find(name) == std::string::npos) out += (out.empty() ? "" : ", ") + std::string(name);
            const std::size_t next = at + 16 + number_at(at + 12);
            if (next <= at) break;
            at = next;
        }
    }
    return out;
}

std::array<std::string, 3> read_opcode_lists(const std::filesystem::path& path) {
    constexpr std::size_t most = 64u << 20;
    prepare_exiv2();
    std::array<std::string, 3> out;
    try {
        const auto image = Exiv2::ImageFactory::open(path.string());
        image->readMetadata();
        long long widest = -1;
        for (const std::string directory : {"Exif.Image.", "Exif.SubImage1.", "Exif.SubImage2.", "Exif.SubImage3."}) {
            const Exiv2::ExifData& exif = image->exifData();
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

}  // namespace optrel

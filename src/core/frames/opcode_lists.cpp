// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/opcode_lists.h"

#include <exiv2/exiv2.hpp>

#include "frames/exiv2_guard.h"

namespace optrel {

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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/export_metadata.h"

#include <exiv2/exiv2.hpp>

#include "frames/exiv2_guard.h"

namespace optrel {

std::string account_in(const std::filesystem::path& file) {
    prepare_exiv2();
    try {
        const auto image = Exiv2::ImageFactory::open(file.string());
        image->readMetadata();
        const Exiv2::XmpData& xmp = image->xmpData();
        const auto said = xmp.findKey(Exiv2::XmpKey("Xmp.optrel.account"));
        return said == xmp.end() ? std::string() : said->toString();
    } catch (const std::exception&) {
        return {};
    }
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/export_metadata.h"

#include <fmt/format.h>

#include "base/error.h"
#include "frames/chosen_metadata.h"
#include "frames/exiv2_guard.h"

namespace optrel {

void copy_metadata(const std::filesystem::path& picture, const cv::Size& size, const ExportFacts& facts) {
    prepare_exiv2();
    try {
        const auto target = Exiv2::ImageFactory::open(picture.string());
        target->readMetadata();
        const std::lock_guard<std::mutex> lock(exiv2_mutex());
        const ChosenMetadata chosen = chosen_metadata(facts.frame, facts.metadata, facts.keep, facts.scale);
        Exiv2::ExifData& exif = target->exifData();
        for (const Exiv2::Exifdatum& datum : chosen.exif) exif.add(Exiv2::ExifKey(datum.key()), &datum.value());
        exif["Exif.Photo.PixelXDimension"] = static_cast<std::uint32_t>(size.width);
        exif["Exif.Photo.PixelYDimension"] = static_cast<std::uint32_t>(size.height);
        exif["Exif.Image.Orientation"] = static_cast<std::uint16_t>(1);
        exif["Exif.Image.Software"] = "Optrel " OPTREL_VERSION;
        for (const Exiv2::Xmpdatum& datum : chosen.xmp) target->xmpData().add(datum);
        for (const auto& [name, text] : facts.correction) target->xmpData()["Xmp.optrel." + name] = text;
        if (!chosen.iptc.empty()) target->setIptcData(chosen.iptc);
        target->writeMetadata();
    } catch (const std::exception& error) {
        throw file_error(
            fmt::format("The metadata of {} cannot be written into the export ({}); check the space on the disk.",
                        facts.frame.string(), error.what()));
    }
}

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

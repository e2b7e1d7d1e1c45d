// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/export_metadata.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <exiv2/exiv2.hpp>
#include <set>

#include "base/error.h"
#include "frames/exiv2_guard.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

bool travels(const Exiv2::Exifdatum& datum) {
    static const std::set<std::string> of_image{
        "ImageDescription", "Make",    "Model",     "DateTime", "Artist",     "Copyright", "DocumentName",
        "HostComputer",     "XPTitle", "XPComment", "XPAuthor", "XPKeywords", "XPSubject", "Rating"};
    static const std::set<std::string> stays_of_photo{"MakerNote",
                                                      "PixelXDimension",
                                                      "PixelYDimension",
                                                      "InteroperabilityTag",
                                                      "FocalPlaneXResolution",
                                                      "FocalPlaneYResolution",
                                                      "FocalPlaneResolutionUnit",
                                                      "ColorSpace",
                                                      "ComponentsConfiguration",
                                                      "CompressedBitsPerPixel"};
    const std::string group = datum.groupName();
    if (datum.count() == 0 || datum.size() > 60000) return false;
    if (group == "Image") return of_image.count(datum.tagName()) > 0;
    if (group == "Photo") return stays_of_photo.count(datum.tagName()) == 0;
    return group == "GPSInfo";
}

/// Descriptions, rights and places travel, by the names that the open schemas give them, in whichever namespace they
/// stand.
bool travels(const Exiv2::Xmpdatum& datum) {
    static const std::set<std::string> schemas{"dc", "iptc", "iptcExt", "xmpRights", "plus"};
    static const std::set<std::string> words{
        "City",   "State",        "Country",       "CountryCode",     "Location", "Headline", "Credit",
        "Source", "Instructions", "CaptionWriter", "AuthorsPosition", "Rating",   "Label"};
    const std::string tag = datum.tagName();
    return tag != "format" && (schemas.count(datum.groupName()) > 0 || words.count(tag) > 0);
}

/// Without a sign, as the standard has these: readers that keep to it ignore one with a sign.
void set_rational(Exiv2::ExifData& exif, const char* key, double value) {
    if (!(value > 0 && std::isfinite(value))) return;
    const auto [over, under] = Exiv2::floatToRationalCast(static_cast<float>(value));
    exif[key] = Exiv2::URational(static_cast<std::uint32_t>(over), static_cast<std::uint32_t>(under));
}
void set_text(Exiv2::ExifData& exif, const char* key, const std::string& text) {
    if (!text.empty()) exif[key] = text;
}

/// What is known of the frame counts more than what its file says: a lens may have been claimed for it.
void set_facts(Exiv2::ExifData& exif, const ExportFacts& facts) {
    const Metadata& m = facts.metadata;
    set_text(exif, "Exif.Image.Make", m.maker);
    set_text(exif, "Exif.Image.Model", m.model);
    set_text(exif, "Exif.Photo.BodySerialNumber", m.body_serial);
    set_text(exif, "Exif.Photo.LensModel", m.lens);
    set_text(exif, "Exif.Photo.LensSerialNumber", m.lens_serial);
    set_text(exif, "Exif.Photo.DateTimeOriginal", m.time);
    set_rational(exif, "Exif.Photo.FocalLength", m.focal_mm);
    set_rational(exif, "Exif.Photo.FNumber", m.aperture);
    set_rational(exif, "Exif.Photo.SubjectDistance", m.distance_m);
    if (m.iso > 0 && m.iso < 65536) exif["Exif.Photo.ISOSpeedRatings"] = static_cast<std::uint16_t>(m.iso);
    if (m.pitch_um > 0) {
        const double per_cm = 1e4 / m.pitch_um * facts.scale;
        set_rational(exif, "Exif.Photo.FocalPlaneXResolution", per_cm);
        set_rational(exif, "Exif.Photo.FocalPlaneYResolution", per_cm);
        exif["Exif.Photo.FocalPlaneResolutionUnit"] = static_cast<std::uint16_t>(3);  // centimetre
    }
    exif["Exif.Photo.PixelXDimension"] = static_cast<std::uint32_t>(facts.width);
    exif["Exif.Photo.PixelYDimension"] = static_cast<std::uint32_t>(facts.height);
    exif["Exif.Image.Orientation"] = static_cast<std::uint16_t>(1);
    exif["Exif.Image.Software"] = "Optrel " OPTREL_VERSION;
}

}  // namespace

void copy_metadata(const fs::path& frame, const fs::path& tiff, const ExportFacts& facts) {
    prepare_exiv2();
    try {
        const auto target = Exiv2::ImageFactory::open(tiff.string());
        target->readMetadata();
        Exiv2::ExifData& exif = target->exifData();
        const std::lock_guard<std::mutex> lock(exiv2_mutex());
        try {
            const auto source = Exiv2::ImageFactory::open(frame.string());
            source->readMetadata();
            for (const Exiv2::Exifdatum& datum : source->exifData())
                if (travels(datum)) exif.add(Exiv2::ExifKey(datum.key()), &datum.value());
            for (const Exiv2::Xmpdatum& datum : source->xmpData())
                if (travels(datum)) target->xmpData().add(datum);
            target->setIptcData(source->iptcData());
        } catch (const std::exception&) {
            // A frame whose metadata cannot be read has none that could be kept.
        }
        set_facts(exif, facts);
        target->writeMetadata();
    } catch (const std::exception& error) {
        throw file_error(
            fmt::format("The metadata of {} cannot be written into the export ({}); check the space on the disk.",
                        frame.string(), error.what()));
    }
}

}  // namespace optrel

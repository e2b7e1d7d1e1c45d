// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/picture_metadata.h"

#include <fmt/format.h>

#include "base/error.h"
#include "frames/exiv2_guard.h"

namespace optrel {

namespace {

/// Sets a value of type UNDEFINED from bytes.
void set_bytes(Exiv2::ExifData& exif, const char* key, const std::string& bytes) {
    Exiv2::DataValue value;
    value.read(reinterpret_cast<const Exiv2::byte*>(bytes.data()), static_cast<long>(bytes.size()),
               Exiv2::littleEndian);
    exif[key].setValue(&value);
}

void set_resolution(Exiv2::ExifData& exif, const PrintResolution& resolution) {
    constexpr std::uint16_t inch = 2, centimetre = 3;
    const auto [over, under] = Exiv2::floatToRationalCast(static_cast<float>(resolution.pixels));
    for (const char* key : {"Exif.Image.XResolution", "Exif.Image.YResolution"})
        exif[key] = Exiv2::URational(static_cast<std::uint32_t>(over), static_cast<std::uint32_t>(under));
    exif["Exif.Image.ResolutionUnit"] = resolution.per_cm ? centimetre : inch;
}

}  // namespace

ChosenMetadata picture_metadata(const ExportFacts& facts, const PictureCoding& coding, const cv::Size& size) {
    ChosenMetadata out = chosen_metadata(facts.frame, facts.metadata, facts.keep, facts.scale);
    Exiv2::ExifData& exif = out.exif;
    constexpr std::uint16_t srgb = 1, uncalibrated = 0xffff, top_left = 1, centred = 1;
    set_bytes(exif, "Exif.Photo.ExifVersion", "0232");
    set_bytes(exif, "Exif.Photo.FlashpixVersion", "0100");
    exif["Exif.Photo.ColorSpace"] = coding.srgb ? srgb : uncalibrated;
    set_resolution(exif, coding.resolution);
    if (coding.format == PictureFormat::tiff) return out;
    exif["Exif.Image.Orientation"] = top_left;
    exif["Exif.Image.Software"] = "Optrel " OPTREL_VERSION;
    exif["Exif.Photo.PixelXDimension"] = static_cast<std::uint32_t>(size.width);
    exif["Exif.Photo.PixelYDimension"] = static_cast<std::uint32_t>(size.height);
    if (coding.format == PictureFormat::jpeg) {
        exif["Exif.Image.YCbCrPositioning"] = centred;
        set_bytes(exif, "Exif.Photo.ComponentsConfiguration", std::string("\1\2\3\0", 4));
    }
    return out;
}

std::string xmp_packet(const ChosenMetadata& chosen, const XmpProperties& properties) {
    Exiv2::XmpData xmp = chosen.xmp;
    for (const auto& [name, text] : properties) xmp["Xmp.optrel." + name] = text;
    std::string packet;
    if (xmp.empty()) return packet;
    Exiv2::XmpParser::encode(packet, xmp, Exiv2::XmpParser::useCompactFormat);
    return packet;
}

void put_into_jpeg(const std::filesystem::path& picture, const ChosenMetadata& chosen, const ExportFacts& facts) {
    try {
        const auto target = Exiv2::ImageFactory::open(picture.string());
        target->readMetadata();
        target->setExifData(chosen.exif);
        target->setXmpData(chosen.xmp);
        for (const auto& [name, text] : facts.correction) target->xmpData()["Xmp.optrel." + name] = text;
        if (!chosen.iptc.empty()) target->setIptcData(chosen.iptc);
        target->writeMetadata();
    } catch (const std::exception& error) {
        throw file_error(
            fmt::format("The metadata of {} cannot be written into the export ({}); check the space on the disk.",
                        facts.frame.string(), error.what()));
    }
}

std::string exif_block(const ChosenMetadata& chosen) {
    Exiv2::Blob blob;
    Exiv2::ExifData exif = chosen.exif;
    Exiv2::ExifParser::encode(blob, Exiv2::littleEndian, exif);
    return {blob.begin(), blob.end()};
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/chosen_metadata.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "frames/exiv2_guard.h"

namespace optrel {

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

/// Descriptions, rights and places are copied, recognised by their names in the open schemas, in any
/// namespace.
bool travels(const Exiv2::Xmpdatum& datum) {
    static const std::set<std::string> schemas{"dc", "iptc", "iptcExt", "xmpRights", "plus"};
    static const std::set<std::string> words{
        "City",   "State",        "Country",       "CountryCode",     "Location", "Headline", "Credit",
        "Source", "Instructions", "CaptionWriter", "AuthorsPosition", "Rating",   "Label"};
    const std::string tag = datum.tagName();
    return tag != "format" && (schemas.count(datum.groupName()) > 0 || words.count(tag) > 0);
}

/// True when the choice includes a property, judged by its name; the names are the same in Exif, IPTC and XMP.
bool kept(const MetadataChoice& keep, const std::string& group, const std::string& tag) {
    const auto says = [&](std::initializer_list<const char*> parts) {
        return std::any_of(parts.begin(), parts.end(),
                           [&](const char* part) { return tag.find(part) != std::string::npos; });
    };
    if (group == "GPSInfo") return keep.place;
    if (says({"Serial", "UniqueID", "DocumentID", "InstanceID"})) return keep.serials;
    if (says({"OwnerName"})) return keep.rights;
    if (group == "Photo") return tag == "UserComment" ? keep.description : keep.exposure;
    if (group == "Image" && (tag == "Make" || tag == "Model")) return true;
    if (group == "Image" && tag == "DateTime") return keep.exposure;
    if (says({"City", "Location", "Country", "Province", "State"})) return keep.place;
    if (group == "xmpRights" || group == "plus" ||
        says({"Artist", "Copyright", "Author", "Creator", "creator", "rights", "Credit", "Source", "Byline"}))
        return keep.rights;
    return keep.description;
}

/// Unsigned, as the standard requires: strict readers ignore signed values.
void set_rational(Exiv2::ExifData& exif, const char* key, double value) {
    if (!(value > 0 && std::isfinite(value))) return;
    const auto [over, under] = Exiv2::floatToRationalCast(static_cast<float>(value));
    exif[key] = Exiv2::URational(static_cast<std::uint32_t>(over), static_cast<std::uint32_t>(under));
}
void set_text(Exiv2::ExifData& exif, const char* key, const std::string& text) {
    if (!text.empty()) exif[key] = text;
}

/// The known facts of a frame override its file: a lens may have been claimed for it.
void set_facts(Exiv2::ExifData& exif, const Metadata& m, const MetadataChoice& keep, double scale) {
    set_text(exif, "Exif.Image.Make", m.maker);
    set_text(exif, "Exif.Image.Model", m.model);
    if (keep.serials) {
        set_text(exif, "Exif.Photo.BodySerialNumber", m.body_serial);
        set_text(exif, "Exif.Photo.LensSerialNumber", m.lens_serial);
    }
    if (keep.exposure) {
        set_text(exif, "Exif.Photo.LensModel", m.lens);
        set_text(exif, "Exif.Photo.DateTimeOriginal", m.time);
        set_rational(exif, "Exif.Photo.FocalLength", m.focal_mm);
        set_rational(exif, "Exif.Photo.FNumber", m.aperture);
        set_rational(exif, "Exif.Photo.SubjectDistance", m.distance_m);
        set_rational(exif, "Exif.Photo.ExposureTime", m.exposure_s);
        if (m.iso > 0 && m.iso < 65536) exif["Exif.Photo.ISOSpeedRatings"] = static_cast<std::uint16_t>(m.iso);
    }
    if (m.pitch_um > 0) {
        const double per_cm = 1e4 / m.pitch_um * scale;
        set_rational(exif, "Exif.Photo.FocalPlaneXResolution", per_cm);
        set_rational(exif, "Exif.Photo.FocalPlaneYResolution", per_cm);
        exif["Exif.Photo.FocalPlaneResolutionUnit"] = static_cast<std::uint16_t>(3);  // centimetre
    }
}

/// The maker's block unchanged, with its original position, because its offsets often count from there.
void take_maker_note(const Exiv2::ExifData& exif, const Exiv2::Exifdatum& note, ChosenMetadata& out) {
    if (note.size() == 0 || note.size() > (16u << 20)) return;
    out.maker_note.resize(note.size());
    note.copy(reinterpret_cast<Exiv2::byte*>(out.maker_note.data()), Exiv2::littleEndian);
    const auto place = exif.findKey(Exiv2::ExifKey("Exif.MakerNote.Offset"));
    if (place != exif.end() && place->count() == 1) out.maker_note_at = static_cast<std::uint32_t>(place->toLong());
    const auto order = exif.findKey(Exiv2::ExifKey("Exif.MakerNote.ByteOrder"));
    out.maker_note_little_endian = order != exif.end() && order->toString() == "II";
}

}  // namespace

ChosenMetadata chosen_metadata(const std::filesystem::path& frame, const Metadata& known, const MetadataChoice& keep,
                               double scale) {
    prepare_exiv2();
    ChosenMetadata out;
    try {
        const auto source = Exiv2::ImageFactory::open(frame.string());
        source->readMetadata();
        for (const Exiv2::Exifdatum& datum : source->exifData()) {
            if (datum.key() == "Exif.Photo.MakerNote") take_maker_note(source->exifData(), datum, out);
            if (travels(datum) && kept(keep, datum.groupName(), datum.tagName()))
                out.exif.add(Exiv2::ExifKey(datum.key()), &datum.value());
        }
        for (const Exiv2::Xmpdatum& datum : source->xmpData())
            if (travels(datum) && kept(keep, datum.groupName(), datum.tagName())) out.xmp.add(datum);
        for (const Exiv2::Iptcdatum& datum : source->iptcData())
            if (kept(keep, datum.groupName(), datum.tagName())) out.iptc.add(datum);
    } catch (const std::exception&) {
        // A frame whose metadata cannot be read has none to copy.
    }
    set_facts(out.exif, known, keep, scale);
    return out;
}

ChosenMetadata stated_metadata(const Metadata& known) {
    prepare_exiv2();
    ChosenMetadata out;
    set_facts(out.exif, known, MetadataChoice(), 1);
    const auto set_level = [&](const char* key, int level) {
        if (level >= 0) out.exif[key] = static_cast<std::uint16_t>(level);
    };
    set_level("Exif.Photo.Contrast", known.recorded_contrast);
    set_level("Exif.Photo.Saturation", known.recorded_saturation);
    set_level("Exif.Photo.Sharpness", known.recorded_sharpness);
    out.exif["Exif.Photo.ExifVersion"] = std::string("48 50 51 50");  // "0232", which Exif requires
    return out;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/exif_directories.h"

#include "frames/picture_metadata.h"
#include "frames/tiff_tags.h"

namespace optrel {

namespace {

/// Adds one property to a directory; types that TIFF 6.0 lacks become bytes.
void put_datum(Ifd& ifd, const Exiv2::Exifdatum& datum) {
    std::string value(datum.size(), '\0');
    datum.copy(reinterpret_cast<Exiv2::byte*>(value.data()), Exiv2::littleEndian);
    const int type = datum.typeId();
    const bool known = type >= 1 && type <= 12;
    ifd.bytes(datum.tag(), known ? static_cast<TiffType>(type) : TiffType::undefined,
              static_cast<std::uint32_t>(known ? datum.count() : value.size()), value);
}

/// Returns its new position.
std::uint32_t put_maker_note(TiffFile& file, const ChosenMetadata& chosen) {
    constexpr std::uint32_t nearby = 256 << 10;
    const std::uint32_t at = chosen.maker_note_at;
    if (at > file.next() && at < nearby && at % 2 == 0) file.fill_to(at);
    return file.block(chosen.maker_note);
}

}  // namespace

void put_metadata(TiffFile& file, Ifd& main, const ChosenMetadata& chosen, const XmpProperties& properties,
                  bool with_maker_note) {
    Ifd photo, gps;
    if (with_maker_note && !chosen.maker_note.empty()) {
        const std::uint32_t at = put_maker_note(file, chosen);
        photo.placed(tag::maker_note, TiffType::undefined, static_cast<std::uint32_t>(chosen.maker_note.size()), at);
        main.u16(tag::maker_note_safety, {at == chosen.maker_note_at && chosen.maker_note_little_endian ? 1 : 0});
    }
    for (const Exiv2::Exifdatum& datum : chosen.exif) {
        const std::string group = datum.groupName();
        if (group == "Image" && !main.has(datum.tag())) put_datum(main, datum);
        if (group == "Photo" && !photo.has(datum.tag())) put_datum(photo, datum);
        if (group == "GPSInfo" && !gps.has(datum.tag())) put_datum(gps, datum);
    }
    if (!photo.empty()) main.u32(tag::exif_ifd, {file.directory(photo)});
    if (!gps.empty()) main.u32(tag::gps_ifd, {file.directory(gps)});
    const auto put_bytes = [&](std::uint16_t tag, TiffType type, const std::string& bytes) {
        if (!bytes.empty()) main.bytes(tag, type, static_cast<std::uint32_t>(bytes.size()), bytes);
    };
    put_bytes(tag::xmp_packet, TiffType::byte, xmp_packet(chosen, properties));
    if (chosen.iptc.empty()) return;
    const Exiv2::DataBuf records = Exiv2::IptcParser::encode(chosen.iptc);
    put_bytes(tag::iptc, TiffType::undefined,
              {reinterpret_cast<const char*>(records.pData_), static_cast<std::size_t>(records.size_)});
}

}  // namespace optrel

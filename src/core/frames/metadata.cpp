#include "frames/metadata.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <exiv2/exiv2.hpp>
#include <fstream>

#include "base/error.h"
#include "frames/exiv2_guard.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

std::string trimmed(std::string text) {
    const auto blank = [](unsigned char c) { return c <= ' '; };
    text.erase(text.begin(), std::find_if_not(text.begin(), text.end(), blank));
    text.erase(std::find_if_not(text.rbegin(), text.rend(), blank).base(), text.end());
    return text;
}

using Getter = Exiv2::ExifData::const_iterator (*)(const Exiv2::ExifData&);

/// The value as stored; a maker's own pretty printing is not asked for, because it varies.
std::string text_of(const Exiv2::ExifData& exif, Getter get) {
    const auto it = get(exif);
    return it == exif.end() ? "" : trimmed(it->toString());
}
std::string text_of(const Exiv2::ExifData& exif, const char* key) {
    const auto it = exif.findKey(Exiv2::ExifKey(key));
    return it == exif.end() ? "" : trimmed(it->toString());
}
double number_of(const Exiv2::Exifdatum& datum) {
    if (datum.count() == 0) return 0;
    const Exiv2::Rational r = datum.toRational();
    if (datum.typeId() == Exiv2::unsignedRational || datum.typeId() == Exiv2::signedRational) return r.second ? double(r.first) / r.second : 0;
    return datum.toFloat();
}
double number_of(const Exiv2::ExifData& exif, Getter get) {
    const auto it = get(exif);
    return it == exif.end() ? 0 : number_of(*it);
}
double number_of(const Exiv2::ExifData& exif, const char* key) {
    const auto it = exif.findKey(Exiv2::ExifKey(key));
    return it == exif.end() ? 0 : number_of(*it);
}

double sane(double value, double low, double high) { return std::isfinite(value) && value >= low && value <= high ? value : 0; }

double pitch_um(const Exiv2::ExifData& exif) {
    for (const std::string group : {"Exif.Photo.", "Exif.Image."}) {
        const double resolution = number_of(exif, (group + "FocalPlaneXResolution").c_str());
        if (resolution <= 0) continue;
        const int unit = static_cast<int>(number_of(exif, (group + "FocalPlaneResolutionUnit").c_str()));
        const double unit_um = unit == 3 ? 1e4 : unit == 4 ? 1e3 : unit == 5 ? 1 : 25400;
        if (const double pitch = sane(unit_um / resolution, 0.5, 100); pitch > 0) return pitch;
    }
    return 0;
}

}  // namespace

FrameKind sniff_kind(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    if (!in || fs::is_directory(path)) throw file_error(fmt::format("Cannot read {}: there is no such file, or it may not be read; check the path.", path.string()));
    unsigned char head[16] = {};
    in.read(reinterpret_cast<char*>(head), sizeof head);
    const auto got = in.gcount();
    if (got == 0) throw input_error(fmt::format("{} is empty; copy it again from the card.", path.string()));
    const auto starts = [&](const char* magic, std::size_t n) { return got >= static_cast<std::streamsize>(n) && std::memcmp(head, magic, n) == 0; };
    if (starts("\xff\xd8\xff", 3) || starts("\x89PNG", 4)) return FrameKind::rendered;
    if (starts("II*\0", 4) || starts("MM\0*", 4)) {
        // A TIFF container is raw when it says so (a DNG version or a colour filter array), rendered otherwise.
        std::lock_guard<std::mutex> lock(exiv2_mutex());
        try {
            const auto image = Exiv2::ImageFactory::open(path.string());
            image->readMetadata();
            const Exiv2::ExifData& exif = image->exifData();
            const auto has = [&](const char* key) { return exif.findKey(Exiv2::ExifKey(key)) != exif.end(); };
            if (has("Exif.Image.DNGVersion") || has("Exif.Image.CFAPattern") || has("Exif.SubImage1.CFAPattern")) return FrameKind::raw;
            const auto photometric = exif.findKey(Exiv2::ExifKey("Exif.Image.PhotometricInterpretation"));
            const auto bits = exif.findKey(Exiv2::ExifKey("Exif.Image.SamplesPerPixel"));
            const bool picture = photometric != exif.end() && (photometric->toLong() == 2 || photometric->toLong() == 1) && bits != exif.end();
            const std::string extension = path.extension().string();
            const bool named_tiff = extension == ".tif" || extension == ".tiff" || extension == ".TIF" || extension == ".TIFF";
            return picture && named_tiff ? FrameKind::rendered : FrameKind::raw;
        } catch (const Exiv2::AnyError&) {
            return FrameKind::raw;  // the raw reader says what is wrong with it
        }
    }
    return FrameKind::raw;
}

Metadata read_metadata(const fs::path& path) {
    Metadata m;
    m.kind = sniff_kind(path);
    std::lock_guard<std::mutex> lock(exiv2_mutex());
    try {
        const auto image = Exiv2::ImageFactory::open(path.string());
        image->readMetadata();
        const Exiv2::ExifData& exif = image->exifData();
        m.maker = text_of(exif, Exiv2::make);
        m.model = text_of(exif, Exiv2::model);
        m.body_serial = text_of(exif, "Exif.Photo.BodySerialNumber");
        if (m.body_serial.empty()) m.body_serial = text_of(exif, "Exif.Image.CameraSerialNumber");
        if (m.body_serial.empty()) m.body_serial = text_of(exif, Exiv2::serialNumber);
        m.lens = text_of(exif, "Exif.Photo.LensModel");
        if (m.lens.empty())
            if (const auto it = Exiv2::lensName(exif); it != exif.end()) m.lens = trimmed(it->print(&exif));
        m.lens_serial = text_of(exif, "Exif.Photo.LensSerialNumber");
        m.focal_mm = sane(number_of(exif, Exiv2::focalLength), 0.5, 5000);
        m.aperture = sane(number_of(exif, Exiv2::fNumber), 0.3, 512);
        m.iso = static_cast<int>(std::lround(sane(number_of(exif, Exiv2::isoSpeed), 1, 2e7)));
        m.distance_m = sane(number_of(exif, Exiv2::subjectDistance), 0.001, 1e5);
        m.pitch_um = pitch_um(exif);
        m.width = static_cast<int>(image->pixelWidth());
        m.height = static_cast<int>(image->pixelHeight());
        // A raw file may keep a preview in front and the picture itself in a sub-directory: the largest one counts.
        for (const std::string sub : {"Exif.SubImage1.", "Exif.SubImage2.", "Exif.SubImage3."}) {
            const int width = static_cast<int>(number_of(exif, (sub + "ImageWidth").c_str()));
            if (width <= m.width) continue;
            m.width = width;
            m.height = static_cast<int>(number_of(exif, (sub + "ImageLength").c_str()));
        }
        m.time = text_of(exif, "Exif.Photo.DateTimeOriginal");
    } catch (const Exiv2::AnyError& error) {
        throw input_error(fmt::format("The metadata of {} cannot be read ({}): the file is truncated or no picture; copy it again from the card.",
                                      path.string(), error.what()));
    }
    return m;
}

std::string camera_name(const Metadata& m) {
    if (m.maker.empty() || m.model.rfind(m.maker, 0) == 0) return m.model;
    return m.model.empty() ? m.maker : m.maker + " " + m.model;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/metadata.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <exiv2/exiv2.hpp>
#include <fstream>
#include <set>

#include "base/choose.h"
#include "base/error.h"
#include "base/files.h"
#include "base/words.h"
#include "frames/colour_profile.h"
#include "frames/opcode_lists.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

using Container = OpenedFrame::Container;
using Getter = Exiv2::ExifData::const_iterator (*)(const Exiv2::ExifData&);

/// The stored value; Exiv2's display texts of makers are not used, because they vary.
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
    if (datum.typeId() == Exiv2::unsignedRational || datum.typeId() == Exiv2::signedRational)
        return r.second ? double(r.first) / r.second : 0;
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

double sane(double value, double low, double high) {
    return std::isfinite(value) && value >= low && value <= high ? value : 0;
}

double pitch_um(const Exiv2::ExifData& exif) {
    for (const std::string group : {"Exif.Photo.", "Exif.Image."}) {
        const double resolution = number_of(exif, (group + "FocalPlaneXResolution").c_str());
        if (resolution <= 0) continue;
        const int unit = static_cast<int>(number_of(exif, (group + "FocalPlaneResolutionUnit").c_str()));
        const double unit_um = first_of<double>({{unit == 3, 1e4}, {unit == 4, 1e3}, {unit == 5, 1}}, 25400);
        if (const double pitch = sane(unit_um / resolution, 0.5, 100); pitch > 0) return pitch;
    }
    return 0;
}

/// All serial numbers in the file, that of the body first: the standard tags, then numbers that a maker's
/// directory calls serial numbers. Internal numbers and those of lenses, flashes and batteries do not count as
/// the body's.
void read_serials(const Exiv2::ExifData& exif, Metadata& m) {
    const auto plausible = [](const std::string& s) {
        return !s.empty() && s.size() <= 64 && s.find_first_not_of("0 .-") != std::string::npos &&
               std::all_of(s.begin(), s.end(), [](unsigned char c) { return c >= 32 && c < 127; });
    };
    const auto internal = [](const std::string& name) { return name.find("Internal") != std::string::npos; };
    const auto take_body = [&](const std::string& s) {
        if (m.body_serial.empty() && plausible(s)) m.body_serial = s;
    };
    take_body(text_of(exif, "Exif.Photo.BodySerialNumber"));
    take_body(text_of(exif, "Exif.Image.CameraSerialNumber"));
    if (const auto it = Exiv2::serialNumber(exif); it != exif.end() && !internal(it->tagName()))
        take_body(trimmed(it->toString()));
    std::set<std::string> others;
    for (const Exiv2::Exifdatum& datum : exif) {
        const std::string name = datum.tagName();
        if (name.find("SerialNumber") == std::string::npos || datum.count() > 64) continue;
        bool foreign = false;
        for (const char* part : {"Lens", "Flash", "Battery", "converter", "Format", "Accessory"})
            foreign = foreign || name.find(part) != std::string::npos;
        if (foreign) continue;
        if (const std::string s = trimmed(datum.toString()); plausible(s) && s != m.body_serial) others.insert(s);
    }
    m.other_serials.assign(others.begin(), others.end());
}

/// The colour filter as four letters, from the TIFF/EP tag of the directory that holds the mosaic.
std::string filter_of(const Exiv2::ExifData& exif) {
    for (const char* key : {"Exif.Image.CFAPattern", "Exif.SubImage1.CFAPattern", "Exif.SubImage2.CFAPattern",
                            "Exif.SubImage3.CFAPattern"}) {
        const auto it = exif.findKey(Exiv2::ExifKey(key));
        if (it == exif.end() || it->count() != 4) continue;
        std::string out;
        for (long i = 0; i < 4; ++i) {
            const long colour = it->toLong(i);
            if (colour >= 0 && colour <= 6) out += "RGBCMYW"[colour];
        }
        if (out.size() == 4) return out;
    }
    return "";
}

/// The camera's own rendering settings, by the tags of Exif.
void read_recorded(const Exiv2::ExifData& exif, Metadata& m) {
    const auto level = [&](const char* key) {
        const auto it = exif.findKey(Exiv2::ExifKey(key));
        return it != exif.end() && it->count() == 1 && it->toLong() >= 0 && it->toLong() <= 2
                   ? static_cast<int>(it->toLong())
                   : -1;
    };
    m.recorded_contrast = level("Exif.Photo.Contrast");
    m.recorded_saturation = level("Exif.Photo.Saturation");
    m.recorded_sharpness = level("Exif.Photo.Sharpness");
    m.recorded_rendering = exif.findKey(Exiv2::ExifKey("Exif.Image.ProfileToneCurve")) != exif.end() ||
                           number_of(exif, "Exif.Image.BaselineExposure") != 0;
}

/// A TIFF container is raw when its tags say so (a DNG version or a colour filter array), otherwise rendered.
FrameKind kind_of_tiff(const Exiv2::ExifData& exif, const fs::path& path) {
    const auto has = [&](const char* key) { return exif.findKey(Exiv2::ExifKey(key)) != exif.end(); };
    if (has("Exif.Image.DNGVersion") || has("Exif.Image.CFAPattern") || has("Exif.SubImage1.CFAPattern"))
        return FrameKind::raw;
    const auto photometric = exif.findKey(Exiv2::ExifKey("Exif.Image.PhotometricInterpretation"));
    const bool picture = photometric != exif.end() && photometric->count() > 0 &&
                         (photometric->toLong() == 2 || photometric->toLong() == 1) &&
                         has("Exif.Image.SamplesPerPixel");
    const std::string extension = lowered_extension(path);
    return picture && (extension == ".tif" || extension == ".tiff") ? FrameKind::rendered : FrameKind::raw;
}

/// Some files contain a placeholder such as "0.0 mm f/0.0" when the lens is unknown.
bool names_a_lens(const std::string& text) {
    const std::string lower = lowered(text);
    for (const char* nothing : {"unknown", "unknown lens", "n/a", "none", "no lens", "not available"})
        if (lower == nothing) return false;
    std::string rest = text;
    for (const char* word : {"mm", "f/", "F/", "f", "F"})
        for (std::size_t at = 0; (at = rest.find(word, at)) != std::string::npos;) rest.erase(at, std::strlen(word));
    return std::any_of(rest.begin(), rest.end(),
                       [](unsigned char c) { return std::isalpha(c) || (std::isdigit(c) && c != '0'); });
}

}  // namespace

bool named_as_picture(const std::filesystem::path& path) {
    static const char* extensions[] = {".dng", ".tif", ".tiff", ".jpg", ".jpeg", ".png", ".nef", ".cr2",
                                       ".cr3", ".arw", ".raf",  ".orf", ".rw2",  ".pef", ".raw"};
    const std::string extension = lowered_extension(path);
    return std::find(std::begin(extensions), std::end(extensions), extension) != std::end(extensions);
}

FrameKind sniff_kind(const OpenedFrame& frame) {
    const Container container = frame.container();
    if (container != Container::tiff) return container == Container::rendered ? FrameKind::rendered : FrameKind::raw;
    try {
        return kind_of_tiff(frame.image().exifData(), frame.path());
    } catch (const std::exception&) {
        return FrameKind::raw;  // the raw reader reports the error
    }
}

Metadata read_metadata(const OpenedFrame& frame) {
    Metadata m;
    const fs::path& path = frame.path();
    const Container container = frame.container();
    m.kind = container == Container::rendered ? FrameKind::rendered : FrameKind::raw;
    try {
        const Exiv2::Image& image = frame.image();
        const Exiv2::ExifData& exif = image.exifData();
        if (container == Container::tiff) m.kind = kind_of_tiff(exif, path);
        m.maker = text_of(exif, Exiv2::make);
        m.model = text_of(exif, Exiv2::model);
        read_serials(exif, m);
        m.lens = text_of(exif, "Exif.Photo.LensModel");
        if (m.lens.empty())
            if (const auto it = Exiv2::lensName(exif); it != exif.end()) m.lens = trimmed(it->print(&exif));
        if (!names_a_lens(m.lens)) m.lens.clear();
        m.lens_serial = text_of(exif, "Exif.Photo.LensSerialNumber");
        if (m.lens_serial.find_first_not_of("0 .-") == std::string::npos) m.lens_serial.clear();
        m.focal_mm = sane(number_of(exif, Exiv2::focalLength), 0.5, 5000);
        m.aperture = sane(number_of(exif, Exiv2::fNumber), 0.3, 512);
        m.iso = static_cast<int>(std::lround(sane(number_of(exif, Exiv2::isoSpeed), 1, 2e7)));
        m.equivalent_mm = static_cast<int>(sane(number_of(exif, "Exif.Photo.FocalLengthIn35mmFilm"), 1, 20000));
        m.distance_m = sane(number_of(exif, Exiv2::subjectDistance), 0.001, 1e5);
        m.pitch_um = pitch_um(exif);
        m.filter = filter_of(exif);
        read_recorded(exif, m);
        m.width = static_cast<int>(image.pixelWidth());
        m.height = static_cast<int>(image.pixelHeight());
        // A raw file may begin with a preview and have the picture in a sub-directory, so the largest picture counts.
        for (const std::string sub : {"Exif.SubImage1.", "Exif.SubImage2.", "Exif.SubImage3."}) {
            const int width = static_cast<int>(number_of(exif, (sub + "ImageWidth").c_str()));
            if (width <= m.width) continue;
            m.width = width;
            m.height = static_cast<int>(number_of(exif, (sub + "ImageLength").c_str()));
        }
        m.time = text_of(exif, "Exif.Photo.DateTimeOriginal");
        m.carries = lens_corrections_in(opcode_lists_in(exif));
        m.colours = colour_names_in(exif, path);
        const Exiv2::XmpData& xmp = image.xmpData();
        if (const auto said = xmp.findKey(Exiv2::XmpKey("Xmp.optrel.corrected")); said != xmp.end())
            m.corrected = trimmed(said->toString()).substr(0, 500);
        m.orientation = static_cast<int>(sane(number_of(exif, Exiv2::orientation), 1, 8));
        if (m.orientation == 0) m.orientation = 1;
    } catch (const Error&) {
        throw;
    } catch (const std::exception& error) {
        // Errors of the library, and those of the standard library because of malformed tags.
        throw input_error(fmt::format(
            "The metadata of {} cannot be read ({}): the file is truncated or no picture; copy it again from the card.",
            printable(path.string()), without_stop(printable(error.what()))));
    }
    return m;
}

std::optional<VisiblePart> stated_visible_part(const OpenedFrame& frame) {
    try {
        const Exiv2::ExifData& exif = frame.image().exifData();
        // Of the largest picture in the file, as in read_metadata().
        std::optional<VisiblePart> out;
        int widest = 0;
        for (const std::string directory : {"Exif.Image.", "Exif.SubImage1.", "Exif.SubImage2.", "Exif.SubImage3."}) {
            const int width = static_cast<int>(number_of(exif, (directory + "ImageWidth").c_str()));
            if (width <= widest) continue;
            widest = width;
            const auto area = exif.findKey(Exiv2::ExifKey(directory + "ActiveArea"));
            out.reset();
            if (area == exif.end() || area->count() != 4) continue;
            const auto at = [&](int i) { return static_cast<int>(area->toLong(i)); };
            out = VisiblePart{at(0), at(1), at(2) - at(0), at(3) - at(1)};
        }
        return out;
    } catch (const std::exception&) {
        return std::nullopt;
    }
}

EmbeddedRendering read_rendering(const OpenedFrame& frame) {
    EmbeddedRendering out;
    try {
        const Exiv2::ExifData& exif = frame.image().exifData();
        out.baseline_exposure = std::clamp(number_of(exif, "Exif.Image.BaselineExposure"), -10.0, 10.0);
        const auto curve = exif.findKey(Exiv2::ExifKey("Exif.Image.ProfileToneCurve"));
        if (curve == exif.end() || curve->count() < 4 || curve->count() > 20000 || curve->count() % 2) return out;
        for (long i = 0; i + 1 < curve->count(); i += 2)
            out.tone_curve.emplace_back(curve->toFloat(i), curve->toFloat(i + 1));
        const auto rises = [](const auto& a, const auto& b) { return a.first >= b.first; };
        if (std::adjacent_find(out.tone_curve.begin(), out.tone_curve.end(), rises) != out.tone_curve.end())
            out.tone_curve.clear();
    } catch (const std::exception&) {
        return {};  // the raw reader reports the error
    }
    return out;
}

std::string camera_name(const GearMetadata& m) {
    if (m.maker.empty() || m.model.rfind(m.maker, 0) == 0) return m.model;
    return m.model.empty() ? m.maker : m.maker + " " + m.model;
}

}  // namespace optrel

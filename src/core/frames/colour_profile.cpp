// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/colour_profile.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <exiv2/exiv2.hpp>
#include <fstream>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"
#include "frames/exiv2_guard.h"
#include "frames/icc_colours.h"

namespace optrel {
namespace {

constexpr std::size_t largest_file = 16u << 20;
constexpr std::size_t most_of_extra = 4u << 20;  // of a profile inside a DNG, whose length the file does not state
constexpr std::size_t most_entries = 400000;     // of a hue table: 16 bytes each, and far finer than any real one

/// The tags of one directory, by their names in the specification.
class ProfileTags {
public:
    explicit ProfileTags(const Exiv2::ExifData& exif) : exif_(exif) {}

    const Exiv2::Exifdatum* find(const char* name) const {
        const auto it = exif_.findKey(Exiv2::ExifKey(std::string("Exif.Image.") + name));
        return it == exif_.end() || it->count() == 0 ? nullptr : &*it;
    }
    std::string text(const char* name) const {
        const Exiv2::Exifdatum* tag = find(name);
        if (!tag) return {};
        std::string out;  // some texts are UTF-8 bytes, some ASCII
        if (tag->typeId() == Exiv2::unsignedByte || tag->typeId() == Exiv2::undefined) {
            for (long i = 0; i < std::min<long>(tag->count(), 1000); ++i) out += static_cast<char>(tag->toLong(i));
        } else {
            out = tag->toString();
        }
        out = trimmed(out.substr(0, out.find('\0')));
        return printable(out.substr(0, 120));
    }
    std::optional<cv::Matx33d> matrix(const char* name) const {
        const Exiv2::Exifdatum* tag = find(name);
        if (!tag) return std::nullopt;
        if (tag->count() != 9)
            throw input_error(fmt::format("its {} has {} figures in place of nine", name, tag->count()));
        cv::Matx33d m;
        for (int i = 0; i < 9; ++i) m.val[i] = number(*tag, i, name);
        if (std::abs(cv::determinant(m)) < 1e-9) throw input_error(fmt::format("its {} cannot be inverted", name));
        return m;
    }
    double one(const char* name, double otherwise) const {
        const Exiv2::Exifdatum* tag = find(name);
        return tag ? number(*tag, 0, name) : otherwise;
    }
    std::vector<float> floats(const char* name, std::size_t most) const {
        const Exiv2::Exifdatum* tag = find(name);
        if (!tag) return {};
        if (static_cast<std::size_t>(tag->count()) > most)
            throw input_error(fmt::format("its {} has {} figures, more than there can be", name, tag->count()));
        std::vector<float> out(static_cast<std::size_t>(tag->count()));
        for (std::size_t i = 0; i < out.size(); ++i)
            out[i] = static_cast<float>(number(*tag, static_cast<long>(i), name));
        return out;
    }

private:
    static double number(const Exiv2::Exifdatum& tag, long i, const char* name) {
        const double v = tag.typeId() == Exiv2::signedRational || tag.typeId() == Exiv2::unsignedRational
                             ? double(tag.toRational(i).first) / tag.toRational(i).second
                             : double(tag.toFloat(i));
        if (!std::isfinite(v) || std::abs(v) > 1e6)
            throw input_error(fmt::format("its {} holds no sane figures", name));
        return v;
    }

    const Exiv2::ExifData& exif_;
};

/// The temperature of a light, by its number in the Exif tag LightSource; 0: the number names no light. CIE illuminants
/// have their CIE temperatures; for the others it is the middle of the range in the Exif standard.
double kelvin_of(int light) {
    struct Light {
        int number;
        double kelvin;
    };
    static constexpr Light lights[] = {{1, 5500},  {2, 4200},  {3, 2856},  {4, 5500},  {9, 5500},
                                       {10, 6500}, {11, 7500}, {12, 6400}, {13, 5050}, {14, 4200},
                                       {15, 3450}, {16, 2940}, {17, 2856}, {18, 4874}, {19, 6774},
                                       {20, 5503}, {21, 6504}, {22, 7504}, {23, 5003}, {24, 3200}};
    for (const Light& l : lights)
        if (l.number == light) return l.kelvin;
    return 0;
}

std::optional<HueTable> hue_table(const ProfileTags& tags, const char* dims, const char* data, const char* encoding) {
    if (!tags.find(data)) return std::nullopt;
    const std::vector<float> size = tags.floats(dims, 3);
    if (size.size() < 2) throw input_error(fmt::format("it has {} without {}", data, dims));
    for (const float n : size)
        if (n < 1 || n > float(most_entries) || n != std::floor(n))
            throw input_error(fmt::format("its {} is no size", dims));
    HueTable out;
    out.hues = static_cast<int>(size[0]);
    out.saturations = static_cast<int>(size[1]);
    out.values = size.size() > 2 ? static_cast<int>(size[2]) : 1;
    out.encoded_value = tags.one(encoding, 0) == 1;
    const double entries = double(out.hues) * out.saturations * out.values;
    if (out.saturations < 2 || entries > double(most_entries))
        throw input_error(
            fmt::format("its {} ({} × {} × {}) is no size of a table", dims, out.hues, out.saturations, out.values));
    const std::vector<float> values = tags.floats(data, 3 * most_entries);
    if (values.size() != 3 * static_cast<std::size_t>(entries))
        throw input_error(fmt::format("its {} has {} figures where {} says {}", data, values.size(), dims,
                                      3 * static_cast<std::size_t>(entries)));
    for (std::size_t i = 0; i < values.size(); i += 3) {
        if (values[i + 1] < 0 || values[i + 2] < 0) throw input_error(fmt::format("its {} has negative factors", data));
        out.entries.push_back({values[i], values[i + 1], values[i + 2]});
    }
    return out;
}

std::vector<std::pair<float, float>> tone_curve(const ProfileTags& tags) {
    const std::vector<float> values = tags.floats("ProfileToneCurve", 20000);
    std::vector<std::pair<float, float>> out;
    if (values.empty()) return out;
    if (values.size() < 4 || values.size() % 2)
        throw input_error("its tone curve has half a point too many, or no two");
    for (std::size_t i = 0; i < values.size(); i += 2) out.emplace_back(values[i], values[i + 1]);
    for (std::size_t i = 1; i < out.size(); ++i)
        if (out[i].first <= out[i - 1].first || out[i].second < out[i - 1].second)
            throw input_error("its tone curve does not rise");
    if (std::abs(out.front().first) > 1e-3f || std::abs(out.back().first - 1) > 1e-3f)
        throw input_error("its tone curve does not reach from 0 to 1");
    return out;
}

ProfileLight light_of(const ProfileTags& tags, int which) {
    const std::string n = std::to_string(which);
    ProfileLight out;
    out.kelvin = kelvin_of(static_cast<int>(tags.one(("CalibrationIlluminant" + n).c_str(), 0)));
    out.xyz_to_camera = *tags.matrix(("ColorMatrix" + n).c_str());
    out.to_xyz_d50 = tags.matrix(("ForwardMatrix" + n).c_str());
    out.hue_table =
        hue_table(tags, "ProfileHueSatMapDims", ("ProfileHueSatMapData" + n).c_str(), "ProfileHueSatMapEncoding");
    return out;
}

/// Throws Error(input) with a reason that follows the name of the file.
ColourProfile profile_in(const ProfileTags& tags) {
    ColourProfile out;
    out.name = tags.text("ProfileName");
    out.camera = tags.text("UniqueCameraModel");
    out.copyright = tags.text("ProfileCopyright");
    DngColours c;
    if (!tags.find("ColorMatrix1")) throw input_error("it has no colour matrix");
    c.lights.push_back(light_of(tags, 1));
    if (tags.find("ColorMatrix2")) {
        c.lights.push_back(light_of(tags, 2));
        if (c.lights[0].kelvin <= 0 || c.lights[1].kelvin <= 0)
            throw input_error("it has two colour matrices without saying for which lights");
        if (c.lights[0].kelvin == c.lights[1].kelvin)
            throw input_error("both of its colour matrices are for one light");
        c.swapped = c.lights[0].kelvin > c.lights[1].kelvin;
        if (c.swapped) std::swap(c.lights[0], c.lights[1]);
        if (c.lights[0].to_xyz_d50.has_value() != c.lights[1].to_xyz_d50.has_value())
            throw input_error("it has a forward matrix for one of its two lights only");
        if (c.lights[0].hue_table.has_value() != c.lights[1].hue_table.has_value())
            throw input_error("it has a hue table for one of its two lights only");
    }
    c.look = hue_table(tags, "ProfileLookTableDims", "ProfileLookTableData", "ProfileLookTableEncoding");
    c.curve = tone_curve(tags);
    c.exposure_offset = std::clamp(tags.one("BaselineExposureOffset", 0), -10.0, 10.0);
    c.signature = tags.text("ProfileCalibrationSignature");
    out.dng = std::move(c);
    return out;
}

/// True when the bytes begin like a separate colour profile file of the DNG specification.
bool is_dng_profile(const std::string& bytes) {
    return bytes.size() >= 8 && (bytes.compare(0, 4, "IIRC") == 0 || bytes.compare(0, 4, "MMCR") == 0);
}

/// A general library reads it after its header is changed to that of a TIFF.
Exiv2::ExifData tags_of(std::string bytes) {
    prepare_exiv2();
    const bool little = bytes[0] == 'I';
    bytes[2] = little ? 42 : 0;
    bytes[3] = little ? 0 : 42;
    const auto image =
        Exiv2::ImageFactory::open(reinterpret_cast<const Exiv2::byte*>(bytes.data()), static_cast<long>(bytes.size()));
    image->readMetadata();
    return image->exifData();
}

/// The tags that exist, in their order.
std::vector<PlainTag> plain_tags(const Exiv2::ExifData& exif, const std::vector<std::uint16_t>& tags) {
    std::vector<PlainTag> out;
    for (const std::uint16_t tag : tags) {
        const auto it = exif.findKey(Exiv2::ExifKey(tag, "Image"));
        if (it == exif.end() || it->size() <= 0 || static_cast<std::size_t>(it->size()) > largest_file) continue;
        std::string value(static_cast<std::size_t>(it->size()), '\0');
        it->copy(reinterpret_cast<Exiv2::byte*>(value.data()), Exiv2::littleEndian);
        out.push_back(
            {tag, static_cast<std::uint16_t>(it->typeId()), static_cast<std::uint32_t>(it->count()), std::move(value)});
    }
    return out;
}

/// Tags of the profile, without the name of the camera and without the tags for differences between a body and its
/// model.
const std::vector<std::uint16_t> profile_tags{0xc621, 0xc622, 0xc65a, 0xc65b, 0xc6f4, 0xc6f8, 0xc6f9,
                                              0xc6fa, 0xc6fb, 0xc6fc, 0xc6fd, 0xc6fe, 0xc714, 0xc715,
                                              0xc725, 0xc726, 0xc7a3, 0xc7a4, 0xc7a5};
const std::vector<std::uint16_t> body_tags{0xc623, 0xc624, 0xc627, 0xc6f3, 0xc6f6};

/// A profile from the tags of a DNG as a separate file, so that it can be stored.
std::string as_file(const Exiv2::ExifData& exif) {
    std::vector<PlainTag> entries = plain_tags(exif, {0xc614});
    for (PlainTag& tag : plain_tags(exif, profile_tags)) entries.push_back(std::move(tag));
    return colour_file_of(std::move(entries));
}

BodyCalibration calibration_in(const ProfileTags& tags) {
    BodyCalibration out;
    out.signature = tags.text("CameraCalibrationSignature");
    if (const auto balance = tags.floats("AnalogBalance", 3); balance.size() == 3)
        for (int c = 0; c < 3; ++c)
            if (balance[c] > 0) out.balance[c] = balance[c];
    out.by_light[0] = tags.matrix("CameraCalibration1").value_or(cv::Matx33d::eye());
    out.by_light[1] = tags.matrix("CameraCalibration2").value_or(cv::Matx33d::eye());
    return out;
}

/// A part of a file; shorter at the end of the file.
std::string piece_of(const std::filesystem::path& path, std::size_t at, std::size_t length) {
    std::ifstream in(path, std::ios::binary);
    in.seekg(static_cast<std::streamoff>(at));
    std::string out(length, '\0');
    in.read(out.data(), static_cast<std::streamsize>(length));
    out.resize(static_cast<std::size_t>(std::max<std::streamsize>(0, in.gcount())));
    return out;
}

/// The additional profiles of a DNG: each begins at an offset in the file and has the layout of a separate file.
void read_extra(const std::filesystem::path& path, const ProfileTags& tags, EmbeddedColours& out) {
    const Exiv2::Exifdatum* offsets = tags.find("ExtraCameraProfiles");
    if (!offsets) return;
    for (long i = 0; i < std::min<long>(offsets->count(), 64); ++i) {
        const auto at = static_cast<std::size_t>(offsets->toLong(i));
        const std::string what = fmt::format("The {}. further colour profile of the file", i + 1);
        try {
            const std::string bytes = piece_of(path, at, most_of_extra);
            if (bytes.empty()) throw input_error(what + " lies beyond its end; it is left out.");
            ColourProfile extra = colour_profile_from(bytes, what);
            extra.bytes = as_file(tags_of(bytes));  // without the data that follow it in the file
            out.profiles.push_back(std::move(extra));
        } catch (const Error& error) {
            out.problems.emplace_back(error.what());
        }
    }
}

/// A single matrix is not a profile: every DNG has one.
bool has_profile(const ProfileTags& tags) {
    return tags.find("ProfileName") || tags.find("ColorMatrix2") || tags.find("ForwardMatrix1");
}

EmbeddedColours carried_in(const Exiv2::ExifData& exif, const std::filesystem::path& path) {
    EmbeddedColours out;
    const ProfileTags tags(exif);
    if (!tags.find("DNGVersion")) return out;
    out.camera = tags.text("UniqueCameraModel");
    try {
        out.calibration = calibration_in(tags);
        if (has_profile(tags)) {
            ColourProfile main = profile_in(tags);
            main.bytes = as_file(exif);
            if (main.name.empty()) main.name = "without a name";
            out.profiles.push_back(std::move(main));
            out.own_tags = plain_tags(exif, profile_tags);
            for (PlainTag& tag : plain_tags(exif, body_tags)) out.own_tags.push_back(std::move(tag));
        }
    } catch (const Error& error) {
        out.problems.push_back(
            fmt::format("The colour profile of the file cannot be used: {}.", without_stop(error.what())));
    }
    read_extra(path, tags, out);
    return out;
}

}  // namespace

std::string colour_file_of(std::vector<PlainTag> entries) {
    std::string out = "IIRC", behind;
    const auto put = [](std::string& to, std::uint32_t v, int bytes) {
        for (int k = 0; k < bytes; ++k) to += static_cast<char>(v >> (8 * k) & 0xff);
    };
    put(out, 8, 4);
    put(out, static_cast<std::uint32_t>(entries.size()), 2);
    const auto values = static_cast<std::uint32_t>(8 + 2 + 12 * entries.size() + 4);
    for (PlainTag& e : entries) {
        put(out, e.tag, 2);
        put(out, e.type, 2);
        put(out, e.count, 4);
        if (e.value.size() <= 4) {
            e.value.resize(4, '\0');
            out += e.value;
        } else {
            put(out, values + static_cast<std::uint32_t>(behind.size()), 4);
            behind += e.value;
            if (behind.size() % 2) behind += '\0';
        }
    }
    put(out, 0, 4);
    return out + behind;
}

std::string ColourProfile::contents() const {
    if (is_icc()) return "ICC input profile";
    std::string out = dng->lights.size() == 2 ? "two lights" : "one light";
    if (dng->lights.front().to_xyz_d50) out += ", forward matrix";
    if (dng->lights.front().hue_table) out += ", hue table";
    if (dng->look) out += ", look table";
    if (!dng->curve.empty()) out += ", tone curve";
    return out;
}

ColourProfile colour_profile_from(const std::string& bytes, const std::string& what) {
    if (bytes.size() > largest_file)
        throw input_error(fmt::format("{} has {} MB, far more than a colour profile; choose another file.", what,
                                      bytes.size() >> 20));
    if (is_icc_profile(bytes)) {
        const IccDescription described = describe_icc(bytes, what);
        ColourProfile out;
        out.name = described.name;
        out.copyright = described.copyright;
        out.bytes = bytes;
        return out;
    }
    if (!is_dng_profile(bytes))
        throw input_error(fmt::format(
            "{} is neither an ICC profile nor a colour profile of the DNG specification; choose such a file.", what));
    try {
        const Exiv2::ExifData exif = tags_of(bytes);
        ColourProfile out = profile_in(ProfileTags(exif));
        out.bytes = bytes;
        return out;
    } catch (const std::exception& error) {
        throw input_error(fmt::format("{} cannot be used as a colour profile: {}; get it anew.", what,
                                      without_stop(printable(error.what()))));
    }
}

bool looks_like_colours(const std::filesystem::path& path) {
    std::error_code failed;
    if (!std::filesystem::is_regular_file(path, failed)) return false;
    const std::string head = piece_of(path, 0, 128);
    return is_icc_profile(head) || is_dng_profile(head);
}

ColourProfile read_colour_profile(const std::filesystem::path& path) {
    ColourProfile out = colour_profile_from(read_file(path, largest_file), printable(path.string()));
    if (out.name.empty()) out.name = printable(path.stem().string());
    return out;
}

EmbeddedColours embedded_colours(const OpenedFrame& frame) {
    try {
        return carried_in(frame.image().exifData(), frame.path());
    } catch (const std::exception&) {
        return {};  // the reader of the pixels reports the error
    }
}

std::string colour_names_in(const Exiv2::ExifData& exif, const std::filesystem::path& path) {
    const ProfileTags tags(exif);
    if (!has_profile(tags) && !tags.find("ExtraCameraProfiles")) return {};
    std::vector<std::string> names;
    try {
        for (const ColourProfile& p : carried_in(exif, path).profiles)
            names.push_back(p.name.empty() ? "without a name" : p.name);
    } catch (const std::exception&) {
        return {};
    }
    return fmt::format("{}", fmt::join(names, "; "));
}

}  // namespace optrel

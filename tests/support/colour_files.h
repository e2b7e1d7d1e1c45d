// SPDX-License-Identifier: GPL-3.0-or-later
// Colour profiles for tests, byte by byte as the DNG specification lays them out, apart from the reader.
#pragma once

#include <cmath>
#include <cstdint>
#include <cstring>
#include <exiv2/exiv2.hpp>
#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace optrel::test {

/// A colour profile in a file of its own.
class ProfileFile {
public:
    explicit ProfileFile(bool little = true) : little_(little) {}

    ProfileFile& text(std::uint16_t tag, const std::string& value) {
        return put(tag, 2, static_cast<std::uint32_t>(value.size() + 1), value + '\0');
    }
    ProfileFile& u16(std::uint16_t tag, std::uint16_t value) { return put(tag, 3, 1, number(value, 2)); }
    ProfileFile& u32s(std::uint16_t tag, const std::vector<std::uint32_t>& values) {
        std::string out;
        for (const std::uint32_t v : values) out += number(v, 4);
        return put(tag, 4, static_cast<std::uint32_t>(values.size()), out);
    }
    ProfileFile& rationals(std::uint16_t tag, const std::vector<double>& values) {
        std::string out;
        for (const double v : values)
            out += number(static_cast<std::uint32_t>(static_cast<std::int32_t>(v * 1e6 + (v < 0 ? -0.5 : 0.5))), 4) +
                   number(1000000, 4);
        return put(tag, 10, static_cast<std::uint32_t>(values.size()), out);
    }
    ProfileFile& floats(std::uint16_t tag, const std::vector<float>& values) {
        std::string out;
        for (const float v : values) {
            std::uint32_t bits = 0;
            std::memcpy(&bits, &v, 4);
            out += number(bits, 4);
        }
        return put(tag, 11, static_cast<std::uint32_t>(values.size()), out);
    }
    ProfileFile& without(std::uint16_t tag) {
        entries_.erase(tag);
        return *this;
    }

    std::string bytes() const {
        std::string out = little_ ? "IIRC" : "MMCR";
        out += number(8, 4) + number(static_cast<std::uint32_t>(entries_.size()), 2);
        const auto values = static_cast<std::uint32_t>(8 + 2 + 12 * entries_.size() + 4);
        std::string behind;
        for (const auto& [tag, e] : entries_) {
            out += number(tag, 2) + number(e.type, 2) + number(e.count, 4);
            std::string value = e.value;
            if (value.size() <= 4) {
                value.resize(4, '\0');
                out += value;
            } else {
                out += number(values + static_cast<std::uint32_t>(behind.size()), 4);
                behind += value;
                if (behind.size() % 2) behind += '\0';
            }
        }
        return out + number(0, 4) + behind;
    }

private:
    struct Entry {
        std::uint16_t type;
        std::uint32_t count;
        std::string value;
    };
    ProfileFile& put(std::uint16_t tag, std::uint16_t type, std::uint32_t count, const std::string& value) {
        entries_[tag] = {type, count, value};
        return *this;
    }
    std::string number(std::uint32_t v, int bytes) const {
        std::string out;
        for (int k = 0; k < bytes; ++k) out += static_cast<char>(v >> (8 * (little_ ? k : bytes - 1 - k)) & 0xff);
        return out;
    }

    bool little_;
    std::map<std::uint16_t, Entry> entries_;
};

/// Tags of the DNG specification.
namespace dng {
inline constexpr std::uint16_t camera = 0xc614, matrix1 = 0xc621, matrix2 = 0xc622, calibration1 = 0xc623,
                               calibration2 = 0xc624, balance = 0xc627, light1 = 0xc65a, light2 = 0xc65b,
                               camera_signature = 0xc6f3, profile_signature = 0xc6f4, extra = 0xc6f5, name = 0xc6f8,
                               hue_dims = 0xc6f9, hue_data1 = 0xc6fa, hue_data2 = 0xc6fb, curve = 0xc6fc,
                               rights = 0xc6fe, forward1 = 0xc714, forward2 = 0xc715, look_dims = 0xc725,
                               look_data = 0xc726, hue_encoding = 0xc7a3, look_encoding = 0xc7a4,
                               exposure_offset = 0xc7a5;
}

inline const std::vector<double> tungsten_matrix{0.84, -0.31, -0.02, -0.42, 1.21, 0.24, -0.05, 0.12, 0.71};
inline const std::vector<double> daylight_matrix{0.74, -0.24, -0.07, -0.46, 1.24, 0.25, -0.07, 0.15, 0.64};
/// Rows sum to the white of D50.
inline const std::vector<double> tungsten_forward{0.60, 0.22, 0.1442, 0.25, 0.70, 0.05, 0.02, 0.08, 0.7251};
inline const std::vector<double> daylight_forward{0.64, 0.18, 0.1442, 0.29, 0.68, 0.03, 0.01, 0.05, 0.7651};

/// Two lights (A and D65), nothing else.
inline ProfileFile two_lights(bool little = true) {
    ProfileFile f(little);
    f.text(dng::name, "Fernwick room")
        .rationals(dng::matrix1, tungsten_matrix)
        .rationals(dng::matrix2, daylight_matrix);
    f.u16(dng::light1, 17).u16(dng::light2, 21);
    return f;
}

/// Writes a colour profile into the tags of a DNG, as a converter does.
inline void carry_profile(const std::filesystem::path& dng_file, const std::string& name) {
    const auto fractions = [](const std::vector<double>& values) {
        std::string out;
        for (const double v : values)
            out += (out.empty() ? "" : " ") + std::to_string(std::lround(v * 10000)) + "/10000";
        return out;
    };
    const auto image = Exiv2::ImageFactory::open(dng_file.string());
    image->readMetadata();
    Exiv2::ExifData& exif = image->exifData();
    const auto add = [&](const char* key, Exiv2::TypeId type, const std::string& text) {
        auto value = Exiv2::Value::create(type);
        value->read(text);
        if (const auto old = exif.findKey(Exiv2::ExifKey(key)); old != exif.end()) exif.erase(old);
        exif.add(Exiv2::ExifKey(key), value.get());
    };
    add("Exif.Image.ProfileName", Exiv2::asciiString, name);
    exif["Exif.Image.UniqueCameraModel"] = std::string("Somebody's camera");
    exif["Exif.Image.CalibrationIlluminant1"] = std::uint16_t(17);
    exif["Exif.Image.CalibrationIlluminant2"] = std::uint16_t(21);
    for (const auto& [key, values] : {std::pair("Exif.Image.ColorMatrix1", tungsten_matrix),
                                      {"Exif.Image.ColorMatrix2", daylight_matrix},
                                      {"Exif.Image.ForwardMatrix1", tungsten_forward},
                                      {"Exif.Image.ForwardMatrix2", daylight_forward}})
        add(key, Exiv2::signedRational, fractions(values));
    image->writeMetadata();
}

}  // namespace optrel::test

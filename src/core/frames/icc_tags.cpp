// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/icc_tags.h"

#include <algorithm>
#include <cstdint>
#include <string_view>

namespace optrel {
namespace {

/// Reads big-endian numbers; 0 beyond the end.
class Reader {
public:
    explicit Reader(std::string_view bytes) : bytes_(bytes) {}
    std::uint64_t number(std::size_t at, int width) const {
        std::uint64_t out = 0;
        for (int i = 0; i < width; ++i) out = out << 8 | (at + i < bytes_.size() ? std::uint8_t(bytes_[at + i]) : 0);
        return out;
    }
    std::uint64_t u8(std::size_t at) const { return number(at, 1); }
    std::uint64_t u16(std::size_t at) const { return number(at, 2); }
    std::uint64_t u32(std::size_t at) const { return number(at, 4); }
    std::string_view text(std::size_t at) const { return at < bytes_.size() ? bytes_.substr(at, 4) : ""; }
    /// A part of these bytes; empty beyond the end.
    Reader from(std::size_t at) const { return Reader(at < bytes_.size() ? bytes_.substr(at) : ""); }
    std::size_t find(std::string_view text, std::size_t from) const { return bytes_.find(text, from); }
    std::size_t size() const { return bytes_.size(); }

private:
    std::string_view bytes_;
};

/// Values of a table with as many points for each input as `points` returns; more than any file has counts as 2^40.
template <class Points>
std::uint64_t table_values(std::uint64_t inputs, std::uint64_t outputs, const Points& points) {
    constexpr std::uint64_t most = std::uint64_t(1) << 40;
    std::uint64_t out = outputs;
    for (std::uint64_t i = 0; i < inputs && out < most; ++i) out *= points(i);
    return out;
}

bool lut_fits(const Reader& tag, int width) {
    const std::uint64_t inputs = tag.u8(8), outputs = tag.u8(9), grid = tag.u8(10);
    const bool wide = width == 2;
    const std::uint64_t before = wide ? tag.u16(48) : 256, after = wide ? tag.u16(50) : 256;
    const std::uint64_t values = table_values(inputs, outputs, [&](std::uint64_t) { return grid; });
    return (wide ? 52 : 48) + width * (before * inputs + values + after * outputs) <= tag.size();
}

/// lutAToBType and lutBToAType.
bool lut_with_offsets_fits(const Reader& tag) {
    const std::uint64_t at = tag.u32(24);
    if (at == 0) return true;
    const Reader table = tag.from(at);
    // The table lies between the curves of the inputs and those of the outputs, in either direction.
    const std::uint64_t values = table_values(tag.u8(8), tag.u8(9), [&](std::uint64_t i) { return table.u8(i); });
    // A value has one or two bytes. Memory is taken before the library refuses any other number.
    return 20 + std::max<std::uint64_t>(1, table.u8(16)) * values <= table.size();
}

/// Sampled segments of curves in a multiProcessElementsType, wherever they are: their name is a number that no table
/// holds by chance.
bool sampled_segments_fit(const Reader& tag) {
    for (std::size_t at = tag.find("samf", 0); at != std::string_view::npos; at = tag.find("samf", at + 4))
        if (12 + 4 * tag.u32(at + 8) > tag.size() - at) return false;
    return true;
}

/// multiProcessElementsType.
bool elements_fit(const Reader& tag) {
    const std::uint64_t count = tag.u32(12);
    if (16 + 8 * count > tag.size()) return false;
    for (std::uint64_t i = 0; i < count; ++i) {
        const Reader element = tag.from(tag.u32(16 + 8 * i));
        if (element.text(0) == "clut" && 28 + 4 * table_values(element.u16(8), element.u16(10),
                                                               [&](std::uint64_t k) { return element.u8(12 + k); }) >
                                             element.size())
            return false;
        if (element.text(0) == "matf" && 12 + 4 * (element.u16(8) + 1) * element.u16(10) > element.size()) return false;
        if (element.text(0) == "cvst" && 12 + 8 * element.u16(8) > element.size()) return false;
    }
    return sampled_segments_fit(tag);
}

bool tag_fits(const Reader& tag) {
    const std::string_view type = tag.text(0);
    if (type == "mluc") return 16 + 12 * tag.u32(8) <= tag.size();
    if (type == "curv") return 12 + 2 * tag.u32(8) <= tag.size();
    if (type == "mft1") return lut_fits(tag, 1);
    if (type == "mft2") return lut_fits(tag, 2);
    if (type == "mAB " || type == "mBA ") return lut_with_offsets_fits(tag);
    if (type == "mpet") return elements_fit(tag);
    return true;
}

}  // namespace

bool icc_tags_fit(const std::string& bytes) {
    const std::string_view all = bytes;
    const Reader profile(all);
    const std::uint64_t count = profile.u32(128);
    if (132 + 12 * count > all.size()) return false;
    for (std::uint64_t i = 0; i < count; ++i) {
        const std::uint64_t at = profile.u32(136 + 12 * i), size = profile.u32(140 + 12 * i);
        if (at + size > all.size() || !tag_fits(Reader(all.substr(at, size)))) return false;
    }
    return true;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/ifd_writer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>

#include "base/error.h"
#include "frames/write_failures.h"

namespace optrel {

namespace {

void put_16(std::string& out, std::uint16_t v) {
    out += static_cast<char>(v & 0xff);
    out += static_cast<char>(v >> 8);
}
void put_32(std::string& out, std::uint32_t v) {
    put_16(out, static_cast<std::uint16_t>(v & 0xffff));
    put_16(out, static_cast<std::uint16_t>(v >> 16));
}

/// The value as a fraction that fits the type; a value that is not finite or too large becomes the largest one.
std::pair<long long, long long> fraction(double value, double largest) {
    double under = 1e6;
    if (!std::isfinite(value)) value = largest;
    while (under > 1 && std::abs(value) * under > largest) under /= 10;
    const double over = std::clamp(std::round(value * under), -largest, largest);
    return {static_cast<long long>(over), static_cast<long long>(under)};
}

}  // namespace

void Ifd::bytes(std::uint16_t tag, TiffType type, std::uint32_t count, std::string value) {
    entries_.push_back({tag, type, count, std::move(value), 0});
}

void Ifd::placed(std::uint16_t tag, TiffType type, std::uint32_t count, std::uint32_t place) {
    entries_.push_back({tag, type, count, "", place});
}

void Ifd::text(std::uint16_t tag, const std::string& value) {
    if (value.empty()) return;
    std::string with_end = value + '\0';
    const auto count = static_cast<std::uint32_t>(with_end.size());
    bytes(tag, TiffType::ascii, count, std::move(with_end));
}

void Ifd::u8(std::uint16_t tag, const std::vector<int>& values) {
    std::string out;
    for (const int v : values) out += static_cast<char>(v);
    bytes(tag, TiffType::byte, static_cast<std::uint32_t>(values.size()), out);
}
void Ifd::u16(std::uint16_t tag, const std::vector<int>& values) {
    std::string out;
    for (const int v : values) put_16(out, static_cast<std::uint16_t>(v));
    bytes(tag, TiffType::u16, static_cast<std::uint32_t>(values.size()), out);
}
void Ifd::u32(std::uint16_t tag, const std::vector<std::uint32_t>& values) {
    std::string out;
    for (const std::uint32_t v : values) put_32(out, v);
    bytes(tag, TiffType::u32, static_cast<std::uint32_t>(values.size()), out);
}

void Ifd::rationals(std::uint16_t tag, const std::vector<double>& values) {
    std::string out;
    for (const double v : values) {
        const auto [over, under] = fraction(std::max(0.0, v), 4294967295.0);
        put_32(out, static_cast<std::uint32_t>(over));
        put_32(out, static_cast<std::uint32_t>(under));
    }
    bytes(tag, TiffType::rational, static_cast<std::uint32_t>(values.size()), out);
}
void Ifd::signed_rationals(std::uint16_t tag, const std::vector<double>& values) {
    std::string out;
    for (const double v : values) {
        const auto [over, under] = fraction(v, 2147483647.0);
        put_32(out, static_cast<std::uint32_t>(static_cast<std::int32_t>(over)));
        put_32(out, static_cast<std::uint32_t>(under));
    }
    bytes(tag, TiffType::srational, static_cast<std::uint32_t>(values.size()), out);
}

void Ifd::doubles(std::uint16_t tag, const std::vector<double>& values) {
    std::string out;
    for (const double v : values) {
        std::uint64_t bits;
        std::memcpy(&bits, &v, sizeof bits);
        put_32(out, static_cast<std::uint32_t>(bits & 0xffffffffu));
        put_32(out, static_cast<std::uint32_t>(bits >> 32));
    }
    bytes(tag, TiffType::float64, static_cast<std::uint32_t>(values.size()), out);
}

bool Ifd::has(std::uint16_t tag) const {
    return std::any_of(entries_.begin(), entries_.end(), [=](const Entry& e) { return e.tag == tag; });
}

TiffFile::TiffFile(const std::filesystem::path& part, std::filesystem::path wanted)
    : wanted_(std::move(wanted)), out_(part, std::ios::binary | std::ios::trunc) {
    if (!out_) no_folder(wanted_);
    put(std::string("II*\0\0\0\0\0", 8));  // where the first directory stands is known at the end
}

void TiffFile::put(std::string_view bytes) {
    if (bytes.size() > std::numeric_limits<std::uint32_t>::max() - next_)
        throw file_error(
            fmt::format("Cannot write {}: it would be larger than the 4 GB that a TIFF or DNG can hold; "
                        "leave the original out of it.",
                        wanted_.string()));
    out_.write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
    if (!out_) disk_full(wanted_);
    next_ += static_cast<std::uint32_t>(bytes.size());
}

void TiffFile::fill_to(std::uint32_t place) {
    if (place > next_) put(std::string(place - next_, '\0'));
}

std::uint32_t TiffFile::block(std::string_view bytes) {
    if (next_ % 2) put(std::string(1, '\0'));
    const std::uint32_t at = next_;
    put(bytes);
    return at;
}

std::uint32_t TiffFile::directory(Ifd ifd) {
    std::stable_sort(ifd.entries_.begin(), ifd.entries_.end(),
                     [](const Ifd::Entry& a, const Ifd::Entry& b) { return a.tag < b.tag; });
    std::string out;
    put_16(out, static_cast<std::uint16_t>(ifd.entries_.size()));
    for (const Ifd::Entry& e : ifd.entries_) {
        put_16(out, e.tag);
        put_16(out, static_cast<std::uint16_t>(e.type));
        put_32(out, e.count);
        if (e.place > 0)
            put_32(out, e.place);
        else if (e.value.size() <= 4)
            out += e.value + std::string(4 - e.value.size(), '\0');
        else
            put_32(out, block(e.value));
    }
    put_32(out, 0);
    return block(out);
}

void TiffFile::finish(const Ifd& first) {
    std::string place;
    put_32(place, directory(first));
    out_.seekp(4);
    out_.write(place.data(), 4);
    out_.flush();
    if (!out_) disk_full(wanted_);
}

}  // namespace optrel

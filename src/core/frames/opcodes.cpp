// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/opcodes.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "base/error.h"

namespace optrel {

namespace {

constexpr std::uint32_t warp_rectilinear = 1, warp_fisheye = 2, fix_vignette_radial = 3, fix_bad_pixels_list = 5,
                        gain_map = 9;
constexpr std::uint32_t since = 0x01030000;  // version of the specification that introduced them

// Opcodes are big-endian in every file.

class Writer {
public:
    void u32(std::uint32_t v) {
        for (int shift = 24; shift >= 0; shift -= 8) out += static_cast<char>(v >> shift);
    }
    void number(double v) {
        std::uint64_t bits;
        std::memcpy(&bits, &v, sizeof bits);
        u32(static_cast<std::uint32_t>(bits >> 32));
        u32(static_cast<std::uint32_t>(bits));
    }
    void single(float v) {
        std::uint32_t bits;
        std::memcpy(&bits, &v, sizeof bits);
        u32(bits);
    }
    template <class Numbers>
    void numbers(const Numbers& values) {
        for (const double v : values) number(v);
    }
    std::string out;
};

/// Reads within bounds; throws beyond them.
class Reader {
public:
    Reader(const std::string& bytes, std::string where) : bytes_(bytes), end_(bytes.size()), where_(std::move(where)) {}

    std::uint32_t u32() {
        need(4);
        std::uint32_t v = 0;
        for (int i = 0; i < 4; ++i) v = v << 8 | static_cast<unsigned char>(bytes_[at_++]);
        return v;
    }
    double number() {
        const std::uint64_t high = u32(), bits = high << 32 | u32();
        double v;
        std::memcpy(&v, &bits, sizeof v);
        if (!std::isfinite(v)) refuse("it holds a value that is no number");
        return v;
    }
    float single() {
        const std::uint32_t bits = u32();
        float v;
        std::memcpy(&v, &bits, sizeof v);
        if (!std::isfinite(v)) refuse("it holds a value that is no number");
        return v;
    }
    template <std::size_t Count>
    std::array<double, Count> numbers() {
        std::array<double, Count> out;
        for (double& v : out) v = number();
        return out;
    }
    Vec2 place() {
        const double x = number();
        return {x, number()};
    }
    /// Requires `count` items of `size` bytes each.
    void need(std::uint64_t size, std::uint64_t count = 1) const {
        if (count > (end_ - at_) / size) refuse("it ends before what it announces");
    }
    std::size_t at() const { return at_; }
    std::size_t end() const { return end_; }
    /// Limits reading to the next `size` bytes until widen().
    void narrow(std::size_t size) {
        need(1, size);
        end_ = at_ + size;
    }
    /// Skips to the end of the limited part and removes the limit.
    void widen() {
        at_ = end_;
        end_ = bytes_.size();
    }
    [[noreturn]] void refuse(const std::string& why) const {
        throw input_error(fmt::format("The correction that {} carries is damaged: {}; it is not used.", where_, why));
    }

private:
    const std::string& bytes_;
    std::size_t at_ = 0, end_;
    std::string where_;
};

struct Written {
    std::uint32_t id;
    std::string parameters;
};

Written written(const OtherOpcode& o) { return {o.id, ""}; }

template <class Warp>
std::string warp_parameters(const Warp& warp) {
    Writer w;
    w.u32(static_cast<std::uint32_t>(warp.planes.size()));
    for (const auto& plane : warp.planes) w.numbers(plane);
    w.number(warp.centre.x());
    w.number(warp.centre.y());
    return w.out;
}
Written written(const WarpRectilinear& o) { return {warp_rectilinear, warp_parameters(o)}; }
Written written(const WarpFisheye& o) { return {warp_fisheye, warp_parameters(o)}; }

Written written(const FixVignetteRadial& o) {
    Writer w;
    w.numbers(o.k);
    w.number(o.centre.x());
    w.number(o.centre.y());
    return {fix_vignette_radial, w.out};
}

Written written(const FixBadPixelsList& o) {
    Writer w;
    w.u32(o.bayer_phase);
    w.u32(static_cast<std::uint32_t>(o.points.size()));
    w.u32(0);  // no rectangles
    for (const auto& point : o.points) {
        w.u32(point[0]);
        w.u32(point[1]);
    }
    return {fix_bad_pixels_list, w.out};
}

Written written(const GainMap& o) {
    Writer w;
    for (const std::uint32_t v :
         {o.top, o.left, o.bottom, o.right, o.plane, o.planes, o.row_pitch, o.column_pitch, o.down, o.across})
        w.u32(v);
    w.numbers(std::array{o.spacing_down, o.spacing_across, o.origin_down, o.origin_across});
    w.u32(o.map_planes);
    for (const float g : o.gain) w.single(g);
    return {gain_map, w.out};
}

template <class Warp, std::size_t Count>
Warp read_warp(Reader& r) {
    Warp out;
    const std::uint32_t planes = r.u32();
    if (planes < 1 || planes > 4) r.refuse(fmt::format("it has coefficients for {} planes", planes));
    for (std::uint32_t i = 0; i < planes; ++i) out.planes.push_back(r.numbers<Count>());
    out.centre = r.place();
    return out;
}

FixVignetteRadial read_vignette(Reader& r) {
    FixVignetteRadial out;
    out.k = r.numbers<5>();
    out.centre = r.place();
    return out;
}

FixBadPixelsList read_bad_pixels(Reader& r) {
    FixBadPixelsList out;
    out.bayer_phase = r.u32();
    const std::uint32_t points = r.u32(), rectangles = r.u32();
    r.need(8, points);
    for (std::uint32_t i = 0; i < points; ++i) {
        const std::uint32_t row = r.u32();
        out.points.push_back({row, r.u32()});
    }
    r.need(16, rectangles);
    return out;
}

GainMap read_gain_map(Reader& r) {
    GainMap o;
    for (std::uint32_t* v :
         {&o.top, &o.left, &o.bottom, &o.right, &o.plane, &o.planes, &o.row_pitch, &o.column_pitch, &o.down, &o.across})
        *v = r.u32();
    o.spacing_down = r.number();
    o.spacing_across = r.number();
    o.origin_down = r.number();
    o.origin_across = r.number();
    o.map_planes = r.u32();
    if (o.down < 1 || o.across < 1 || o.map_planes < 1 || o.row_pitch < 1 || o.column_pitch < 1)
        r.refuse("its map of gains has no points");
    if (o.down > 65536 || o.across > 65536 || o.map_planes > 4) r.refuse("its map of gains has too many points");
    const std::uint64_t count = std::uint64_t(o.down) * o.across * o.map_planes;
    r.need(4, count);
    o.gain.reserve(count);
    for (std::uint64_t i = 0; i < count; ++i) o.gain.push_back(r.single());
    return o;
}

struct OpcodeHead {
    std::uint32_t id = 0, flags = 0, size = 0;
};

OpcodeHead read_head(Reader& r) {
    OpcodeHead out;
    out.id = r.u32();
    r.u32();  // the version
    out.flags = r.u32();
    out.size = r.u32();
    return out;
}

Opcode read_opcode(Reader& r) {
    const auto [id, flags, size] = read_head(r);
    Opcode out;
    out.optional = flags & 1;
    out.skipped_for_preview = flags & 2;
    r.narrow(size);
    switch (id) {
        case warp_rectilinear: out.what = read_warp<WarpRectilinear, 6>(r); break;
        case warp_fisheye: out.what = read_warp<WarpFisheye, 4>(r); break;
        case fix_vignette_radial: out.what = read_vignette(r); break;
        case fix_bad_pixels_list: out.what = read_bad_pixels(r); break;
        case gain_map: out.what = read_gain_map(r); break;
        default: out.what = OtherOpcode{id};
    }
    r.widen();
    return out;
}

}  // namespace

std::string encode_opcodes(const std::vector<Opcode>& opcodes) {
    if (opcodes.empty()) return {};
    Writer w;
    w.u32(static_cast<std::uint32_t>(opcodes.size()));
    for (const Opcode& o : opcodes) {
        const Written what = std::visit([](const auto& opcode) { return written(opcode); }, o.what);
        w.u32(what.id);
        w.u32(since);
        w.u32((o.optional ? 1u : 0u) | (o.skipped_for_preview ? 2u : 0u));
        w.u32(static_cast<std::uint32_t>(what.parameters.size()));
        w.out += what.parameters;
    }
    return w.out;
}

std::vector<Opcode> decode_opcodes(const std::string& bytes, const std::string& where) {
    Reader r(bytes, where);
    const std::uint32_t count = r.u32();
    r.need(16, count);
    std::vector<Opcode> out;
    for (std::uint32_t i = 0; i < count; ++i) out.push_back(read_opcode(r));
    return out;
}

std::vector<std::uint32_t> opcode_ids(const std::string& bytes) {
    std::vector<std::uint32_t> out;
    try {
        Reader r(bytes, "");
        for (std::uint32_t left = r.u32(); left > 0; --left) {
            const OpcodeHead head = read_head(r);
            out.push_back(head.id);
            r.narrow(head.size);
            r.widen();
        }
    } catch (const Error&) {
        // Whatever follows the damage is not counted.
    }
    return out;
}

std::string opcode_name(std::uint32_t id) {
    switch (id) {
        case 1: return "WarpRectilinear";
        case 2: return "WarpFisheye";
        case 3: return "FixVignetteRadial";
        case 5: return "FixBadPixelsList";
        case 9: return "GainMap";
        default: return fmt::format("opcode {}", id);
    }
}

std::string name_of(const Opcode& opcode) {
    constexpr std::uint32_t ids[] = {0, 1, 2, 3, 5, 9};  // in the order of the variant
    const auto* other = std::get_if<OtherOpcode>(&opcode.what);
    return opcode_name(other ? other->id : ids[opcode.what.index()]);
}

OpcodeFrame opcode_frame(const Vec2& relative, const PictureGeometry& geometry) {
    const Vec2 last(geometry.width - 1, geometry.height - 1);
    const Vec2 centre(relative.x() * last.x(), relative.y() * last.y());
    const Vec2 far(std::max(std::abs(centre.x()), std::abs(last.x() - centre.x())),
                   std::max(std::abs(centre.y()), std::abs(last.y() - centre.y())));
    return {centre + Vec2(0.5, 0.5), std::max(1.0, far.norm())};
}

Vec2 warped(const WarpRectilinear& warp, int plane, const Vec2& place, const PictureGeometry& geometry) {
    const OpcodeFrame frame = opcode_frame(warp.centre, geometry);
    const auto& k = warp.planes[std::min<std::size_t>(static_cast<std::size_t>(plane), warp.planes.size() - 1)];
    const Vec2 d = (place - frame.centre) / frame.m;
    const double q = d.squaredNorm(), f = k[0] + q * (k[1] + q * (k[2] + q * k[3])), xy = 2 * d.x() * d.y();
    const Vec2 bent(f * d.x() + k[4] * xy + k[5] * (q + 2 * d.x() * d.x()),
                    f * d.y() + k[5] * xy + k[4] * (q + 2 * d.y() * d.y()));
    return frame.centre + frame.m * bent;
}

Vec2 warped(const WarpFisheye& warp, int plane, const Vec2& place, const PictureGeometry& geometry) {
    const OpcodeFrame frame = opcode_frame(warp.centre, geometry);
    const auto& k = warp.planes[std::min<std::size_t>(static_cast<std::size_t>(plane), warp.planes.size() - 1)];
    const Vec2 d = (place - frame.centre) / frame.m;
    const double r = d.norm(), a = std::atan(r), q = a * a;
    if (r < 1e-9) return frame.centre + frame.m * k[0] * d;
    return frame.centre + frame.m * a * (k[0] + q * (k[1] + q * (k[2] + q * k[3]))) / r * d;
}

double gain_at(const FixVignetteRadial& fix, const Vec2& place, const PictureGeometry& geometry) {
    const OpcodeFrame frame = opcode_frame(fix.centre, geometry);
    const double q = (place - frame.centre).squaredNorm() / (frame.m * frame.m);
    return 1 + q * (fix.k[0] + q * (fix.k[1] + q * (fix.k[2] + q * (fix.k[3] + q * fix.k[4]))));
}

}  // namespace optrel

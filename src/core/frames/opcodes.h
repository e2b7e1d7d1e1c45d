// SPDX-License-Identifier: GPL-3.0-or-later
// The corrections that a DNG can carry (Digital Negative 1.4, chapter 7), as values and as bytes.
//
// Places are counted in samples of the visible part, the middle of the first at (0, 0). r is the distance from the
// centre in units of m, that of the farthest corner. The centre is given in shares of the way from the first sample to
// the last.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "optics/coordinates.h"

namespace optrel {

/// WarpRectilinear (1): the place d from the centre of the corrected picture is found in the frame at
///     f d + m (t0 2 dx dy + t1 (r^2 + 2 dx^2), t1 2 dx dy + t0 (r^2 + 2 dy^2)),   f = k0 + k1 r^2 + k2 r^4 + k3 r^6
/// with dx, dy in units of m in the second part. One set of six for each plane.
struct WarpRectilinear {
    std::vector<std::array<double, 6>> planes;  ///< k0, k1, k2, k3, t0, t1
    Vec2 centre{0.5, 0.5};
};

/// WarpFisheye (2): f = (k0 a + k1 a^3 + k2 a^5 + k3 a^7) / r, a = atan(r): the corrected picture is one of perspective
/// with a focal length of m.
struct WarpFisheye {
    std::vector<std::array<double, 4>> planes;
    Vec2 centre{0.5, 0.5};
};

/// FixVignetteRadial (3): the gain 1 + k0 r^2 + k1 r^4 + k2 r^6 + k3 r^8 + k4 r^10 of all planes.
struct FixVignetteRadial {
    std::array<double, 5> k{};
    Vec2 centre{0.5, 0.5};
};

/// FixBadPixelsList (5): samples to be replaced, (row, column), and the colour of the first one (0 red, 1 green beside
/// red, 2 green beside blue, 3 blue). Both count from the first sample that is stored, the invisible border included.
struct FixBadPixelsList {
    std::uint32_t bayer_phase = 0;
    std::vector<std::array<std::uint32_t, 2>> points;
};

/// GainMap (9): factors on a grid, between which the gain is linear both ways.
struct GainMap {
    std::uint32_t top = 0, left = 0, bottom = 0, right = 0;  ///< samples that it applies to
    std::uint32_t plane = 0, planes = 1, row_pitch = 1, column_pitch = 1;
    std::uint32_t down = 1, across = 1;           ///< points
    double spacing_down = 1, spacing_across = 1;  ///< in shares of the picture's height and width
    double origin_down = 0, origin_across = 0;
    std::uint32_t map_planes = 1;
    std::vector<float> gain;  ///< row by row, plane by plane
};

/// An opcode that Optrel does not evaluate; kept with its number.
struct OtherOpcode {
    std::uint32_t id = 0;
};

struct Opcode {
    std::variant<OtherOpcode, WarpRectilinear, WarpFisheye, FixVignetteRadial, FixBadPixelsList, GainMap> what;
    bool optional = true;
    bool skipped_for_preview = false;
};

/// The bytes of an OpcodeList tag; empty without opcodes.
std::string encode_opcodes(const std::vector<Opcode>& opcodes);
/// Throws Error(input) about `where` for bytes that end too early, have wrong sizes, or contain values that are not
/// finite.
std::vector<Opcode> decode_opcodes(const std::string& bytes, const std::string& where);
/// Ids of the opcodes in a list, from their heads. Never throws: a damaged list ends at the damage.
std::vector<std::uint32_t> opcode_ids(const std::string& bytes);

/// The name in the specification, "WarpRectilinear" for 1; "opcode 12" for an id without a name here.
std::string opcode_name(std::uint32_t id);
std::string name_of(const Opcode& opcode);

/// The position in the frame of a place in the corrected picture, in px of a picture of that size with its outer corner
/// at (0, 0); plane 0 to 2. A warp with one set of coefficients uses it for all planes.
Vec2 warped(const WarpRectilinear& warp, int plane, const Vec2& place, const PictureGeometry& geometry);
Vec2 warped(const WarpFisheye& warp, int plane, const Vec2& place, const PictureGeometry& geometry);
double gain_at(const FixVignetteRadial& fix, const Vec2& place, const PictureGeometry& geometry);

/// The meaning of a relative centre, and the distance m of the farthest corner; px as above.
struct OpcodeFrame {
    Vec2 centre;
    double m;
};
OpcodeFrame opcode_frame(const Vec2& relative, const PictureGeometry& geometry);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/embedded_correction.h"

#include <fmt/format.h>

#include <Eigen/Core>
#include <algorithm>
#include <cmath>

#include "frames/opcode_lists.h"
#include "optics/linear.h"

namespace optrel {

namespace {

/// Position in the frame for a position in the warped picture.
std::optional<Vec2> warped_by(const Opcode& opcode, int plane, const Vec2& place, const PictureGeometry& g) {
    if (const auto* w = std::get_if<WarpRectilinear>(&opcode.what)) return warped(*w, plane, place, g);
    if (const auto* w = std::get_if<WarpFisheye>(&opcode.what)) return warped(*w, plane, place, g);
    return std::nullopt;
}

const Opcode* warp_of(const EmbeddedCorrection& embedded) {
    for (const EmbeddedOpcode& e : embedded.opcodes)
        if (warped_by(e.opcode, 1, {0, 0}, embedded.geometry)) return &e.opcode;
    return nullptr;
}

/// Corresponding positions in the warp's picture and in the profile's, and the displacement of red and blue from the
/// profile (px of the frame).
struct Pair {
    Vec2 place, ideal;
    double colour;
};

std::vector<Pair> pairs_of(const Opcode& warp, const FrameMap& lens) {
    const PictureGeometry& g = lens.geometry();
    std::vector<Pair> out;
    for (const Vec2& place : picture_grid(g, 41, 31)) {
        const Vec2 green = *warped_by(warp, 1, place, g);
        if (!g.contains(green)) continue;
        const std::optional<Vec2> ideal = lens.ideal(green);
        if (!ideal) continue;
        Pair pair{place, *ideal, 0};
        for (const Channel c : {Channel::red, Channel::blue}) {
            const Vec2 wanted = lens.fringe(c, green) - green,
                       there = *warped_by(warp, static_cast<int>(c), place, g) - green;
            pair.colour = std::max(pair.colour, (wanted - there).norm());
        }
        out.push_back(pair);
    }
    return out;
}

/// Removes scale and shift of the whole picture (least squares) and returns the rest.
void judge(const std::vector<Pair>& pairs, EmbeddedDifference& out) {
    Eigen::MatrixXd a(2 * static_cast<Eigen::Index>(pairs.size()), 3);
    Eigen::VectorXd b(a.rows());
    for (std::size_t i = 0; i < pairs.size(); ++i) {
        const auto row = 2 * static_cast<Eigen::Index>(i);
        a.row(row) << pairs[i].place.x(), 1, 0;
        a.row(row + 1) << pairs[i].place.y(), 0, 1;
        b.segment<2>(row) = pairs[i].ideal;
    }
    const Eigen::VectorXd x = least_squares(a, b), left = a * x - b;
    double largest = 0, colour = 0;
    for (std::size_t i = 0; i < pairs.size(); ++i) {
        largest = std::max(largest, left.segment<2>(2 * static_cast<Eigen::Index>(i)).norm());
        colour = std::max(colour, pairs[i].colour);
    }
    out.rms_px = std::sqrt(left.squaredNorm() / static_cast<double>(pairs.size()));
    out.largest_px = largest;
    out.colour_largest_px = colour;
}

}  // namespace

std::string EmbeddedCorrection::in_words() const {
    std::vector<std::pair<std::string, int>> names;  // in order, with counts
    for (const EmbeddedOpcode& e : opcodes) {
        const std::string name = fmt::format("{} ({})", name_of(e.opcode), e.opcode.optional ? "optional" : "required");
        if (names.empty() || names.back().first != name) names.emplace_back(name, 0);
        ++names.back().second;
    }
    std::string out;
    for (const auto& [name, count] : names) {
        if (!out.empty()) out += ", ";
        if (count > 1) out += fmt::format("{} ", count);
        out += name;
    }
    return out.empty() ? "none" : out;
}

EmbeddedCorrection embedded_correction(const std::filesystem::path& frame, const Metadata& metadata) {
    EmbeddedCorrection out;
    out.geometry = geometry_of(metadata);
    const std::array<std::string, 3> lists = read_opcode_lists(frame);
    for (int i = 0; i < 3; ++i) {
        if (lists[i].empty()) continue;
        for (Opcode& opcode : decode_opcodes(lists[i], frame.string()))
            out.opcodes.push_back({i + 1, std::move(opcode)});
    }
    return out;
}

EmbeddedDifference embedded_difference(const EmbeddedCorrection& embedded, const AppliedProfile& profile) {
    const FrameMap lens(profile.node, profile.reference, embedded.geometry);
    EmbeddedDifference out;
    if (const Opcode* warp = warp_of(embedded)) {
        const std::vector<Pair> pairs = pairs_of(*warp, lens);
        if (pairs.size() >= 20) judge(pairs, out);
    }
    for (const EmbeddedOpcode& e : embedded.opcodes)
        if (const auto* radial = std::get_if<FixVignetteRadial>(&e.opcode.what)) {
            double largest = 0;
            for (const Vec2& place : picture_grid(embedded.geometry, 41, 31))
                largest = std::max(
                    largest,
                    std::abs(gain_at(*radial, place, embedded.geometry) / lens.gain(Channel::green, place) - 1));
            out.falloff_largest_percent = 100 * largest;
        }
    return out;
}

}  // namespace optrel

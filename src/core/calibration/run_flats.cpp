// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/run_flats.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/error.h"
#include "base/median.h"
#include "calibration/lens_settings.h"
#include "optics/linear.h"

namespace optrel {

std::vector<LensSetting> settings_of(const std::vector<RunFrame>& frames, const std::vector<int>& index) {
    std::vector<LensSetting> out;
    for (const int i : index)
        out.push_back({frames[i].metadata.focal_mm, frames[i].metadata.aperture, frames[i].metadata.distance_m});
    return out;
}

namespace {

double stops_apart(double a, double b) { return a > 0 && b > 0 ? std::abs(2 * std::log2(a / b)) : 0; }
bool same_focal(double a, double b) { return !(a > 0 && b > 0) || std::abs(a / b - 1) < 0.01; }

/// Difference of two flats apart from their level and a plane of light: the 95th percentile over the green blocks of
/// the ratio, as a share. Flats of one lens setting agree within a percent or two, whatever the light.
double flats_apart(const FlatField& a, const FlatField& b, const PictureGeometry& geometry) {
    std::map<std::pair<double, double>, double> of_a;
    for (const FlatField::Block& block : a.blocks)
        if (block.channel == Channel::green) of_a[{block.uv.x(), block.uv.y()}] = block.mean;
    std::vector<Vec3> rows;
    std::vector<double> ratio;
    for (const FlatField::Block& block : b.blocks) {
        const auto it = of_a.find({block.uv.x(), block.uv.y()});
        if (block.channel != Channel::green || it == of_a.end() || !(it->second > 0) || !(block.mean > 0)) continue;
        const Vec2 s = geometry.to_sensor(block.uv) / geometry.half_diagonal_mm();
        rows.emplace_back(1, s.x(), s.y());
        ratio.push_back(std::log(block.mean / it->second));
    }
    if (rows.size() < 20) return 1;
    Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
    Vec3 right = Vec3::Zero();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        normal += rows[i] * rows[i].transpose();
        right += rows[i] * ratio[i];
    }
    const Vec3 plane = solve_symmetric(normal, right);
    std::vector<double> off;
    for (std::size_t i = 0; i < rows.size(); ++i) off.push_back(std::abs(ratio[i] - rows[i].dot(plane)));
    const auto p95 = off.begin() + static_cast<std::ptrdiff_t>(0.95 * static_cast<double>(off.size() - 1));
    std::nth_element(off.begin(), p95, off.end());
    return std::expm1(*p95);
}

/// Leaves out a flat that differs from two or more others; with only two, neither can be blamed.
void leave_out_others(const std::vector<RunFrame>& frames, std::vector<FlatField>& fields, std::vector<int>& members,
                      RunSolution& out) {
    constexpr double limit = 0.2;
    while (fields.size() > 2) {
        // The flat that agrees best with the others represents them.
        std::vector<std::vector<double>> apart(fields.size(), std::vector<double>(fields.size(), 0));
        for (std::size_t i = 0; i < fields.size(); ++i)
            for (std::size_t j = 0; j < i; ++j)
                apart[i][j] = apart[j][i] = flats_apart(fields[i], fields[j], out.profile.geometry);
        std::size_t worst = 0;
        std::vector<double> typical;
        for (std::size_t i = 0; i < fields.size(); ++i) {
            std::vector<double> others;
            for (std::size_t j = 0; j < fields.size(); ++j)
                if (j != i) others.push_back(apart[i][j]);
            typical.push_back(median(others));
            if (typical[i] > typical[worst]) worst = i;
        }
        // More than half must agree, otherwise it is unknown which flat is the wrong one.
        if (typical[worst] <= limit || median(typical) > limit) return;
        out.outcomes[members[worst]].reason = fmt::format(
            "{} differs from the other flat fields by {:.0f} % (limit {:.0f} %), so that it is another picture; look "
            "for another lens, another aperture or an object.",
            frames[members[worst]].name(), 100 * typical[worst], 100 * limit);
        fields.erase(fields.begin() + static_cast<std::ptrdiff_t>(worst));
        members.erase(members.begin() + static_cast<std::ptrdiff_t>(worst));
    }
}

/// Leaves out flats that deviate from the common falloff (a shadow, an object) while others remain; the last ones stay,
/// with a finding.
template <class Refit>
void leave_out_uneven(const std::vector<RunFrame>& frames, std::vector<FlatField>& fields, std::vector<int>& members,
                      FalloffFit& fit, RunSolution& out, const Refit& refit) {
    const auto describe = [&](std::size_t k) {
        const FlatCheck& c = fit.flats[k];
        return fmt::format(
            "{} is not evenly lit: {:.0f} % of it differs from a smooth falloff by up to {:.1f} % (limit {:.0f} % of "
            "the area)",
            frames[members[k]].name(), 100 * c.uneven, c.worst_percent, 100 * FlatCheck::limit);
    };
    const auto evenly = [&] {
        return std::count_if(fit.flats.begin(), fit.flats.end(), [](const FlatCheck& c) { return c.is_flat(); });
    };
    // One flat field that is far off makes all of them look uneven: the worst is left out while two others remain.
    while (evenly() == 0 && fields.size() > 2) {
        const auto worse = [](const FlatCheck& a, const FlatCheck& b) { return a.uneven < b.uneven; };
        const auto k =
            static_cast<std::size_t>(std::max_element(fit.flats.begin(), fit.flats.end(), worse) - fit.flats.begin());
        out.outcomes[members[k]].reason = describe(k) + "; look for a shadow or an object.";
        fields.erase(fields.begin() + static_cast<std::ptrdiff_t>(k));
        members.erase(members.begin() + static_cast<std::ptrdiff_t>(k));
        fit = refit();
    }
    const auto flat = evenly();
    if (flat == static_cast<std::ptrdiff_t>(fields.size())) return;
    if (flat == 0) {
        for (std::size_t k = 0; k < fields.size(); ++k)
            out.findings.push_back(
                {"flats@" + frames[members[k]].name(), describe(k) + ".",
                 "Photograph a plain, evenly lit surface out of focus, without shadows, and leave this one out.", true,
                 false, members[k], fit.flats[k].worst_place});
        return;
    }
    std::vector<FlatField> kept;
    std::vector<int> kept_members;
    for (std::size_t k = 0; k < fields.size(); ++k) {
        if (fit.flats[k].is_flat()) {
            kept.push_back(fields[k]);
            kept_members.push_back(members[k]);
        } else {
            out.outcomes[members[k]].reason = describe(k) + "; look for a shadow or an object.";
        }
    }
    fields = std::move(kept);
    members = std::move(kept_members);
    fit = refit();
}

/// The flats of one focal length and aperture.
struct FlatGroup {
    LensSetting setting;
    std::vector<FlatField> fields;
    std::vector<int> members;  ///< indices of their frames
};

std::vector<FlatGroup> flat_groups(const std::vector<RunFrame>& frames, const RunSolution& solution) {
    std::vector<int> flats;
    for (std::size_t i = 0; i < frames.size(); ++i)
        if (frames[i].role == RunRole::flat && solution.outcomes[i].reason.empty())
            flats.push_back(static_cast<int>(i));
    std::vector<LensSetting> at = settings_of(frames, flats);
    for (LensSetting& s : at) s.distance_m = 0;  // flats are often taken out of focus
    const std::vector<int> group = group_settings(at);
    std::vector<FlatGroup> out(group.empty() ? 0 : *std::max_element(group.begin(), group.end()) + 1);
    std::vector<std::vector<LensSetting>> own(out.size());
    for (std::size_t k = 0; k < flats.size(); ++k) {
        own[group[k]].push_back(at[k]);
        out[group[k]].fields.push_back(frames[flats[k]].flat);
        out[group[k]].members.push_back(flats[k]);
    }
    for (std::size_t g = 0; g < out.size(); ++g) out[g].setting = typical_setting(own[g]);
    return out;
}

/// The nodes whose falloff these flats measure. For an aperture without charts, two or more flats make a new node with
/// the mapping of the nearest one, because distortion hardly depends on the aperture; a single flat may be a mistake
/// and makes none. Empty when no chart was taken near the setting.
std::vector<int> nodes_for(const LensSetting& setting, std::size_t flats, std::size_t solved_nodes, RunSolution& out) {
    std::vector<int> nodes;
    int nearest = -1;
    const auto apart = [&](int n) { return stops_apart(out.profile.nodes[n].setting.aperture, setting.aperture); };
    for (int n = 0; n < static_cast<int>(solved_nodes); ++n) {
        if (!same_focal(out.profile.nodes[n].setting.focal_mm, setting.focal_mm)) continue;
        if (apart(n) < 1.0 / 6) nodes.push_back(n);
        if (nearest < 0 || apart(n) < apart(nearest)) nearest = n;
    }
    if (nearest < 0 || !nodes.empty() || flats < 2) return nodes;
    ProfileNode copy = out.profile.nodes[nearest];
    copy.mapping_from_aperture = copy.setting.aperture;
    copy.setting.aperture = setting.aperture;
    out.profile.nodes.push_back(copy);
    out.nodes.push_back(out.nodes[nearest]);
    return {static_cast<int>(out.profile.nodes.size()) - 1};
}

/// The falloff of a group of flats; also records which frames were used. Throws Error(input) when none fits.
Falloff group_falloff(const std::vector<RunFrame>& frames, FlatGroup& group, const Vec2& centre_mm, RunSolution& out,
                      const Progress& progress) {
    leave_out_others(frames, group.fields, group.members, out);
    const auto refit = [&] { return fit_falloff(group.fields, centre_mm, out.profile.geometry, progress); };
    FalloffFit fit = refit();
    leave_out_uneven(frames, group.fields, group.members, fit, out, refit);
    for (std::size_t k = 0; k < group.members.size(); ++k)
        out.outcomes[group.members[k]].light_side = fit.flats[k].light_side;
    return fit.falloff;
}

/// Without flats, the white squares of the charts give an estimate, which is marked.
void add_falloff_of_whites(const std::vector<RunFrame>& frames, std::size_t solved_nodes, RunSolution& out,
                           const Progress& progress) {
    for (std::size_t n = 0; n < solved_nodes; ++n) {
        ProfileNode& node = out.profile.nodes[n];
        if (node.falloff) continue;
        std::vector<FlatField> whites;
        for (std::size_t i = 0; i < frames.size(); ++i)
            if (out.outcomes[i].used && out.outcomes[i].node == static_cast<int>(n) &&
                frames[i].role == RunRole::chart && !frames[i].whites.blocks.empty())
                whites.push_back(frames[i].whites);
        if (!whites.empty()) node.falloff = falloff_from_whites(whites, node.centre_mm, out.profile.geometry, progress);
    }
}

}  // namespace

void add_falloff(const std::vector<RunFrame>& frames, RunSolution& out, const Progress& progress) {
    const std::size_t solved_nodes = out.profile.nodes.size();
    for (FlatGroup& group : flat_groups(frames, out)) {
        const std::vector<int> nodes = nodes_for(group.setting, group.members.size(), solved_nodes, out);
        if (nodes.empty()) {
            const char* alone =
                group.members.size() == 1 ? " One flat field alone makes no lens setting; take two or more." : "";
            for (const int i : group.members)
                out.outcomes[i].reason = fmt::format("{} was taken at {}, where no chart frames were taken.{}",
                                                     frames[i].name(), to_string(group.setting), alone);
            continue;
        }
        try {
            const Vec2 centre_mm = out.profile.nodes[nodes.front()].centre_mm;
            const Falloff falloff = group_falloff(frames, group, centre_mm, out, progress);
            for (const int n : nodes) out.profile.nodes[n].falloff = falloff;
        } catch (const Cancelled&) {
            throw;
        } catch (const Error& error) {
            // The mapping is useful without its falloff.
            for (const int i : group.members) out.outcomes[i].reason = error.what();
            continue;
        }
        for (const int i : group.members) {
            out.outcomes[i].used = true;
            out.outcomes[i].node = nodes.front();
        }
    }
    add_falloff_of_whites(frames, solved_nodes, out, progress);
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/words.h"
#include "optics/frame_map.h"
#include "optics/lens_model_fit.h"
#include "optics/placement.h"
#include "optics/profile.h"

namespace optrel {
namespace {

using Weights = NodeSum;

double mean_aspect(const std::vector<ProfileNode>& nodes, const Weights& weights) {
    double out = 0;
    for (const auto& [i, w] : weights) out += w * nodes[i].model.aspect();
    return std::clamp(out, 0.9, 1.1);
}

/// The model of a lens with this focal length whose displacements (mm at a place in mm) are the weighted mean of those
/// of rectilinear nodes. Exact when all are radial-tangential; otherwise a rational model is fitted to the mean, out to
/// `reach_mm`.
LensModel blend_rectilinear(const std::vector<ProfileNode>& nodes, const Weights& weights, double focal_mm,
                            double reach_mm) {
    const LensModelKind first = nodes[weights.front().first].model.kind();
    const bool exact = first->polynomial() && std::all_of(weights.begin(), weights.end(), [&](const auto& w) {
                           return nodes[w.first].model.kind() == first;
                       });
    LensModel out(exact ? first : LensModelKind::rational);
    LensModel::Coefficients c = out.coefficients();
    if (!exact) {
        const auto mean = [&](double tangent) {
            const double s = tangent * focal_mm;
            double displaced = s;
            for (const auto& [i, w] : weights)
                displaced += w * (nodes[i].focal_mm * nodes[i].model.bent_radius(s / nodes[i].focal_mm) - s);
            return displaced / focal_mm;
        };
        c = fit_radial(out.kind(), {0, 1, 2, 3, 4, 5}, mean, std::atan(reach_mm / focal_mm)).coefficients();
    }
    const int radial = out.kind()->radial_count();
    for (const auto& [i, w] : weights) {
        const LensModel& own = nodes[i].model;
        const int own_radial = own.kind()->radial_count();
        const auto blend = [&, &i = i, &w = w](int k, int own_k) {
            const double ratio = std::pow(focal_mm / nodes[i].focal_mm, own.kind()->focal_power(own_k));
            c[k] += w * own.coefficients()[own_k] * ratio;
        };
        for (int k = 0; exact && k < radial; ++k) blend(k, k);
        for (int k = 0; k < own.kind()->decentring_count(); ++k) blend(radial + k, own_radial + k);
    }
    return LensModel(out.kind(), c).with_aspect(mean_aspect(nodes, weights));
}

/// The model whose coefficients are the weighted mean of those of fisheye nodes. Nodes of another form than the first
/// are converted to it, out to the largest angle (radians) that the lens shows.
LensModel blend_fisheye(const std::vector<ProfileNode>& nodes, const Weights& weights, LensModelKind kind,
                        double angle) {
    LensModel::Coefficients c = LensModel(kind).coefficients();
    for (const auto& [i, w] : weights) {
        const LensModel& own = nodes[i].model;
        if (own.kind() == kind) {
            c += w * own.coefficients();
            continue;
        }
        LensModel::Coefficients fitted = fit_radial(
                                             kind, {0, 1, 2, 3}, [&](double t) { return own.bent_radius(t); }, angle)
                                             .coefficients();
        fitted.tail(kind->decentring_count()) = own.coefficients().tail(kind->decentring_count());
        c += w * fitted;
    }
    return LensModel(kind, c).with_aspect(mean_aspect(nodes, weights));
}

/// The largest distance from the middle at which ideal positions are needed: a little beyond the corner, for barrel
/// distortion.
double reach_of(const ProfileNode& node) { return 1.3 * std::max(1.0, node.largest_radius_mm); }

/// Focal length and setting. The calibrated focal length follows the recorded one, corrected as at the nodes.
void blend_setting(const std::vector<ProfileNode>& nodes, const Weights& weights, const LensSetting& at,
                   ProfileNode& out) {
    double log_focal = 0, log_ratio = 0;
    for (const auto& [i, w] : weights) {
        const ProfileNode& n = nodes[i];
        const double recorded = n.setting.focal_mm > 0 ? n.setting.focal_mm : n.focal_mm;
        log_focal += w * std::log(n.focal_mm);
        log_ratio += w * std::log(n.focal_mm / recorded);
    }
    const bool follows = at.focal_mm > 0 && out.setting.focal_mm > 0;
    out.focal_mm = follows ? at.focal_mm * std::exp(log_ratio) : std::exp(log_focal);
    if (at.focal_mm > 0) out.setting.focal_mm = at.focal_mm;
    if (at.aperture > 0) out.setting.aperture = at.aperture;
    if (at.distance_m > 0) out.setting.distance_m = at.distance_m;
}

/// Blends centre and model when all nodes are rectilinear or all are fisheyes; otherwise those of the node with the
/// largest weight stay.
void blend_mapping(const std::vector<ProfileNode>& nodes, const Weights& weights, ProfileNode& out) {
    const auto all = [&](bool angular) {
        return std::all_of(weights.begin(), weights.end(),
                           [&](const auto& w) { return nodes[w.first].model.kind()->angular() == angular; });
    };
    const bool rectilinear = all(false), fisheye = all(true);
    if (!rectilinear && !fisheye) return;
    out.centre_mm.setZero();
    for (const auto& [i, w] : weights) out.centre_mm += w * nodes[i].centre_mm;
    // A little more than most fisheyes show on their diagonal, and less than 90 degrees, where the tangent is infinite.
    constexpr double angle = 1.4;
    out.model = rectilinear ? blend_rectilinear(nodes, weights, out.focal_mm, reach_of(out))
                            : blend_fisheye(nodes, weights, out.model.kind(), angle);
}

/// Empty unless all nodes have it.
std::optional<LateralChromatic> blend_fringe(const std::vector<ProfileNode>& nodes, const Weights& weights,
                                             std::optional<LateralChromatic> ProfileNode::*which) {
    LateralChromatic f;
    for (const auto& [i, w] : weights) {
        if (!(nodes[i].*which)) return std::nullopt;
        const LateralChromatic& g = *(nodes[i].*which);
        f.c0 += w * g.c0;
        f.c1 += w * g.c1;
        f.c2 += w * g.c2;
        f.shift_mm += w * g.shift_mm;
        f.residual_p95_px = std::max(f.residual_p95_px, g.residual_p95_px);
    }
    return f;
}

/// Empty unless all nodes have a falloff of the same form.
std::optional<Falloff> blend_falloff(const std::vector<ProfileNode>& nodes, const Weights& weights,
                                     const std::optional<Falloff>& heaviest) {
    if (!heaviest) return std::nullopt;
    Falloff f = *heaviest;
    f.a = {};
    f.centre_mm.setZero();
    for (const auto& [i, w] : weights) {
        if (!nodes[i].falloff || nodes[i].falloff->reciprocal != f.reciprocal) return std::nullopt;
        const Falloff& g = *nodes[i].falloff;
        for (int c = 0; c < 3; ++c)
            for (int t = 0; t < 4; ++t) f.a[c][t] += w * g.a[c][t];
        f.centre_mm += w * g.centre_mm;
        f.sigma_percent = std::max(f.sigma_percent, g.sigma_percent);
    }
    return f;
}

ProfileNode blend(const std::vector<ProfileNode>& nodes, const Weights& weights, const LensSetting& at) {
    const auto heaviest = std::max_element(weights.begin(), weights.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
    ProfileNode out = nodes[heaviest->first];
    blend_setting(nodes, weights, at, out);
    blend_mapping(nodes, weights, out);
    // The uncertainty of a blend comes from mapping_covariance() and similar functions; the figures of a single node do
    // not apply.
    out.covariance.resize(0, 0);
    out.misfit_px = 0;
    // Parts that cannot be blended stay those of the node with the largest weight.
    if (const auto red = blend_fringe(nodes, weights, &ProfileNode::red)) out.red = red;
    if (const auto blue = blend_fringe(nodes, weights, &ProfileNode::blue)) out.blue = blue;
    if (const auto falloff = blend_falloff(nodes, weights, out.falloff)) out.falloff = falloff;
    out.largest_radius_mm = nodes[weights.front().first].largest_radius_mm;
    for (const auto& [i, w] : weights)
        out.largest_radius_mm = std::min(out.largest_radius_mm, nodes[i].largest_radius_mm);
    return out;
}

}  // namespace

std::pair<double, double> focal_range(const Profile& profile) {
    double low = 0, high = 0;
    for (const ProfileNode& n : profile.nodes) {
        const double f = n.setting.focal_mm;
        if (f <= 0) continue;
        low = low > 0 ? std::min(low, f) : f;
        high = std::max(high, f);
    }
    return {low, high};
}

std::string to_string(Placement placement) {
    switch (placement) {
        case Placement::between: return "between measured settings";
        case Placement::extrapolated: return "outside the measured settings";
        default: return "measured";
    }
}

PlacedNode node_at(const Profile& profile, const LensSetting& setting) {
    if (profile.nodes.empty())
        throw input_error("The profile '" + profile.name + "' holds no lens setting; solve the lens again.");
    PlacedSetting placed = place_setting(profile.nodes, setting);
    PlacedNode out;
    out.node = placed.weights.size() == 1 ? profile.nodes[placed.weights.front().first]
                                          : blend(profile.nodes, placed.weights, setting);
    out.placement = placed.placement;
    out.parts = std::move(placed.weights);
    out.doubts = std::move(placed.doubts);
    return out;
}

std::vector<LeftOut> leave_one_out(const Profile& profile) {
    std::vector<LeftOut> out;
    if (profile.nodes.size() < 3) return out;
    const std::vector<Vec2> grid = picture_grid(profile.geometry, 25, 17);
    for (std::size_t k = 0; k < profile.nodes.size(); ++k) {
        Profile others = profile;
        others.nodes.erase(others.nodes.begin() + static_cast<std::ptrdiff_t>(k));
        const ProfileNode& truth = profile.nodes[k];
        const PlacedNode guess = node_at(others, truth.setting);
        if (guess.placement != Placement::between) continue;
        // Both use the same ideal picture, because focal length and centre are exchangeable with the pose of the
        // camera.
        ProfileNode predicted = guess.node;
        if (!guess.node.model.kind()->angular())
            predicted.model = blend_rectilinear({guess.node}, {{0, 1.0}}, truth.focal_mm, reach_of(truth));
        predicted.focal_mm = truth.focal_mm;
        predicted.centre_mm = truth.centre_mm;
        predicted.setting = truth.setting;
        const FrameMap a(truth, profile.geometry, profile.geometry), b(predicted, profile.geometry, profile.geometry);
        LeftOut left{static_cast<int>(k), 0, 0, 0};
        int count = 0;
        for (const Vec2& p : grid) {
            if (!a.reaches(p) || !b.reaches(p)) continue;
            const double miss = (a.green(p) - b.green(p)).norm();
            left.rms_px += miss * miss;
            left.largest_px = std::max(left.largest_px, miss);
            ++count;
            if (a.has_falloff() && b.has_falloff()) {
                const double ev = std::log2(b.gain(Channel::green, p) / a.gain(Channel::green, p));
                if (std::abs(ev) > std::abs(left.falloff_ev)) left.falloff_ev = ev;
            }
        }
        left.rms_px = count ? std::sqrt(left.rms_px / count) : 0;
        out.push_back(left);
    }
    return out;
}

namespace {

/// Findings whose names contain their lens setting, as in profiles with several settings.
std::vector<SeriousFinding> named_findings(const Profile& profile) {
    std::vector<SeriousFinding> out = profile.findings;
    if (profile.nodes.size() == 1)
        for (SeriousFinding& f : out)
            if (f.name.find('@') == std::string::npos) f.name += "@" + compact(profile.nodes.front().setting);
    return out;
}

/// Findings of settings that stay are kept; newly measured settings bring their own.
std::vector<SeriousFinding> merged_findings(const Profile& base, const Profile& added) {
    std::vector<SeriousFinding> out;
    for (const SeriousFinding& f : named_findings(base))
        if (std::none_of(added.nodes.begin(), added.nodes.end(),
                         [&](const ProfileNode& n) { return f.name.ends_with("@" + compact(n.setting)); }))
            out.push_back(f);
    for (SeriousFinding& f : named_findings(added)) out.push_back(std::move(f));
    return out;
}

}  // namespace

Profile merged(const Profile& base, const Profile& added) {
    if (canonical_lens_text(base.lens) != canonical_lens_text(added.lens) || base.lens_serial != added.lens_serial)
        throw input_error(
            fmt::format("The profile of {} {} cannot take lens settings of {} {}: they are different lenses.",
                        base.lens, base.lens_serial, added.lens, added.lens_serial));
    if (base.camera != added.camera || base.geometry.width != added.geometry.width ||
        base.geometry.height != added.geometry.height)
        throw input_error(fmt::format(
            "The profile was measured on {}, the new lens settings on {}; publish them as a profile of their own.",
            base.camera, added.camera));
    Profile out = base;
    for (const ProfileNode& n : added.nodes) {
        const auto it = std::find_if(out.nodes.begin(), out.nodes.end(),
                                     [&](const ProfileNode& old) { return same_setting(old.setting, n.setting); });
        if (it == out.nodes.end())
            out.nodes.push_back(n);
        else
            *it = n;
    }
    out.version = 0;
    out.findings = merged_findings(base, added);
    const std::vector<std::pair<std::string, std::string>> old_frames = base.provenance.frames;
    out.provenance = added.provenance;
    for (const auto& frame : old_frames)
        if (std::find(out.provenance.frames.begin(), out.provenance.frames.end(), frame) == out.provenance.frames.end())
            out.provenance.frames.push_back(frame);
    return out;
}

std::vector<LensSetting> settings_missing(const Profile& before, const Profile& now) {
    std::vector<LensSetting> out;
    for (const ProfileNode& old : before.nodes)
        if (std::none_of(now.nodes.begin(), now.nodes.end(),
                         [&](const ProfileNode& n) { return same_setting(old.setting, n.setting); }))
            out.push_back(old.setting);
    return out;
}

}  // namespace optrel

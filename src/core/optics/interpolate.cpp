#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "optics/frame_map.h"
#include "optics/lens_model_fit.h"
#include "optics/placement.h"
#include "optics/profile.h"

namespace optrel {
namespace {

using Weights = NodeSum;

/// Decentring coefficients (the last four) as effects per mm on the sensor, in which displacements are linear, and
/// back.
void scale_decentring(LensModel::Coefficients& c, double focal_mm, bool back) {
    static constexpr int power[] = {1, 1, -1, -1};
    for (int k = 0; k < 4; ++k) c[c.size() - 4 + k] *= std::pow(focal_mm, back ? power[k] : -power[k]);
}

/// The model of a lens of this focal length whose displacements (mm at a place in mm) are the weighted mean of those of
/// rectilinear nodes. Exact where all are radial-tangential; otherwise a quotient of polynomials is fitted to the mean,
/// out to `reach_mm`.
LensModel blend_rectilinear(const std::vector<ProfileNode>& nodes, const Weights& weights, double focal_mm,
                            double reach_mm) {
    const LensModelKind first = nodes[weights.front().first].model.kind();
    const bool exact = first->polynomial() && std::all_of(weights.begin(), weights.end(), [&](const auto& w) {
                           return nodes[w.first].model.kind() == first;
                       });
    LensModel out(exact ? first : LensModelKind::rational);
    LensModel::Coefficients c = out.coefficients();
    if (exact) {
        for (const auto& [i, w] : weights)
            for (int k = 0; k < first->radial_count(); ++k)
                c[k] += w * nodes[i].model.coefficients()[k] * std::pow(focal_mm / nodes[i].focal_mm, 2 * (k + 1));
    } else {
        const auto mean = [&](double tangent) {
            const double s = tangent * focal_mm;
            double displaced = s;
            for (const auto& [i, w] : weights)
                displaced += w * (nodes[i].focal_mm * nodes[i].model.bent_radius(s / nodes[i].focal_mm) - s);
            return displaced / focal_mm;
        };
        c = fit_radial(out.kind(), {0, 1, 2, 3, 4, 5}, mean, std::atan(reach_mm / focal_mm)).coefficients();
    }
    for (const auto& [i, w] : weights) {
        LensModel::Coefficients own = nodes[i].model.coefficients();
        scale_decentring(own, nodes[i].focal_mm, false);
        c.tail<decentring_count>() += w * own.tail<decentring_count>();
    }
    scale_decentring(c, focal_mm, true);
    return LensModel(out.kind(), c);
}

/// The model whose coefficients are the weighted mean of those of fisheye nodes; nodes of another form than the first
/// one's are fitted to it, out to the angle (radians) that the lens shows.
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
        fitted.tail<decentring_count>() = own.coefficients().tail<decentring_count>();
        c += w * fitted;
    }
    return LensModel(kind, c);
}

/// How far from the middle ideal positions are asked for: a little beyond the corner, for barrel.
double reach_of(const ProfileNode& node) { return 1.3 * std::max(1.0, node.largest_radius_mm); }

ProfileNode blend(const std::vector<ProfileNode>& nodes, const Weights& weights, const LensSetting& at) {
    const auto heaviest = std::max_element(weights.begin(), weights.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
    ProfileNode out = nodes[heaviest->first];
    bool rectilinear = true, fisheye = true, all_red = true, all_blue = true, all_falloff = true;
    double log_ratio = 0;
    for (const auto& [i, w] : weights) {
        const ProfileNode& n = nodes[i];
        rectilinear = rectilinear && !n.model.kind()->angular();
        fisheye = fisheye && n.model.kind()->angular();
        all_red = all_red && n.red;
        all_blue = all_blue && n.blue;
        all_falloff = all_falloff && n.falloff && out.falloff && n.falloff->reciprocal == out.falloff->reciprocal;
        log_ratio += w * std::log(n.focal_mm / (n.setting.focal_mm > 0 ? n.setting.focal_mm : n.focal_mm));
    }
    // The calibrated focal length follows the recorded one, corrected as at the nodes.
    double log_focal = 0;
    for (const auto& [i, w] : weights) log_focal += w * std::log(nodes[i].focal_mm);
    out.focal_mm =
        at.focal_mm > 0 && out.setting.focal_mm > 0 ? at.focal_mm * std::exp(log_ratio) : std::exp(log_focal);
    out.setting = {at.focal_mm > 0 ? at.focal_mm : out.setting.focal_mm,
                   at.aperture > 0 ? at.aperture : out.setting.aperture,
                   at.distance_m > 0 ? at.distance_m : out.setting.distance_m};
    if (rectilinear || fisheye) {
        out.centre_mm.setZero();
        for (const auto& [i, w] : weights) out.centre_mm += w * nodes[i].centre_mm;
    }
    if (rectilinear) {
        out.model = blend_rectilinear(nodes, weights, out.focal_mm, reach_of(out));
    } else if (fisheye) {
        // A little beyond what most fisheyes show on their diagonal, and short of the right angle, where a tangent
        // ends.
        constexpr double angle = 1.4;
        out.model = blend_fisheye(nodes, weights, out.model.kind(), angle);
    }
    // What the parts leave in doubt is told by mapping_covariance() and its like; one node's own figures mean nothing
    // for a blend.
    out.covariance.resize(0, 0);
    out.misfit_px = 0;
    const auto blend_fringe = [&](std::optional<Fringe> ProfileNode::*which) {
        Fringe f;
        for (const auto& [i, w] : weights) {
            const Fringe& g = *(nodes[i].*which);
            f.c0 += w * g.c0;
            f.c1 += w * g.c1;
            f.c2 += w * g.c2;
            f.shift_mm += w * g.shift_mm;
            f.residual_p95_px = std::max(f.residual_p95_px, g.residual_p95_px);
        }
        return f;
    };
    if (all_red) out.red = blend_fringe(&ProfileNode::red);
    if (all_blue) out.blue = blend_fringe(&ProfileNode::blue);
    if (all_falloff) {
        Falloff f = *out.falloff;
        f.a = {};
        f.centre_mm.setZero();
        for (const auto& [i, w] : weights) {
            const Falloff& g = *nodes[i].falloff;
            for (int c = 0; c < 3; ++c)
                for (int t = 0; t < 4; ++t) f.a[c][t] += w * g.a[c][t];
            f.centre_mm += w * g.centre_mm;
            f.sigma_percent = std::max(f.sigma_percent, g.sigma_percent);
        }
        out.falloff = f;
    }
    out.largest_radius_mm = nodes[weights.front().first].largest_radius_mm;
    for (const auto& [i, w] : weights)
        out.largest_radius_mm = std::min(out.largest_radius_mm, nodes[i].largest_radius_mm);
    return out;
}

}  // namespace

bool same_subject(const Profile& a, const Profile& b) {
    return canonical_lens_text(a.lens) == canonical_lens_text(b.lens) && a.lens_serial == b.lens_serial &&
           a.camera == b.camera && a.geometry.width == b.geometry.width && a.geometry.height == b.geometry.height;
}

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
        // The same ideal picture for both: focal length and centre belong to the pose of the camera.
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
    const std::vector<std::pair<std::string, std::string>> old_frames = base.provenance.frames;
    out.provenance = added.provenance;
    for (const auto& frame : old_frames)
        if (std::find(out.provenance.frames.begin(), out.provenance.frames.end(), frame) == out.provenance.frames.end())
            out.provenance.frames.push_back(frame);
    return out;
}

}  // namespace optrel

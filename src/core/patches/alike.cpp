// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/alike.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "patches/colorimetry.h"
#include "render/colour.h"

namespace optrel {
namespace {

/// Exposure, warmth and tint over what a frame records.
struct Offsets {
    double exposure_ev = 0, warmth = 0, tint = 0;
};

CameraMatrices matrices_of(const ColourSetting& s) {
    RawPicture raw;
    raw.xyz_to_camera = s.xyz_to_camera;
    return raw;
}

/// Renders patches of a setting as the development does: balance, matrix, exposure.
class Renderer {
public:
    explicit Renderer(const ColourSetting& s)
        : setting_(s), matrices_(matrices_of(s)), recorded_(illuminant_of(matrices_, s.as_shot)) {
        // A perfect diffuser as the frame records it, so that Y = 1 is white; equal light is compared apart.
        scale_ = 1 / s.neutral[1];
    }

    std::vector<cv::Vec3d> xyz(const Offsets& o) const {
        const double mired = std::clamp(1e6 / recorded_.kelvin + o.warmth, 1e6 / 15000, 1e6 / 1000);
        const std::array<double, 3> neutral = neutral_of(matrices_, 1e6 / mired, recorded_.tint + o.tint);
        const cv::Matx33d m = camera_to_xyz_d50(matrices_, neutral);
        const double gain = scale_ * std::exp2(o.exposure_ev);
        std::vector<cv::Vec3d> out;
        for (const MeasuredPatch& p : setting_.patches)
            out.push_back(m * cv::Vec3d(p.raw[0] / neutral[0], p.raw[1] / neutral[1], p.raw[2] / neutral[2]) * gain);
        return out;
    }

    /// The light that the body's own matrix sees in a neutral.
    FittedLight fitted(const ColourFit& fit) const {
        FittedLight out;
        out.fit = fit;
        out.white = white_of(matrices_, fit.balance());
        out.kelvin = correlated_temperature(out.white);
        return out;
    }
    /// What warmth and tint make the neutral of a fit grey, with its file: temperatures follow the matrix of a profile
    /// of the DNG specification, and the body's own with an ICC profile.
    Offsets that_neutralise(const FittedLight& light) const {
        CameraMatrices matrices = matrices_;
        if (!light.fit.form.is_matrix()) {
            RawPicture with_file;
            with_file.xyz_to_camera = colour_matrix(light);
            matrices = CameraMatrices(with_file);
        }
        const NeutralOffsets offsets = neutral_offsets(matrices, setting_.as_shot, light.fit.balance(), {});
        return {0, offsets.warmth.value, offsets.tint.value};
    }

private:
    const ColourSetting& setting_;
    CameraMatrices matrices_;
    Illuminant recorded_;
    double scale_ = 1;
};

Spread spread_between(const std::vector<cv::Vec3d>& seen, const ColourSetting& s, const AlikeTarget& target) {
    std::vector<double> all;
    for (std::size_t i = 0; i < seen.size(); ++i)
        if (s.patches[i].used() && target.used[i])
            all.push_back(de2000(lab_of(target.xyz[i], white_d50), lab_of(seen[i], white_d50)));
    return spread_of(std::move(all));
}

bool within(const Spread& s, const AlikeLimit& limit) { return s.mean <= limit.mean && s.p95 <= limit.p95; }

/// Warmth and tint that bring the patches closest, with their covariance from what remains.
struct NeutralFit {
    Offsets offsets;
    double warmth_sigma = 0, tint_sigma = 0;
};

Eigen::VectorXd residuals_of(const Renderer& renderer, const ColourSetting& s, const AlikeTarget& target,
                             const Offsets& o) {
    const std::vector<cv::Vec3d> seen = renderer.xyz(o);
    std::vector<double> out;
    for (std::size_t i = 0; i < seen.size(); ++i) {
        if (!s.patches[i].used() || !target.used[i]) continue;
        const cv::Vec3d parts = de2000_parts(lab_of(target.xyz[i], white_d50), lab_of(seen[i], white_d50));
        for (const double v : parts.val) out.push_back(v);
    }
    return Eigen::Map<Eigen::VectorXd>(out.data(), static_cast<Eigen::Index>(out.size()));
}

NeutralFit fit_neutral(const Renderer& renderer, const ColourSetting& s, const AlikeTarget& target,
                       double exposure_ev) {
    NeutralFit out;
    out.offsets.exposure_ev = exposure_ev;
    Eigen::Matrix2d normal;
    double remaining = 0;
    Eigen::Index count = 0;
    for (int round = 0; round < 12; ++round) {
        const Eigen::VectorXd r = residuals_of(renderer, s, target, out.offsets);
        Eigen::MatrixXd jacobian(r.size(), 2);
        for (int k = 0; k < 2; ++k) {
            constexpr double step = 0.5;
            Offsets moved = out.offsets;
            (k == 0 ? moved.warmth : moved.tint) += step;
            jacobian.col(k) = (residuals_of(renderer, s, target, moved) - r) / step;
        }
        // Patches that no balance explains count less.
        Eigen::VectorXd weight(r.size());
        for (Eigen::Index i = 0; i + 2 < r.size(); i += 3)
            weight.segment(i, 3).setConstant(1 / std::sqrt(1 + r.segment(i, 3).squaredNorm()));
        normal = jacobian.transpose() * weight.asDiagonal() * jacobian;
        const Eigen::Vector2d step = normal.ldlt().solve(jacobian.transpose() * weight.asDiagonal() * r);
        out.offsets.warmth = std::clamp(out.offsets.warmth - step[0], -100.0, 100.0);
        out.offsets.tint = std::clamp(out.offsets.tint - step[1], -50.0, 50.0);
        remaining = r.cwiseProduct(weight).dot(r);
        count = r.size();
        if (step.norm() < 1e-3) break;
    }
    const Eigen::Matrix2d covariance =
        normal.inverse() * (remaining / std::max<double>(1, static_cast<double>(count - 2)));
    out.warmth_sigma = std::sqrt(covariance(0, 0));
    out.tint_sigma = std::sqrt(covariance(1, 1));
    return out;
}

/// Fits the colours of a body to those of the target.
ColourFit fit_to(const ColourSetting& s, const PatchChart& chart, const AlikeTarget& target) {
    PatchChart wanted = chart;
    std::vector<MeasuredPatch> patches = s.patches;
    for (std::size_t i = 0; i < wanted.patches.size(); ++i) {
        wanted.patches[i].xyz_d50 = target.xyz[i];
        if (!target.used[i] && patches[i].used()) patches[i].left_out = "the reference has no such patch";
    }
    return fit_colours(wanted, patches);
}

}  // namespace

double sensitivity_of(const ColourSetting& s) {
    double out = std::log2(s.neutral[1]) - std::log2(std::max(1, s.iso) / 100.0);
    if (s.exposure_s > 0) out -= std::log2(s.exposure_s);
    if (s.aperture > 0) out += 2 * std::log2(s.aperture);
    return out;
}

std::string alike_file(const FittedLight& fit, const ColourFileText& text) {
    return fit.fit.form.is_matrix() ? icc_of(fit, text) : dng_profile_of({fit}, text);
}

std::optional<double> lighter_than(const ColourSetting& s, const AlikeTarget& target) {
    const bool comparable =
        target.sensitivity_ev && target.has_time == (s.exposure_s > 0) && target.has_aperture == (s.aperture > 0);
    if (!comparable) return std::nullopt;
    return sensitivity_of(s) - *target.sensitivity_ev;
}

AlikeTarget rendered_as_recorded(const ColourSetting& s) {
    AlikeTarget out;
    out.xyz = Renderer(s).xyz({});
    for (const MeasuredPatch& p : s.patches) out.used.push_back(p.used());
    out.sensitivity_ev = sensitivity_of(s);
    out.sensitivity_sigma = s.exposure_ev.sigma;
    out.has_time = s.exposure_s > 0;
    out.has_aperture = s.aperture > 0;
    return out;
}

AlikeTarget target_of_chart(const BodyColours& body) {
    AlikeTarget out;
    for (const ReferencePatch& p : body.chart.patches) out.xyz.push_back(p.xyz_d50);
    out.used.assign(out.xyz.size(), true);
    return out;
}

AlikePins pins_alike(const ColourSetting& s, const PatchChart& chart, const AlikeTarget& target,
                     const AlikeLimit& limit, AlikeColours colours) {
    const Renderer renderer(s);
    AlikePins out;
    out.iso = s.iso;
    // A more sensitive body takes lighter pictures in the same light. Exposure stays as it is where the light is
    // unknown.
    const std::optional<double> comparable = lighter_than(s, target);
    const double lighter = comparable.value_or(0);
    out.before = spread_between(renderer.xyz({lighter, 0, 0}), s, target);
    out.after = out.before;
    out.reached = within(out.before, limit);
    const bool file_anyway = colours == AlikeColours::always_fit;
    if (out.reached && !file_anyway) return out;
    if (comparable) {
        out.exposure = true;
        out.exposure_ev = {-lighter, std::hypot(s.exposure_ev.sigma, target.sensitivity_sigma)};
        out.after = spread_between(renderer.xyz({}), s, target);
        out.reached = within(out.after, limit);
        if (out.reached && !file_anyway) return out;
    }
    const NeutralFit fit = fit_neutral(renderer, s, target, 0);
    out.neutral = true;
    out.warmth = {fit.offsets.warmth, fit.warmth_sigma};
    out.tint = {fit.offsets.tint, fit.tint_sigma};
    out.after = spread_between(renderer.xyz(fit.offsets), s, target);
    out.reached = within(out.after, limit);
    if (out.reached && !file_anyway) return out;
    if (colours == AlikeColours::leave) return out;
    const ColourFit file = fit_to(s, chart, target);
    if (file_anyway || file.mean < out.after.mean) {
        out.colour_file = true;
        out.fit = std::make_shared<const FittedLight>(renderer.fitted(file));
        const Offsets offsets = renderer.that_neutralise(*out.fit);
        out.warmth.value = offsets.warmth;
        out.tint.value = offsets.tint;
        out.after = {file.mean, file.p95, file.largest};
        out.reached = within(out.after, limit);
    }
    return out;
}

const ColourSetting* setting_like(const BodyColours& body, double kelvin, int iso) {
    const ColourSetting* best = nullptr;
    const auto away = [&](const ColourSetting& s) {
        return std::abs(std::log(static_cast<double>(s.iso) / std::max(1, iso)));
    };
    for (const ColourSetting& s : body.settings) {
        if (!same_light(s.kelvin, kelvin)) continue;
        if (!best || away(s) < away(*best)) best = &s;
    }
    return best;
}

std::vector<AlikeSpan> spans_of(const std::vector<AlikePins>& by_iso) {
    std::vector<AlikePins> sorted = by_iso;
    std::sort(sorted.begin(), sorted.end(), [](const AlikePins& a, const AlikePins& b) { return a.iso < b.iso; });
    std::vector<AlikeSpan> out;
    const auto close = [](const ColourFigure& a, const ColourFigure& b, double least) {
        return std::abs(a.value - b.value) <= std::max(least, 2 * std::hypot(a.sigma, b.sigma));
    };
    const auto mean = [](const ColourFigure& a, const ColourFigure& b) {
        if (a.sigma <= 0 || b.sigma <= 0) return ColourFigure{(a.value + b.value) / 2, std::max(a.sigma, b.sigma)};
        const double x = 1 / (a.sigma * a.sigma), y = 1 / (b.sigma * b.sigma);
        return ColourFigure{(x * a.value + y * b.value) / (x + y), 1 / std::sqrt(x + y)};
    };
    for (const AlikePins& p : sorted) {
        const bool joins = !out.empty() && out.back().pins.exposure == p.exposure &&
                           out.back().pins.neutral == p.neutral && out.back().pins.colour_file == p.colour_file &&
                           close(out.back().pins.exposure_ev, p.exposure_ev, 0.03) &&
                           close(out.back().pins.warmth, p.warmth, 1) && close(out.back().pins.tint, p.tint, 1);
        if (!joins) {
            out.push_back({p.iso, p.iso, p});
            continue;
        }
        AlikePins& all = out.back().pins;
        out.back().last_iso = p.iso;
        all.exposure_ev = mean(all.exposure_ev, p.exposure_ev);
        all.warmth = mean(all.warmth, p.warmth);
        all.tint = mean(all.tint, p.tint);
        all.reached = all.reached && p.reached;
        if (p.after.mean > all.after.mean) all.after = p.after;
        if (p.before.mean > all.before.mean) all.before = p.before;
    }
    return out;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_plan.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace optrel {

std::vector<WideStep> wide_steps(const NoiseReport& report) {
    std::vector<WideStep> out;
    for (std::size_t i = 1; i < report.isos.size(); ++i) {
        const int low = report.isos[i - 1].iso, high = report.isos[i].iso;
        if (high > 4 * low)
            out.push_back(
                {low, static_cast<int>(std::lround(low * std::exp2(std::round(std::log2(double(high) / low) / 2)))),
                 high});
    }
    return out;
}

namespace {

/// A smaller uncertainty is no longer worth a trip to the stand.
constexpr double good_percent = 0.25;

double percent_of(const MeasuredFigure& f) { return 100 * f.sigma / std::max(1e-9, f.value); }

}  // namespace

int pairs_to_take(const ReportedIso& iso) {
    return percent_of(iso.colours[1].gain) <= good_percent ? 0 : std::max(0, wanted_pairs - iso.pairs);
}

int darks_to_take(const ReportedIso& iso) {
    if (iso.dark_frames < 2) return wanted_darks - iso.dark_frames;
    return percent_of(iso.colours[1].read_noise) <= good_percent ? 0 : std::max(0, wanted_darks - iso.dark_frames);
}

std::vector<NoisePlanStep> noise_plan(const NoiseReport& report) {
    struct Weighed {
        double weight;
        NoisePlanStep step;
    };
    std::vector<Weighed> all;
    for (const ReportedIso& iso : report.isos) {
        const ReportedColour& green = iso.colours[1];
        if (iso.dark_frames < 2) {
            all.push_back({100,
                           {iso.iso, fmt::format("{} dark frames with the cap on", wanted_darks),
                            "read noise is measured instead of extrapolated, and black is known"}});
        } else if (const int more = darks_to_take(iso); more > 0) {
            const double now = percent_of(green.read_noise);
            all.push_back({now,
                           {iso.iso, fmt::format("{} more dark frames", more),
                            fmt::format("the uncertainty of the read noise falls from {:.2f} to about {:.2f} %", now,
                                        now * std::sqrt(double(iso.dark_frames) / wanted_darks))}});
        }
        if (const int more = iso.pairs > 0 ? pairs_to_take(iso) : 0; more > 0) {
            const double now = percent_of(green.gain);
            all.push_back({2 * now,
                           {iso.iso, fmt::format("{} more {} of flat fields", more, more == 1 ? "pair" : "pairs"),
                            fmt::format("the uncertainty of the gain falls from {:.2f} to about {:.2f} %", now,
                                        now * std::sqrt(double(iso.pairs) / wanted_pairs))}});
        }
    }
    // A wide step over ISO is interpolated.
    for (const WideStep& step : wide_steps(report))
        all.push_back(
            {10,
             {step.between, fmt::format("{} pairs of flat fields and {} dark frames", wanted_pairs, wanted_darks),
              fmt::format("nothing is interpolated over the wide step from ISO {} to {}", step.low, step.high)}});
    std::stable_sort(all.begin(), all.end(), [](const Weighed& a, const Weighed& b) { return a.weight > b.weight; });
    std::vector<NoisePlanStep> out;
    for (Weighed& w : all) out.push_back(std::move(w.step));
    return out;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_shots.h"

#include <algorithm>
#include <cmath>

#include "base/median.h"
#include "sensor/noise_plan.h"

namespace optrel {
namespace {

constexpr double lowest_level = 0.02, highest_level = 0.6;

/// Distance in EV to the nearest shot.
double distance_ev(double level, const std::vector<NoiseShot>& shots) {
    double out = 1e9;
    for (const NoiseShot& s : shots)
        if (s.level > 0) out = std::min(out, std::abs(std::log2(level / s.level)));
    return out;
}

/// Exposure time for the white level, from the pairs that record one; 0 without any.
double white_time(const std::vector<PairLevel>& levels) {
    std::vector<double> times;
    for (const PairLevel& l : levels)
        if (l.exposure_s > 0 && l.level > 0) times.push_back(l.exposure_s / l.level);
    return times.empty() ? 0 : median(times);
}

void add_missing(NoiseShots& shots, int pairs, double white_s) {
    for (; pairs > 0; --pairs) {
        const std::vector<double> wanted = wanted_levels();
        const double level = *std::max_element(wanted.begin(), wanted.end(), [&](double a, double b) {
            return distance_ev(a, shots.pairs) < distance_ev(b, shots.pairs);
        });
        shots.pairs.push_back({level, level * white_s, false});
    }
    std::sort(shots.pairs.begin(), shots.pairs.end(),
              [](const NoiseShot& a, const NoiseShot& b) { return a.level < b.level; });
}

}  // namespace

std::vector<double> wanted_levels() {
    std::vector<double> out;
    for (int k = 0; k < wanted_pairs; ++k)
        out.push_back(lowest_level * std::pow(highest_level / lowest_level, double(k) / (wanted_pairs - 1)));
    return out;
}

std::vector<NoiseShots> noise_shots(const NoiseReport& report) {
    std::vector<NoiseShots> out;
    double white_s_at_100 = 0;
    for (const ReportedIso& iso : report.isos) {
        NoiseShots shots;
        shots.iso = iso.iso;
        shots.darks_taken = iso.dark_frames;
        shots.darks_to_take = darks_to_take(iso);
        for (const PairLevel& l : iso.levels) shots.pairs.push_back({l.level, l.exposure_s, true});
        // Older documents have the number of pairs but not their levels, so nothing is proposed for them.
        if (!iso.levels.empty() || iso.pairs == 0) {
            const double white_s = white_time(iso.levels);
            if (white_s > 0) white_s_at_100 = white_s * iso.iso / 100;
            add_missing(shots, pairs_to_take(iso), white_s);
        }
        out.push_back(std::move(shots));
    }
    for (const WideStep& step : wide_steps(report)) {
        NoiseShots shots;
        shots.iso = step.between;
        shots.darks_to_take = wanted_darks;
        add_missing(shots, wanted_pairs, white_s_at_100 * 100 / step.between);
        out.push_back(std::move(shots));
    }
    std::sort(out.begin(), out.end(), [](const NoiseShots& a, const NoiseShots& b) { return a.iso < b.iso; });
    return out;
}

}  // namespace optrel

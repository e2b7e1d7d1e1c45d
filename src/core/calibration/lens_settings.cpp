// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/lens_settings.h"
#include "base/median.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <tuple>

namespace optrel {
namespace {

/// Cluster labels of sorted values, divided where neighbours are apart; 0 (unknown) gets -1.
template <class Apart>
std::vector<int> clusters(const std::vector<double>& values, const Apart& apart) {
    std::vector<int> order(values.size()), label(values.size(), -1);
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](int a, int b) { return values[a] < values[b]; });
    int current = -1;
    double last = 0;
    for (const int i : order) {
        if (!(values[i] > 0)) continue;
        if (current < 0 || apart(last, values[i])) ++current;
        label[i] = current;
        last = values[i];
    }
    return label;
}

}  // namespace

std::vector<int> group_settings(const std::vector<LensSetting>& settings) {
    std::vector<double> focal, aperture, distance;
    for (const LensSetting& s : settings) {
        focal.push_back(s.focal_mm);
        aperture.push_back(s.aperture);
        distance.push_back(s.distance_m);
    }
    const auto f = clusters(focal, [](double a, double b) { return b > 1.01 * a; });
    const auto n = clusters(aperture, [](double a, double b) { return 2 * std::log2(b / a) > 1.0 / 6; });
    const auto d = clusters(distance, [](double a, double b) { return 1 / a - 1 / b > 0.12 && b > 1.12 * a; });
    // An unknown value gets the label of the first group that agrees in the other values.
    std::map<std::tuple<int, int, int>, int> group;
    std::vector<int> out(settings.size(), -1);
    for (std::size_t i = 0; i < settings.size(); ++i) {
        const auto key = std::tuple(f[i], n[i], d[i]);
        if (std::min({f[i], n[i], d[i]}) >= 0)
            out[i] = group.emplace(key, static_cast<int>(group.size())).first->second;
    }
    const auto agrees = [](int a, int b) { return a < 0 || b < 0 || a == b; };
    for (std::size_t i = 0; i < settings.size(); ++i) {
        if (out[i] >= 0) continue;
        for (const auto& [key, index] : group)
            if (agrees(f[i], std::get<0>(key)) && agrees(n[i], std::get<1>(key)) && agrees(d[i], std::get<2>(key))) {
                out[i] = index;
                break;
            }
        if (out[i] < 0)
            out[i] = group.emplace(std::tuple(f[i], n[i], d[i]), static_cast<int>(group.size())).first->second;
    }
    return out;
}

LensSetting typical_setting(const std::vector<LensSetting>& settings) {
    const auto typical = [&](double LensSetting::*member) {
        std::vector<double> known;
        for (const LensSetting& s : settings)
            if (s.*member > 0) known.push_back(s.*member);
        return median(known);
    };
    return {typical(&LensSetting::focal_mm), typical(&LensSetting::aperture), typical(&LensSetting::distance_m)};
}

}  // namespace optrel

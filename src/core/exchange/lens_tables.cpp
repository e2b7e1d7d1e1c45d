// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/lens_tables.h"

#include <fmt/format.h>

#include <cmath>
#include <vector>

#include "base/csv.h"
#include "optics/curves.h"

namespace optrel {
namespace {

constexpr int steps = 20;

using CsvRows = std::vector<std::vector<std::string>>;

/// Height and radius of each row, then the columns of each curve.
template <class Columns>
CsvRows table_of(std::vector<std::string> titles, const std::vector<LensCurve>& curves, double half_diagonal_mm,
                 const Columns& columns) {
    CsvRows rows{{"field height", "radius / mm"}};
    for (std::string& title : titles) rows[0].push_back(std::move(title));
    for (int i = 0; i <= steps; ++i) {
        const double height = double(i) / steps;
        std::vector<std::string> row{fmt::format("{:.2f}", height), fmt::format("{:.3f}", height * half_diagonal_mm)};
        for (const LensCurve& c : curves)
            for (std::string& text : columns(c.samples[static_cast<std::size_t>(i)])) row.push_back(std::move(text));
        rows.push_back(std::move(row));
    }
    return rows;
}

std::string named(Channel channel, const char* what) {
    static constexpr const char* names[] = {"red", "green", "blue"};
    return fmt::format("{} {}", names[static_cast<int>(channel)], what);
}

}  // namespace

std::map<std::string, std::string> lens_tables(const Profile& profile, const PlacedNode& placed) {
    const LensCurves curves = lens_curves(profile, placed, steps);
    const double half = profile.geometry.half_diagonal_mm();
    std::map<std::string, std::string> out;
    const auto plain = [](const CurveSample& s) {
        return std::vector{fmt::format("{:.5f}", s.value), fmt::format("{:.5f}", s.sigma)};
    };
    if (!curves.distortion.empty())
        out["distortion.csv"] =
            write_csv(table_of({"distortion / %", "sigma / %"}, curves.distortion, half, plain), "\n");
    if (!curves.fringe.empty()) {
        std::vector<std::string> titles;
        for (const LensCurve& c : curves.fringe)
            for (const char* what : {"displacement / px", "sigma / px"}) titles.push_back(named(c.channel, what));
        out["chromatic.csv"] = write_csv(table_of(titles, curves.fringe, half, plain), "\n");
    }
    if (!curves.falloff.empty()) {
        std::vector<std::string> titles;
        for (const LensCurve& c : curves.falloff)
            for (const char* what : {"relative illuminance / %", "falloff / EV", "sigma / EV"})
                titles.push_back(named(c.channel, what));
        out["falloff.csv"] =
            write_csv(table_of(titles, curves.falloff, half,
                               [](const CurveSample& s) {
                                   return std::vector{fmt::format("{:.3f}", 100 * std::exp2(s.value)),
                                                      fmt::format("{:.5f}", s.value), fmt::format("{:.5f}", s.sigma)};
                               }),
                      "\n");
    }
    return out;
}

}  // namespace optrel

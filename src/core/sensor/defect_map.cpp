// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/defect_map.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <set>
#include <tuple>

namespace optrel {
namespace {

/// Sigmas by which the excess of a hot pixel exceeds the noise of a frame for which it is replaced.
constexpr double visible_sigmas = 3;

/// Excess of a hot pixel in counts at an ISO and an exposure time, from the settings at which it was measured.
class ExcessAt {
public:
    ExcessAt(const std::vector<DarkSetting>& settings, int iso, double exposure_s)
        : settings_(settings), iso_(iso), exposure_s_(exposure_s) {
        double nearest = 1e300;
        for (const DarkSetting& s : settings) {
            const double away = std::abs(std::log(static_cast<double>(iso) / s.iso));
            if (away >= nearest) continue;
            nearest = away;
            noise_ = s.noise * iso / s.iso;
        }
    }

    bool visible(const DefectPixel& pixel) const { return excess(pixel) > visible_sigmas * noise_; }

private:
    double excess(const DefectPixel& pixel) const {
        double below = 0, above = 0, below_s = 0, above_s = 0, largest = 0;
        for (std::size_t i = 0; i < settings_.size() && i < pixel.excess.size(); ++i) {
            const DarkSetting& s = settings_[i];
            const double counts = pixel.excess[i] * iso_ / s.iso;
            largest = std::max(largest, counts);
            // Settings of one time and several ISO: the largest decides.
            if (s.exposure_s <= exposure_s_) {
                below = s.exposure_s > below_s ? counts : std::max(below, counts);
                below_s = s.exposure_s;
            } else if (above_s == 0 || s.exposure_s == above_s) {
                above = std::max(above, counts);
                above_s = s.exposure_s;
            }
        }
        if (exposure_s_ <= 0) return largest;
        if (below_s == 0) return std::max(below, above);
        if (above_s == 0) return below * exposure_s_ / below_s;
        return below + (above - below) * (exposure_s_ - below_s) / (above_s - below_s);
    }

    const std::vector<DarkSetting>& settings_;
    int iso_;
    double exposure_s_, noise_ = 0;
};

using PixelPlaces = std::set<std::pair<int, int>>;
using LinePlaces = std::set<std::pair<bool, int>>;

PixelPlaces pixel_places(const DefectMap& map) {
    PixelPlaces out;
    for (const DefectPixel& p : map.pixels) out.emplace(p.row, p.column);
    return out;
}

LinePlaces line_places(const DefectMap& map) {
    LinePlaces out;
    for (const DefectLine& l : map.lines) out.emplace(l.is_row, l.index);
    return out;
}

template <class Places>
int only_in_first(const Places& first, const Places& second) {
    return static_cast<int>(
        std::count_if(first.begin(), first.end(), [&](const auto& place) { return !second.contains(place); }));
}

}  // namespace

const char* to_string(DefectKind kind) {
    switch (kind) {
        case DefectKind::hot: return "hot";
        case DefectKind::unstable: return "unstable";
        case DefectKind::dead: break;
    }
    return "dead";
}

int DefectMap::count(DefectKind kind) const {
    return static_cast<int>(
        std::count_if(pixels.begin(), pixels.end(), [&](const DefectPixel& p) { return p.kind == kind; }));
}

BadSamples bad_samples_at(const DefectMap& map, int iso, double exposure_s) {
    BadSamples out;
    const ExcessAt excess(map.settings, std::max(1, iso), exposure_s);
    for (const DefectPixel& p : map.pixels)
        if (p.kind != DefectKind::hot || excess.visible(p)) out.points.emplace_back(p.column, p.row);
    for (const DefectLine& l : map.lines) {
        const int length = l.last - l.first + 1;
        out.areas.push_back(l.is_row ? cv::Rect(l.first, l.index, length, 1) : cv::Rect(l.index, l.first, 1, length));
    }
    return out;
}

DefectChange change_between(const DefectMap& before, const DefectMap& after) {
    const PixelPlaces old_pixels = pixel_places(before), new_pixels = pixel_places(after);
    const LinePlaces old_lines = line_places(before), new_lines = line_places(after);
    return {only_in_first(new_pixels, old_pixels), only_in_first(old_pixels, new_pixels),
            only_in_first(new_lines, old_lines), only_in_first(old_lines, new_lines)};
}

std::string defects_to_csv(const DefectMap& map) {
    std::string out = "kind,row,column,last_row,last_column,strength,unit\r\n";
    for (const DefectPixel& p : map.pixels) {
        const double hottest = p.excess.empty() ? 0 : *std::max_element(p.excess.begin(), p.excess.end());
        out += fmt::format("{},{},{},{},{},{:.4g},{}\r\n", to_string(p.kind), p.row, p.column, p.row, p.column,
                           p.kind == DefectKind::hot ? hottest : p.strength,
                           p.kind == DefectKind::dead ? "percent" : "counts");
    }
    for (const DefectLine& l : map.lines)
        out += fmt::format("{},{},{},{},{},{:.4g},{}\r\n", l.is_row ? "row" : "column", l.is_row ? l.index : l.first,
                           l.is_row ? l.first : l.index, l.is_row ? l.index : l.last, l.is_row ? l.last : l.index,
                           l.strength, l.in_light ? "percent" : "counts");
    return out;
}

}  // namespace optrel

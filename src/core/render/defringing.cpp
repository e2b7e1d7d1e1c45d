// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/defringing.h"

#include <algorithm>
#include <cmath>

#include "base/angle.h"
#include "base/median.h"
#include "render/strips.h"

namespace optrel {

namespace {

constexpr float knee = 0.05f;  ///< of white: from this step in green on, an edge counts fully
constexpr float bright = 0.5f;
constexpr int reaches[] = {4, 8, defringing_reach};
constexpr double fade = 10;  ///< degrees

/// Colour at an edge beyond the colours of both sides.
struct Excess {
    float red = 0, blue = 0;  ///< relative to green
    float weight = 0;         ///< strength of the edge
    float brighter = 0;       ///< green on the brighter side

    float size() const { return std::hypot(red, blue); }
    double hue() const {
        const double h = std::atan2(std::sqrt(3.0) * -blue, 2.0 * red - blue) / degree;
        return h < 0 ? h + 360 : h;
    }
};

/// Distance of a difference from the range between those of the two sides.
float outside(float d, float a, float b) { return d - std::clamp(d, std::min(a, b), std::max(a, b)); }

/// Finds excess colour at one place of three planes.
class ExcessFinder {
public:
    explicit ExcessFinder(const Planes& planes)
        : red_(planes.channel[0]), green_(planes.channel[1]), blue_(planes.channel[2]) {}

    Excess at(int row, int column) const {
        Excess best;
        for (const int reach : reaches) {
            const Excess e = at(row, column, reach);
            if (e.size() * e.weight > best.size() * best.weight) best = e;
        }
        return best;
    }

private:
    Excess at(int row, int column, int reach) const {
        const int left = std::max(0, column - reach), right = std::min(green_.cols - 1, column + reach),
                  up = std::max(0, row - reach), down = std::min(green_.rows - 1, row + reach);
        const float across = std::abs(green_(row, left) - green_(row, right)),
                    along = std::abs(green_(up, column) - green_(down, column));
        const cv::Point a = across >= along ? cv::Point(left, row) : cv::Point(column, up),
                        b = across >= along ? cv::Point(right, row) : cv::Point(column, down);
        const float ga = green_(a), gb = green_(b), g = green_(row, column), step = std::abs(ga - gb);
        Excess out;
        // A thin line is brighter or darker than both sides and has its own colour, which is not a fringe.
        const float slack = 0.1f * step;
        if (g < std::min(ga, gb) - slack || g > std::max(ga, gb) + slack) return out;
        out.weight = step * step / (step * step + knee * knee);
        out.red = outside(red_(row, column) - g, red_(a) - ga, red_(b) - gb);
        out.blue = outside(blue_(row, column) - g, blue_(a) - ga, blue_(b) - gb);
        out.brighter = std::max(ga, gb);
        return out;
    }

    const cv::Mat1f &red_, &green_, &blue_;
};

}  // namespace

double DefringingSettings::share(double hue) const {
    double most = all_percent / 100;
    for (const HueRange& h : hues) {
        const auto turn = [](double d) { return std::fmod(d + 720, 360); };
        const double width = h.to - h.from >= 360 ? 360 : turn(h.to - h.from), into = turn(hue - h.from);
        const double beyond = into <= width ? 0 : std::min(into - width, 360 - into);
        most = std::max(most, h.percent / 100 * std::clamp(1 - beyond / fade, 0.0, 1.0));
    }
    return std::min(1.0, most);
}

void apply_defringing(Planes& planes, const DefringingSettings& settings) {
    if (!settings.any()) return;
    Planes source;
    source.channel = {planes.channel[0].clone(), planes.channel[1], planes.channel[2].clone()};
    const ExcessFinder finder(source);
    for_strips(planes.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            float *red = planes.channel[0].ptr<float>(row), *blue = planes.channel[2].ptr<float>(row);
            for (int i = 0; i < planes.size().width; ++i) {
                const Excess e = finder.at(row, i);
                if (e.weight <= 0 || (e.red == 0 && e.blue == 0)) continue;
                float amount = e.weight * static_cast<float>(settings.share(e.hue()));
                // The restriction to bright edges fades in over a tenth of white.
                if (settings.bright_only) amount *= std::clamp((e.brighter - bright) / 0.1f + 0.5f, 0.f, 1.f);
                red[i] -= amount * e.red;
                blue[i] -= amount * e.blue;
            }
        }
    });
}

namespace {

struct FringePlace {
    Excess excess;
    cv::Point at;
};

/// Width of a fringe: the shorter run of its hue along the row or the column.
int width_at(const ExcessFinder& finder, const cv::Size& size, const FringePlace& place, double hue) {
    const auto run = [&](cv::Point by) {
        int n = 1;
        for (const int sense : {-1, 1})
            for (int s = 1; s < 40; ++s) {
                const cv::Point q = place.at + sense * s * by;
                if (!cv::Rect({0, 0}, size).contains(q)) break;
                const Excess e = finder.at(q.y, q.x);
                if (e.size() < 0.3f * place.excess.size() || std::abs(std::remainder(e.hue() - hue, 360)) > 45) break;
                ++n;
            }
        return n;
    };
    return std::min(run({1, 0}), run({0, 1}));
}

/// Summary of places of one hue, sorted by strength.
FringeFound found_of(const std::vector<FringePlace>& places, double edges, const ExcessFinder& finder,
                     const cv::Size& size) {
    constexpr std::size_t shown = 40;
    FringeFound f;
    Excess sum;
    double lit = 0;
    for (const FringePlace& p : places) {
        sum.red += p.excess.red;
        sum.blue += p.excess.blue;
        lit += p.excess.brighter > bright;
    }
    const auto n = static_cast<double>(places.size());
    f.hue = sum.hue();
    f.percent = 100 * places[places.size() / 10].excess.size();
    f.share = n / std::max(1.0, edges);
    f.bright = lit > 0.5 * n;
    std::vector<double> widths;
    for (std::size_t k = 0; k < std::min(places.size(), shown); ++k) {
        f.places.push_back(places[k].at);
        widths.push_back(width_at(finder, size, places[k], f.hue));
    }
    f.width_px = median(widths);
    return f;
}

}  // namespace

std::vector<FringeFound> find_fringes(const Planes& planes) {
    constexpr int sectors = 12, step = 2;
    constexpr float least = 0.01f, edge = 0.5f;
    std::vector<std::vector<FringePlace>> by_hue(sectors);
    const ExcessFinder finder(planes);
    double edges = 0;
    for (int row = 16; row < planes.size().height - 16; row += step)
        for (int i = 16; i < planes.size().width - 16; i += step) {
            const Excess e = finder.at(row, i);
            if (e.weight < edge) continue;
            ++edges;
            if (e.size() >= least) by_hue[static_cast<int>(e.hue() / 360 * sectors) % sectors].push_back({e, {i, row}});
        }
    std::vector<FringeFound> out;
    for (std::vector<FringePlace>& places : by_hue) {
        constexpr std::size_t few = 12;
        if (places.size() < std::max(few, static_cast<std::size_t>(0.002 * edges))) continue;
        std::sort(places.begin(), places.end(),
                  [](const FringePlace& a, const FringePlace& b) { return a.excess.size() > b.excess.size(); });
        out.push_back(found_of(places, edges, finder, planes.size()));
    }
    std::sort(out.begin(), out.end(), [](const FringeFound& a, const FringeFound& b) { return a.share > b.share; });
    return out;
}

}  // namespace optrel

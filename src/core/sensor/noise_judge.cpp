// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_judge.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

#include "base/median.h"

namespace optrel {
namespace {

/// Above this change between the frames of a pair the light flickers; the pair is still used.
constexpr double flicker_share = 0.01;
/// A light that changes by more than this over the picture from one frame of a pair to the next drifts.
constexpr double drift_share = 0.02;
/// Neighbouring samples whose noise is correlated by more than this were filtered.
constexpr double filtered_correlation = 0.05;

/// Calls body(blocks) for the cells of a grid of 6 x 4 over the picture, with the blocks of each that are not clipped.
template <class Body>
void over_grid(const PairPlane& plane, const Body& body) {
    constexpr int across = 6, down = 4;
    std::vector<const PairBlock*> blocks;
    for (int cell = 0; cell < across * down; ++cell) {
        const int i = cell % across, j = cell / across;
        blocks.clear();
        for (int y = j * plane.down / down; y < (j + 1) * plane.down / down; ++y)
            for (int x = i * plane.across / across; x < (i + 1) * plane.across / across; ++x)
                if (const PairBlock& block = plane.blocks[static_cast<std::size_t>(y * plane.across + x)];
                    !block.clipped)
                    blocks.push_back(&block);
        if (!blocks.empty()) body(blocks);
    }
}

/// Difference of the largest and the smallest value.
class Range {
public:
    void add(double v) {
        low_ = std::min(low_, v);
        high_ = std::max(high_, v);
    }
    double size() const { return std::max(0.0, high_ - low_); }

private:
    double low_ = std::numeric_limits<double>::max(), high_ = std::numeric_limits<double>::lowest();
};

/// Largest change of a / b over the picture, relative to its mean.
double ratio_range(const PairPlane& plane) {
    Range range;
    over_grid(plane, [&](const std::vector<const PairBlock*>& blocks) {
        double a = 0, b = 0;
        for (const PairBlock* block : blocks) {
            a += block->mean_a;
            b += block->mean_b;
        }
        if (a > 0 && b > 0) range.add(a / b);
    });
    return range.size() / plane.ratio;
}

/// Range of the level over the picture in a dark pair, counts: light that leaks in is rarely even.
double dark_range(const PairPlane& plane) {
    Range range;
    over_grid(plane, [&](const std::vector<const PairBlock*>& blocks) {
        std::vector<double> means;
        for (const PairBlock* block : blocks) means.push_back(block->mean_a);
        range.add(median(means));
    });
    return range.size();
}

/// Share of blocks that hold more structure than a flat field has: edges of a chart or of a scene.
double structured_share(const PairPlane& plane) {
    int structured = 0, used = 0;
    for (const PairBlock& block : plane.blocks) {
        if (block.clipped || block.mean_a <= 0) continue;
        ++used;
        structured += block.pattern > 0.05 * 0.05 * block.mean_a * block.mean_b &&
                      block.pattern > PairPlane::difference_variance(block, 1);
    }
    return used > 0 ? static_cast<double>(structured) / used : 0;
}

/// Correlation of neighbouring differences, the median over blocks.
double neighbour_correlation(const PairPlane& plane) {
    std::vector<double> all;
    for (const PairBlock& block : plane.blocks)
        if (const double variance = PairPlane::difference_variance(block, 1); !block.clipped && variance > 0)
            all.push_back(block.neighbours / variance);
    return all.empty() ? 0 : median(all);
}

}  // namespace

double MeasuredPair::mean(Channel channel) const {
    double sum = 0;
    int n = 0;
    for (const PairPlane& plane : transfer.planes)
        if (plane.channel == channel && plane.clipped < 1) {
            sum += plane.mean;
            ++n;
        }
    return n > 0 ? sum / n : 0;
}

std::string file_name(const std::filesystem::path& path) { return path.filename().string(); }

void NoiseFindings::add(const char* name, bool serious, int iso, std::string text, std::string remedy) {
    const std::lock_guard lock(mutex_);
    all_.push_back({name, serious, iso, std::move(text), std::move(remedy)});
}

std::vector<NoiseFinding> NoiseFindings::sorted() {
    std::sort(all_.begin(), all_.end(), [](const NoiseFinding& a, const NoiseFinding& b) {
        return std::tuple(!a.serious, a.iso, a.name, a.text) < std::tuple(!b.serious, b.iso, b.name, b.text);
    });
    return all_;
}

bool NoiseJudge::is_pair(const MeasuredPair& pair) {
    for (const PairPlane& plane : pair.transfer.planes)
        if (plane.clipped < 1 && std::abs(plane.ratio - 1) > pair_share) return false;
    return true;
}

bool NoiseJudge::accepts_flat(const MeasuredPair& pair) {
    double clipped = 0, structured = 0, range = 0, change = 0, correlation = 0;
    for (const PairPlane& plane : pair.transfer.planes) {
        clipped = std::max(clipped, plane.clipped);
        structured = std::max(structured, structured_share(plane));
        range = std::max(range, ratio_range(plane));
        correlation = std::max(correlation, std::abs(neighbour_correlation(plane)));
        change = std::max(change, std::abs(plane.ratio - 1));
    }
    const std::string both = file_name(pair.first) + " and " + file_name(pair.second);
    const bool bright = pair.mean(Channel::green) > 0.05 * pair.transfer.white;
    if (structured > 0.1) {
        findings_.add("not_flat", true, iso_,
                      fmt::format("{} show edges in {:.0f} % of the picture (limit 10 %), so they are no flat fields.",
                                  both, 100 * structured),
                      "Photograph an evenly lit surface out of focus.");
        return false;
    }
    // In dark flat fields noise of rows makes neighbours alike.
    if (bright && correlation > filtered_correlation) {
        findings_.add("filtered", true, iso_,
                      fmt::format("The noise of neighbouring samples in {} is correlated by {:.2f} (limit {:.2f}): "
                                  "it was filtered, or the picture was scaled.",
                                  both, correlation, filtered_correlation),
                      "Use raw files as the camera records them, with its noise reduction off.");
        return false;
    }
    if (clipped > 0.5)
        findings_.add("clipped", false, iso_,
                      fmt::format("{} are clipped in {:.0f} % of the picture (limit 50 %).", both, 100 * clipped),
                      "Expose less; a level near 60 % of the white level is the brightest that counts.");
    // In dark flat fields the noise of the means alone changes them by so much.
    if (bright && change > flicker_share)
        findings_.add("flicker", false, iso_,
                      fmt::format("The light changed by {:.1f} % between {} (limit {:.0f} %).", 100 * change, both,
                                  100 * flicker_share),
                      "Use longer exposures or a steadier lamp.");
    if (bright && range > drift_share)
        findings_.add("drift", false, iso_,
                      fmt::format("The light moved between {}: their ratio changes by {:.1f} % over the picture "
                                  "(limit {:.0f} %).",
                                  both, 100 * range, 100 * drift_share),
                      "Keep lamp and camera still between the frames of a pair.");
    return true;
}

bool NoiseJudge::accepts_dark(const MeasuredPair& pair) {
    double range = 0, level = 0, read = 0, clipped = 0;
    for (const PairPlane& plane : pair.transfer.planes) {
        range = std::max(range, dark_range(plane));
        level = std::max(level, std::abs(plane.mean));
        clipped = std::max(clipped, plane.clipped);
        std::vector<double> variances;
        for (const PairBlock& block : plane.blocks) variances.push_back(PairPlane::difference_variance(block, 1) / 2);
        read = std::max(read, std::sqrt(std::max(0.0, median(variances))));
    }
    const std::string both = file_name(pair.first) + " and " + file_name(pair.second);
    if (clipped > 0.5) {
        findings_.add("black_cut", true, iso_,
                      fmt::format("{} have samples at zero in {:.0f} % of their blocks: the body cuts its noise off "
                                  "at black.",
                                  both, 100 * clipped),
                      "Read noise is estimated from the flat fields alone.");
        return false;
    }
    // Bodies declare a black level that is wrong by some counts; an even light looks the same, so its limit is wide.
    const double range_limit = 1 + 0.5 * read, level_limit = 8 + 4 * read;
    if (range > range_limit || level > level_limit) {
        findings_.add("light_leak", true, iso_,
                      fmt::format("{} are not dark: {:.1f} counts from black (limit {:.1f}), uneven by {:.1f} "
                                  "(limit {:.1f}).",
                                  both, level, level_limit, range, range_limit),
                      "Cover lens and viewfinder, and take them again with a short exposure; they are left out.");
        return false;
    }
    return true;
}

}  // namespace optrel

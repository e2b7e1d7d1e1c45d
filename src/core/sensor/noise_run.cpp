// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_run.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <tuple>

#include "base/error.h"
#include "base/median.h"
#include "base/parallel.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/exposure_time.h"
#include "sensor/dust.h"
#include "sensor/noise_judge.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// Counts by which means of frames without light may differ.
constexpr double noise_of_levels = 8;
/// Levels of light that are this far apart separate gain and read noise (EV).
constexpr double level_span_ev = 1;

struct Shot {
    fs::path path;
    Metadata metadata;
    double exposure_s = 0;
    bool dark = false;  ///< given as a dark frame
};

std::string identity(const Metadata& m) { return camera_name(m) + (m.body_serial.empty() ? "" : " " + m.body_serial); }

/// Reads metadata, and refuses frames of several bodies.
std::vector<Shot> shots_of(const std::vector<fs::path>& flats, const std::vector<fs::path>& darks,
                           NoiseFindings& findings, Progress& progress) {
    std::vector<Shot> out;
    std::set<std::string> seen;
    const auto add = [&](const fs::path& path, bool dark) {
        progress.check();
        if (!seen.insert(resolved_path(path).value_or(path).string()).second) {
            findings.add("twice", false, 0, fmt::format("{} was given twice and is used once.", file_name(path)),
                         "Name each frame once.");
            return;
        }
        try {
            const OpenedFrame frame(path);
            Shot shot{path, read_metadata(frame), exposure_time(frame), dark};
            if (shot.metadata.kind != FrameKind::raw)
                throw input_error(file_name(path) +
                                  " is a rendered picture, whose noise was changed; use the raw file of that frame.");
            if (!shot.metadata.corrected.empty())
                throw input_error(file_name(path) + " was corrected already; use the camera's own file.");
            if (shot.metadata.iso <= 0)
                throw input_error(file_name(path) + " does not record its ISO; use files as the camera wrote them.");
            out.push_back(std::move(shot));
        } catch (const Cancelled&) {
            throw;
        } catch (const std::exception& error) {
            findings.add("unusable", true, 0, reason_for(path, error), "Leave the frame out, or take it again.");
        }
    };
    for (const fs::path& path : flats) add(path, false);
    for (const fs::path& path : darks) add(path, true);
    for (const Shot& shot : out) {
        if (identity(shot.metadata) != identity(out.front().metadata))
            throw input_error(fmt::format(
                "{} was taken with {}, but {} with {}; noise is measured for one body at a time.", file_name(shot.path),
                identity(shot.metadata), file_name(out.front().path), identity(out.front().metadata)));
        if (!shot.dark && shot.metadata.lens != out.front().metadata.lens)
            findings.add("lens", false, 0,
                         fmt::format("{} was taken with another lens than {}.", file_name(shot.path),
                                     file_name(out.front().path)),
                         "Gain and read noise do not depend on it; keep one lens for comparable signals.");
    }
    std::stable_sort(out.begin(), out.end(), [](const Shot& a, const Shot& b) {
        return std::tie(a.metadata.time, a.path) < std::tie(b.metadata.time, b.path);
    });
    return out;
}

/// Mean of every eighth sample above black, counts. 0 for a file that cannot be read: measuring it tells why.
double mean_light(const fs::path& path) {
    try {
        const RawPicture raw = read_raw(path);
        double sum = 0, n = 0;
        for (int y = 0; y < raw.counts.rows; y += 8)
            for (int x = 0; x < raw.counts.cols; x += 8) {
                sum += raw.counts(y, x) - raw.black.at(y, x);
                ++n;
            }
        return n > 0 ? std::max(0.0, sum / n) : 0;
    } catch (const std::exception&) {
        return 0;
    }
}

/// Measures one ISO.
class IsoRun {
public:
    IsoRun(int iso, const std::vector<const Shot*>& shots, NoiseFindings& findings, Progress& progress)
        : iso_(iso), findings_(findings), progress_(progress), judge_(iso, findings) {
        const std::map<const Shot*, int> levels = level_groups(shots);
        for (const Shot* shot : shots) {
            const auto level = levels.find(shot);
            groups_[{shot->dark, shot->exposure_s, shot->metadata.aperture, level == levels.end() ? 0 : level->second}]
                .push_back(shot);
        }
    }

    /// Well exposed flat fields, at most four: dust shows on them.
    const std::vector<fs::path>& bright_flats() const { return bright_flats_; }

    /// Empty when the frames do not suffice; the findings say why.
    std::optional<IsoNoise> measure(std::vector<fs::path>& used) {
        std::vector<const std::vector<const Shot*>*> lists;
        for (const auto& [key, list] : groups_) lists.push_back(&list);
        std::vector<std::vector<MeasuredPair>> measured(lists.size());
        parallel_for(static_cast<int>(lists.size()), [&](int i) {
            const SingleThreadScope one;
            measured[static_cast<std::size_t>(i)] = pairs_of(*lists[static_cast<std::size_t>(i)]);
        });
        std::vector<MeasuredPair> flats, darks;
        for (std::vector<MeasuredPair>& list : measured)
            for (MeasuredPair& pair : list) (pair.transfer.dark ? darks : flats).push_back(std::move(pair));
        return fitted(std::move(flats), std::move(darks), used);
    }

private:
    /// Flat fields without an exposure time, numbered by their light: those of one number differ by less than a pair
    /// may.
    std::map<const Shot*, int> level_groups(const std::vector<const Shot*>& shots) const {
        std::vector<std::pair<double, const Shot*>> levels;
        for (const Shot* shot : shots)
            if (!shot->dark && shot->exposure_s <= 0) levels.emplace_back(0, shot);
        parallel_for(static_cast<int>(levels.size()), [&](int i) {
            progress_.check();
            auto& [level, shot] = levels[static_cast<std::size_t>(i)];
            level = mean_light(shot->path);
        });
        std::sort(levels.begin(), levels.end());
        std::map<const Shot*, int> out;
        int number = 0;
        for (std::size_t i = 0; i < levels.size(); ++i) {
            if (i > 0 && levels[i].first > (1 + NoiseJudge::pair_share) * levels[i - 1].first + noise_of_levels)
                ++number;
            out[levels[i].second] = number;
        }
        return out;
    }

    /// Goes through frames of one exposure in order of time. A frame whose light differs from the one before begins a
    /// new pair.
    std::vector<MeasuredPair> pairs_of(const std::vector<const Shot*>& shots) {
        std::vector<MeasuredPair> out;
        const Shot* waiting = nullptr;
        RawPicture before;
        for (const Shot* shot : shots) {
            progress_.check();
            try {
                RawPicture raw = read_raw(shot->path);
                if (raw.layout == SampleLayout::interpolated)
                    throw input_error(file_name(shot->path) +
                                      " has interpolated colours, which hide the noise of single samples; use the "
                                      "camera's own file.");
                progress_.step();
                if (!waiting) {
                    waiting = shot;
                    before = std::move(raw);
                    continue;
                }
                MeasuredPair pair = measured_pair(before, raw, *waiting, *shot);
                if (!pair.transfer.dark && !judge_.is_pair(pair)) {
                    lonely(*waiting,
                           fmt::format("{} and {} differ in light by more than {:.0f} %", file_name(waiting->path),
                                       file_name(shot->path), 100 * NoiseJudge::pair_share));
                    waiting = shot;
                    before = std::move(raw);
                    continue;
                }
                out.push_back(std::move(pair));
                waiting = nullptr;
            } catch (const Cancelled&) {
                throw;
            } catch (const std::exception& error) {
                findings_.add("unusable", true, iso_, reason_for(shot->path, error),
                              "Leave the frame out, or take it again.");
            }
        }
        if (waiting) lonely(*waiting, file_name(waiting->path) + " has no partner of the same exposure");
        return out;
    }

    void lonely(const Shot& shot, const std::string& why) {
        findings_.add("no_pair", false, iso_, fmt::format("{}, so {} is not used.", why, file_name(shot.path)),
                      "Take two frames at each exposure, one directly after the other.");
    }

    MeasuredPair measured_pair(const RawPicture& a, const RawPicture& b, const Shot& first, const Shot& second) const {
        MeasuredPair out;
        out.transfer.planes = pair_statistics(a, b, a.black);
        double black = 0;
        const std::vector<double> levels = a.black.values();
        for (const double level : levels) black += level / static_cast<double>(levels.size());
        out.transfer.white = a.white - black;
        out.first = first.path;
        out.second = second.path;
        out.exposure_s = first.exposure_s;
        double level = 0;
        for (const PairPlane& plane : out.transfer.planes) level = std::max(level, plane.mean);
        // A flat field without light is a dark frame, whatever it was given as.
        out.transfer.dark = first.dark || level < 0.0005 * out.transfer.white;
        if (out.transfer.dark)
            out.lines = line_noise(a, b);
        else
            out.step = value_step(a);
        return out;
    }

    std::optional<IsoNoise> fitted(std::vector<MeasuredPair> flats, std::vector<MeasuredPair> darks,
                                   std::vector<fs::path>& used) {
        std::erase_if(flats, [&](const MeasuredPair& pair) { return !judge_.accepts_flat(pair); });
        std::erase_if(darks, [&](const MeasuredPair& pair) { return !judge_.accepts_dark(pair); });
        if (!enough_levels(flats)) return std::nullopt;
        if (darks.empty())
            findings_.add("no_darks", false, iso_,
                          fmt::format("There are no usable dark frames at ISO {}: read noise and black level are "
                                      "extrapolated from the flat fields.",
                                      iso_),
                          "Take two or more frames with the cap on.");
        IsoNoise out;
        out.iso = iso_;
        out.pairs = static_cast<int>(flats.size());
        out.dark_frames = 2 * static_cast<int>(darks.size());
        out.white = flats.front().transfer.white;
        std::vector<double> steps;
        for (const MeasuredPair& pair : flats)
            if (pair.step > 0) steps.push_back(pair.step);
        if (!steps.empty()) out.value_step = median(steps);
        out.nonlinearity_percent = nonlinearity(flats);
        for (const MeasuredPair& pair : flats) {
            const double level = pair.mean(Channel::green) / pair.transfer.white;
            if (level > 0.2 && level < 0.7 && bright_flats_.size() < 4)
                bright_flats_.insert(bright_flats_.end(), {pair.first, pair.second});
        }
        for (const MeasuredPair& pair : flats)
            out.levels.push_back({pair.exposure_s, pair.mean(Channel::green) / pair.transfer.white});
        std::sort(out.levels.begin(), out.levels.end(),
                  [](const PairLevel& a, const PairLevel& b) { return a.level < b.level; });
        std::vector<TransferPair> pairs;
        LineNoise lines;
        for (const MeasuredPair& pair : darks) {
            lines.row += pair.lines.row / static_cast<double>(darks.size());
            lines.column += pair.lines.column / static_cast<double>(darks.size());
        }
        for (std::vector<MeasuredPair>* list : {&flats, &darks})
            for (MeasuredPair& pair : *list) {
                used.push_back(pair.first);
                used.push_back(pair.second);
                pairs.push_back(std::move(pair.transfer));
            }
        try {
            subtract_black(pairs);
            out.colours = photon_transfer(pairs, std::max(1.0, out.value_step), lines);
        } catch (const Error& error) {
            findings_.add("no_gain", true, iso_, fmt::format("ISO {}: {}", iso_, error.what()),
                          "Take pairs of flat fields at several exposures again.");
            return std::nullopt;
        }
        return out;
    }

    bool enough_levels(const std::vector<MeasuredPair>& flats) {
        double low = 1e300, high = 0;
        for (const MeasuredPair& pair : flats) {
            const double mean = pair.mean(Channel::green);
            if (!(mean > 0)) continue;
            low = std::min(low, mean);
            high = std::max(high, mean);
        }
        if (high > 0 && std::log2(high / low) >= level_span_ev) return true;
        findings_.add("levels", true, iso_,
                      high > 0 ? fmt::format("The flat fields at ISO {} span {:.1f} EV of light (at least {:g} EV are "
                                             "needed), so this ISO is not measured.",
                                             iso_, std::log2(high / low), level_span_ev)
                               : fmt::format("There is no usable pair of flat fields at ISO {}.", iso_),
                      "Take pairs at several exposures, from a tenth to six tenths of the white level.");
        return false;
    }

    /// The dark frames tell where black is. A white level below zero signal is not moved: it is where samples clip.
    static void subtract_black(std::vector<TransferPair>& pairs) {
        std::vector<double> black(pairs.front().planes.size());
        int darks = 0;
        for (const TransferPair& pair : pairs)
            if (pair.dark) {
                for (std::size_t site = 0; site < black.size(); ++site) black[site] += pair.planes[site].mean;
                ++darks;
            }
        if (darks == 0) return;
        for (TransferPair& pair : pairs)
            for (std::size_t site = 0; site < black.size(); ++site) {
                PairPlane& plane = pair.planes[site];
                const auto by = static_cast<float>(black[site] / darks);
                double a = 0, b = 0;
                for (PairBlock& block : plane.blocks) {
                    block.mean_a -= by;
                    block.mean_b -= by;
                    if (block.clipped) continue;
                    a += block.mean_a;
                    b += block.mean_b;
                }
                if (!pair.dark && a > 0 && b > 0) plane.ratio = a / b;
            }
    }

    /// Deviation of the green signal from a line through black over the exposure time (EMVA 1288, relative errors).
    static std::optional<double> nonlinearity(const std::vector<MeasuredPair>& flats) {
        std::vector<std::pair<double, double>> points;
        std::set<double> times;
        for (const MeasuredPair& pair : flats) {
            double clipped = 0;
            for (const PairPlane& plane : pair.transfer.planes)
                if (plane.channel == Channel::green) clipped = std::max(clipped, plane.clipped);
            const double mean = pair.mean(Channel::green);
            if (pair.exposure_s <= 0 || mean < 0.02 * pair.transfer.white || clipped > 0) continue;
            points.emplace_back(pair.exposure_s, mean);
            times.insert(pair.exposure_s);
        }
        if (times.size() < 3) return std::nullopt;
        double sum = 0, worst = 0;
        for (const auto& [time, mean] : points) sum += mean / time / static_cast<double>(points.size());
        for (const auto& [time, mean] : points) worst = std::max(worst, std::abs(mean / (sum * time) - 1));
        return 100 * worst;
    }

    int iso_;
    NoiseFindings& findings_;
    Progress& progress_;
    NoiseJudge judge_;
    std::vector<fs::path> bright_flats_;
    std::map<std::tuple<bool, double, double, int>, std::vector<const Shot*>> groups_;
};

/// The highest ISO whose counts are not multiplied more than those of the lowest one. Where values left out do not tell
/// it, the ISO from which on read noise in electrons stays the same: amplification before the conversion would lower
/// it.
int digital_above(const std::vector<IsoNoise>& isos) {
    const double base = isos.front().value_step;
    if (base > 0) {
        int last = 0;
        bool multiplied = false;
        for (const IsoNoise& iso : isos) {
            if (iso.value_step > 1.2 * base)
                multiplied = true;
            else if (iso.value_step > 0 && !multiplied)
                last = iso.iso;
        }
        if (multiplied) return last;
    }
    for (std::size_t i = 0; i + 1 < isos.size(); ++i) {
        const MeasuredFigure& here = isos[i].colours[1].read_noise;
        bool same = true;
        for (std::size_t j = i + 1; j < isos.size(); ++j) {
            const MeasuredFigure& above = isos[j].colours[1].read_noise;
            const double sigma = std::hypot(here.sigma, above.sigma);
            same = same && std::abs(above.value - here.value) < std::max(3 * sigma, 0.01 * here.value) &&
                   sigma < 0.05 * here.value;
        }
        if (same) return isos[i].iso;
    }
    return 0;
}

/// Dust takes light, but cancels in pairs: it is told, and no figure depends on it.
void tell_dust(const std::vector<fs::path>& flats, NoiseFindings& findings, Progress& progress) {
    if (flats.empty()) return;
    constexpr double clean_percent = 2;
    DustFound found;
    try {
        found = find_dust(flats, progress);
    } catch (const Cancelled&) {
        throw;
    } catch (const Error&) {
        return;  // too small for a search
    }
    if (found.spots.empty()) return;
    const double deepest = found.spots.front().depth_percent;
    findings.add(
        "dust", false, 0,
        fmt::format("{} of dust {} up to {:.1f} % of the light.", counted(found.spots.size(), "speck", "specks"),
                    found.spots.size() == 1 ? "takes" : "take", deepest),
        deepest > clean_percent ? "Clean the sensor. The figures do not depend on it."
                                : "Nothing needs to be done; the figures do not depend on it.");
}

}  // namespace

NoiseMeasurement measure_noise(const std::vector<fs::path>& flats, const std::vector<fs::path>& darks,
                               Progress& progress) {
    NoiseFindings findings;
    const std::vector<Shot> shots = shots_of(flats, darks, findings, progress);
    NoiseMeasurement out;
    std::map<int, std::vector<const Shot*>> by_iso;
    for (const Shot& shot : shots) by_iso[shot.metadata.iso].push_back(&shot);
    progress.start(static_cast<int>(shots.size()), "Measuring frames");
    std::vector<fs::path> bright;
    for (const auto& [iso, list] : by_iso) {
        IsoRun run(iso, list, findings, progress);
        if (std::optional<IsoNoise> noise = run.measure(out.frames)) out.isos.push_back(std::move(*noise));
        if (bright.empty()) bright = run.bright_flats();
    }
    tell_dust(bright, findings, progress);
    out.findings = findings.sorted();
    if (out.isos.empty()) {
        if (out.findings.empty()) throw input_error("There are no frames to measure; name raw flat fields.");
        // Why frames cannot be used says more than that pairs are missing then.
        auto reason = std::find_if(out.findings.begin(), out.findings.end(),
                                   [](const NoiseFinding& f) { return f.name == "unusable"; });
        if (reason == out.findings.end()) reason = out.findings.begin();
        throw input_error(fmt::format("No ISO could be measured: {}", reason->text));
    }
    out.body = shots.front().metadata;
    out.width = out.body.width;
    out.height = out.body.height;
    out.digital_above_iso = digital_above(out.isos);
    return out;
}

}  // namespace optrel

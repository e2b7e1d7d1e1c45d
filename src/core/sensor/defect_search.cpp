// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/defect_search.h"

#include <fmt/format.h>

#include <algorithm>
#include <boost/math/distributions/chi_squared.hpp>
#include <cmath>
#include <map>
#include <optional>
#include <set>
#include <tuple>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/exposure_time.h"
#include "frames/metadata.h"
#include "sensor/line_search.h"
#include "sensor/noise_judge.h"
#include "sensor/sample_phases.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr double hot_sigmas = 5;
constexpr double most_light_in_the_dark = 0.02;  ///< share of the white level
constexpr double dead_share = 0.25;              ///< of the light
constexpr double dead_sigmas = 7;
constexpr double faint_line_sigmas = 0.2;  ///< of a single frame; fainter lines are invisible
constexpr double faint_line_percent = 0.5;
constexpr double most_defects = 0.005;  ///< share of all pixels
/// Expected number of pixels in a whole picture that noise alone makes unstable.
constexpr double false_alarms = 0.01;
constexpr int frames_for_unstable = 4;
constexpr float unstable_share = 0.25f;  ///< of the excess, by which an unstable pixel changes

/// Mean counts above black.
double light_of(const RawPicture& raw) {
    const std::vector<double> black = raw.black.values();
    double mean_black = 0;
    for (const double level : black) mean_black += level / static_cast<double>(black.size());
    return cv::mean(raw.counts)[0] - mean_black;
}

cv::Mat1f above_black(const RawPicture& raw) {
    cv::Mat1f out(raw.counts.size());
    for (int row = 0; row < out.rows; ++row)
        for (int column = 0; column < out.cols; ++column)
            out(row, column) = static_cast<float>(raw.counts(row, column) - raw.black.at(row, column));
    return out;
}

/// Accumulates the dark frames of one ISO and exposure time.
class DarkStack {
public:
    void add(const RawPicture& raw) {
        const cv::Mat1f samples = above_black(raw);
        period_ = raw.period();
        if (frames_++ == 0) {
            sum_ = cv::Mat1f::zeros(samples.size());
            squares_ = cv::Mat1f::zeros(samples.size());
            brightest_ = samples.clone();
        } else {
            brightest_ = cv::max(brightest_, samples);
        }
        sum_ += samples;
        squares_ += samples.mul(samples);
    }

    int frames() const { return frames_; }

    /// One sigma of a sample from frame to frame, counts.
    double noise() const {
        const int degrees = frames_ - 1;
        const cv::Mat1f variance = (squares_ - sum_.mul(sum_) / frames_) / degrees;
        std::vector<double> values;
        const int step = std::max(1, static_cast<int>(std::sqrt(static_cast<double>(variance.total()) / 60000)));
        for (int y = 0; y < variance.rows; y += step)
            for (int x = 0; x < variance.cols; x += step) values.push_back(variance(y, x));
        std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2), values.end());
        const double of_chi = boost::math::median(boost::math::chi_squared(degrees)) / degrees;
        return std::sqrt(std::max(0.0, values[values.size() / 2]) / of_chi);
    }

    int period() const { return period_; }
    /// Mean without the brightest frame.
    cv::Mat1f mean() const {
        if (frames_ < 3) return sum_ / frames_;
        return (sum_ - brightest_) / (frames_ - 1);
    }

    /// Standard deviation of a sample over the frames, the brightest left out; empty with too few frames.
    cv::Mat1f deviation() const {
        if (frames_ < frames_for_unstable) return {};
        const int left = frames_ - 1;
        const cv::Mat1f sum = sum_ - brightest_;
        cv::Mat1f out = (squares_ - brightest_.mul(brightest_) - sum.mul(sum) / left) / (left - 1);
        cv::sqrt(cv::max(out, 0.f), out);
        return out;
    }

    /// Deviations above this many counts are unstable.
    double unstable_from(double noise) const {
        const int degrees = frames_ - 2;
        const double chance = false_alarms / static_cast<double>(sum_.total());
        const double quantile =
            boost::math::quantile(boost::math::complement(boost::math::chi_squared(degrees), chance));
        // Rounding to whole counts adds a twelfth.
        return std::sqrt((noise * noise + 1.0 / 12) * quantile / degrees);
    }

private:
    int frames_ = 0, period_ = 2;
    cv::Mat1f sum_, squares_, brightest_;
};

struct DarkShot {
    fs::path path;
    int iso = 0;
    double exposure_s = 0;
};

/// Collects defects over dark settings and flat fields.
class Search {
public:
    explicit Search(Progress& progress) : progress_(progress) {}

    void look_at_darks(const std::vector<fs::path>& darks) {
        std::map<std::pair<double, int>, std::vector<DarkShot>> settings;
        for (const fs::path& path : darks)
            attempt(path, [&](const OpenedFrame& frame, const Metadata& m) {
                if (m.iso <= 0)
                    throw input_error(printable(path.string()) +
                                      " does not record its ISO; use files as the camera wrote them.");
                const DarkShot shot{path, static_cast<int>(std::lround(m.iso)), exposure_time(frame)};
                settings[{shot.exposure_s, shot.iso}].push_back(shot);
            });
        for (const auto& [key, shots] : settings) look_at_setting(shots);
    }

    void look_at_flats(const std::vector<fs::path>& flats) {
        if (flats.empty()) return;
        cv::Mat1f sum;
        int period = 2;
        std::vector<fs::path> used;
        for (const fs::path& path : flats)
            attempt(path, [&](const OpenedFrame& frame, const Metadata&) {
                const RawPicture raw = read(frame, path);
                cv::Mat1f samples = above_black(raw);
                const double mean = cv::mean(samples)[0], share = mean / std::max(1.0, raw.white);
                if (share < 0.02 || share > 0.95)
                    throw input_error(fmt::format("{} is {}; expose a flat field at about half of the white level.",
                                                  printable(path.string()), share < 0.02 ? "too dark" : "overexposed"));
                samples *= 1 / mean;
                if (sum.empty())
                    sum = samples;
                else
                    sum += samples;
                period = raw.period();
                used.push_back(path);
                progress_.step();
            });
        if (used.empty()) return;
        take(used);
        out_.map.flats = static_cast<int>(used.size());
        const cv::Mat1f light = sum * (100.0 / static_cast<double>(used.size()));
        find_dead(relative_to_local_median(light, period, 2));
        find_lines(deviating_lines(light, less_local_median(light, period), period, faint_line_percent), true);
        DustFound found = find_dust(used, progress_);
        out_.map.dust = std::move(found.spots);
        out_.evenness = found.evenness;
        out_.problems.insert(out_.problems.end(), found.problems.begin(), found.problems.end());
    }

    DefectSearch result() {
        DefectMap& map = out_.map;
        if (map.settings.empty() && map.flats == 0)
            throw input_error(out_.problems.empty() ? "There is no frame to look for defects on; name dark frames or "
                                                      "flat fields."
                                                    : out_.problems.front());
        fill_excess();
        if (static_cast<double>(pixels_.size()) > most_defects * map.width * map.height)
            throw input_error(
                fmt::format("{} of {} million pixels stand out, which no sensor shows: the dark frames "
                            "saw light, or the flat fields were not even. Take them again.",
                            pixels_.size(), std::lround(1e-6 * map.width * map.height)));
        for (auto& [place, pixel] : pixels_) map.pixels.push_back(std::move(pixel));
        drop_pixels_of_lines();
        return std::move(out_);
    }

private:
    /// Calls body() with an opened frame of the body; a problem is noted, and the others go on.
    template <class Body>
    void attempt(const fs::path& path, const Body& body) {
        progress_.check();
        if (!seen_.insert(resolved_path(path).value_or(path)).second) return;
        std::optional<Metadata> other;
        try {
            const OpenedFrame frame(path);
            const Metadata m = read_metadata(frame);
            if (m.kind != FrameKind::raw)
                throw input_error(printable(path.string()) +
                                  " is a rendered picture, which hides defects; use the raw file of that frame.");
            if (!m.corrected.empty())
                throw input_error(printable(path.string()) + " was corrected already; use the camera's own file.");
            if (first_ && (camera_name(m) != camera_name(*first_) || m.body_serial != first_->body_serial))
                other = m;
            else
                body(frame, m);
            if (!first_) first_ = m;
        } catch (const Cancelled&) {
            throw;
        } catch (const std::exception& error) {
            out_.problems.push_back(reason_for(path, error));
        }
        if (other)
            throw input_error(
                fmt::format("{} was taken with {} {}, but the frames before it with {} {}; defects are "
                            "found for one body at a time.",
                            printable(path.string()), camera_name(*other), other->body_serial, camera_name(*first_),
                            first_->body_serial));
    }

    /// Reads the samples; every frame has the size of the first.
    RawPicture read(const OpenedFrame& frame, const fs::path& path) {
        RawPicture raw = read_raw(frame);
        if (out_.map.width == 0) {
            out_.map.width = raw.counts.cols;
            out_.map.height = raw.counts.rows;
        }
        if (raw.counts.cols != out_.map.width || raw.counts.rows != out_.map.height)
            throw input_error(fmt::format("{} has {} x {} pixels, the frames before it {} x {}; leave it out.",
                                          printable(path.string()), raw.counts.cols, raw.counts.rows, out_.map.width,
                                          out_.map.height));
        return raw;
    }

    void take(const std::vector<fs::path>& used) {
        for (const fs::path& path : used) out_.map.frames.push_back(path.filename().string());
        out_.map.camera = camera_name(*first_);
        out_.map.serial = first_->body_serial;
    }

    void look_at_setting(const std::vector<DarkShot>& shots) {
        DarkStack stack;
        std::vector<fs::path> used;
        for (const DarkShot& shot : shots) {
            progress_.check();
            try {
                const OpenedFrame frame(shot.path);
                const RawPicture raw = read(frame, shot.path);
                const double light = light_of(raw);
                if (light > most_light_in_the_dark * raw.white)
                    throw input_error(
                        fmt::format("{} shows light ({:.1f} % of the white level); put the cap on, cover "
                                    "the viewfinder, and take it again.",
                                    printable(shot.path.string()), 100 * light / raw.white));
                stack.add(raw);
                used.push_back(shot.path);
                progress_.step();
            } catch (const Cancelled&) {
                throw;
            } catch (const std::exception& error) {
                out_.problems.push_back(reason_for(shot.path, error));
            }
        }
        if (stack.frames() < 2) {
            if (stack.frames() == 1)
                out_.problems.push_back(fmt::format(
                    "There is one dark frame of ISO {} and {} s; take another one like it, so that noise and defects "
                    "can be told apart.",
                    shots.front().iso, shots.front().exposure_s));
            return;
        }
        take(used);
        const DarkSetting setting{shots.front().iso, shots.front().exposure_s, stack.frames(), stack.noise()};
        find_in_the_dark(stack, setting);
        out_.map.settings.push_back(setting);
    }

    void find_in_the_dark(const DarkStack& stack, const DarkSetting& setting) {
        const cv::Mat1f mean = stack.mean(), excess = less_local_median(mean, stack.period());
        // The mean of few frames still shows noise of its own and the fixed pattern.
        const double least = std::max(hot_sigmas * std::max(0.3, setting.noise), 7 * robust_sigma(excess));
        const cv::Mat1f deviation = stack.deviation();
        const double unstable = deviation.empty() ? 0 : stack.unstable_from(setting.noise);
        for (int row = 0; row < excess.rows; ++row)
            for (int column = 0; column < excess.cols; ++column) {
                const float above = excess(row, column), over_time = deviation.empty() ? 0.f : deviation(row, column);
                // Dark current has noise of its own, but far less than this share.
                if (!deviation.empty() && over_time > unstable && over_time > unstable_share * above) {
                    DefectPixel& pixel = mark(row, column, DefectKind::unstable);
                    pixel.strength = std::max(pixel.strength, static_cast<double>(over_time));
                } else if (above > least) {
                    mark(row, column, DefectKind::hot);
                }
            }
        find_lines(deviating_lines(mean, excess, stack.period(), faint_line_sigmas * setting.noise), false);
        // Counts as whole numbers: a float for each pixel and setting would take twice the memory.
        cv::Mat1w whole;
        excess.convertTo(whole, CV_16U);
        excess_.push_back(whole);
    }

    DefectPixel& mark(int row, int column, DefectKind kind) {
        DefectPixel& pixel = pixels_.try_emplace({row, column}, DefectPixel{row, column, kind, {}, 0}).first->second;
        // What changes at one exposure time may look steady at another.
        if (kind == DefectKind::unstable) pixel.kind = kind;
        return pixel;
    }

    void find_dead(const cv::Mat1f& response) {
        const double least = std::max(dead_share, dead_sigmas * robust_sigma(response));
        for (int row = 0; row < response.rows; ++row)
            for (int column = 0; column < response.cols; ++column) {
                if (std::abs(response(row, column)) < least || pixels_.contains({row, column})) continue;
                mark(row, column, DefectKind::dead).strength = 100 * response(row, column);
            }
    }

    void find_lines(const std::vector<DeviatingLine>& lines, bool in_light) {
        for (const DeviatingLine& l : lines) {
            const auto known = std::find_if(out_.map.lines.begin(), out_.map.lines.end(), [&](const DefectLine& k) {
                return k.is_row == l.is_row && k.index == l.index;
            });
            if (known == out_.map.lines.end()) {
                out_.map.lines.push_back({l.is_row, l.index, l.first, l.last, l.mean, in_light});
                continue;
            }
            known->first = std::min(known->first, l.first);
            known->last = std::max(known->last, l.last);
        }
    }

    void fill_excess() {
        for (auto& [place, pixel] : pixels_)
            if (pixel.kind != DefectKind::dead)
                for (const cv::Mat1w& excess : excess_) pixel.excess.push_back(excess(pixel.row, pixel.column));
    }

    /// A pixel of a line is told once, with the line.
    void drop_pixels_of_lines() {
        std::erase_if(out_.map.pixels, [&](const DefectPixel& p) {
            return std::any_of(out_.map.lines.begin(), out_.map.lines.end(), [&](const DefectLine& l) {
                const int along = l.is_row ? p.column : p.row;
                return (l.is_row ? p.row : p.column) == l.index && along >= l.first && along <= l.last;
            });
        });
    }

    Progress& progress_;
    DefectSearch out_;
    std::optional<Metadata> first_;
    std::set<fs::path> seen_;
    std::map<std::pair<int, int>, DefectPixel> pixels_;
    std::vector<cv::Mat1w> excess_;  ///< for each dark setting
};

}  // namespace

SortedFrames sorted_by_light(const std::vector<fs::path>& frames, Progress& progress) {
    SortedFrames out;
    progress.start(static_cast<int>(frames.size()), "Sorting frames");
    for (const fs::path& path : frames) {
        progress.check();
        bool dark = false;
        try {
            const RawPicture raw = read_raw(path);
            dark = light_of(raw) < most_light_in_the_dark * raw.white;
        } catch (const Cancelled&) {
            throw;
        } catch (const std::exception&) {
            dark = false;  // told when it is used
        }
        (dark ? out.darks : out.flats).push_back(path);
        progress.step();
    }
    return out;
}

DefectSearch find_defects(const std::vector<fs::path>& flats, const std::vector<fs::path>& darks, Progress& progress) {
    progress.start(static_cast<int>(flats.size() + darks.size()), "Looking for defects");
    Search search(progress);
    search.look_at_darks(darks);
    search.look_at_flats(flats);
    return search.result();
}

}  // namespace optrel

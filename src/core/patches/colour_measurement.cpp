// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/colour_measurement.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/exposure_time.h"
#include "patches/chart_finder.h"
#include "patches/colorimetry.h"
#include "render/colour.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr double least_correlation = 0.85, least_lead = 0.01;
constexpr double same_light = 0.12;    ///< of the logarithm of red or blue over green
constexpr double mixed_light = 0.025;  ///< spread of greys
constexpr double other_light_mired = 70;

/// One frame as it was measured.
struct Shot {
    fs::path path;
    std::vector<MeasuredPatch> patches;
    CameraMatrices matrices;
    std::array<double, 3> as_shot{};
    double red = 0, blue = 0;  ///< logarithms of red and blue over green of the chart's greys
    bool rendered = false;
    int iso = 0;
    double exposure_s = 0, aperture = 0;
};

std::string place_name(const PatchChart& chart, std::size_t patch) { return chart.patches[patch].id; }

class Run {
public:
    Run(const ColourRun& run, Progress& progress) : run_(run), progress_(progress) { out_.chart = run.chart; }

    ColourMeasurement measured() {
        progress_.start(static_cast<int>(run_.frames.size() + run_.flats.size()), "Measuring the chart");
        for (const fs::path& path : run_.frames) attempt(path, [&] { look_at(path); });
        if (shots_.empty())
            throw input_error(out_.findings.empty() ? "There is no frame of a chart; name some."
                                                    : out_.findings.front().text);
        divide_by_flats();
        require_two_lights();
        for (const std::vector<const Shot*>& group : by_light()) out_.lights.push_back(fitted(group));
        std::stable_sort(out_.findings.begin(), out_.findings.end(),
                         [](const ColourFinding& a, const ColourFinding& b) { return a.serious > b.serious; });
        return std::move(out_);
    }

private:
    template <class Body>
    void attempt(const fs::path& path, const Body& body) {
        progress_.check();
        try {
            body();
        } catch (const Cancelled&) {
            throw;
        } catch (const std::exception& error) {
            find("unusable", true, reason_for(path, error), "Leave the frame out, or take it again.");
        }
        progress_.step();
    }

    void find(const char* name, bool serious, std::string text, std::string remedy) {
        out_.findings.push_back({name, serious, std::move(text), std::move(remedy)});
    }

    void require_same_body(const Metadata& m, const fs::path& path) {
        if (shots_.empty()) {
            out_.body = m;
            return;
        }
        if (camera_name(m) != camera_name(out_.body) || m.body_serial != out_.body.body_serial)
            throw input_error(
                fmt::format("{} was taken with {} {}, the frames before it with {} {}; colours are "
                            "measured for one body at a time.",
                            printable(path.string()), camera_name(m), m.body_serial, camera_name(out_.body),
                            out_.body.body_serial));
    }

    ChartPlace place_in(const MeasuringPicture& picture, const std::string& name) {
        if (run_.corners) return place_by_corners(picture, run_.chart, *run_.corners);
        const std::optional<ChartPlace> found = find_chart(picture, run_.chart);
        if (!found)
            throw input_error(
                fmt::format("No chart of {} by {} patches in a dark frame is seen in {}; take it larger "
                            "and sharper, or give its corners.",
                            run_.chart.columns, run_.chart.rows, name));
        return *found;
    }

    void look_at(const fs::path& path) {
        const std::string name = printable(path.filename().string());
        if (!seen_.insert(resolved_path(path).value_or(path)).second) {
            find("twice", false, fmt::format("{} was given twice and is used once.", name), "Name each frame once.");
            return;
        }
        const OpenedFrame opened(path);
        const MeasuringPicture picture = read_for_measuring(opened);
        require_same_body(picture.metadata, path);
        const ChartPlace place = place_in(picture, name);
        if (place.correlation < least_correlation)
            throw input_error(
                fmt::format("The patches in {} do not agree with the reference (correlation {:.2f}, at "
                            "least {:g} is needed): the reference is of another chart, or something "
                            "covers it.",
                            name, place.correlation, least_correlation));
        if (!run_.corners && place.correlation - place.next_correlation < least_lead)
            throw input_error(
                fmt::format("Which way up the chart stands in {} cannot be told by its colours; give its "
                            "corners.",
                            name));
        if (place.quarter_turns != 0)
            find("turned", false,
                 fmt::format("The chart is turned by {} degrees in {}; its patches were read so.",
                             90 * place.quarter_turns, name),
                 "Nothing needs to be done.");
        Shot shot{path,
                  measure_patches(picture, run_.chart, place.to_frame),
                  CameraMatrices(RawPicture()),
                  {},
                  0,
                  0,
                  picture.metadata.kind == FrameKind::rendered,
                  picture.metadata.iso,
                  exposure_time(opened),
                  picture.metadata.aperture};
        places_.push_back(place.to_frame);
        if (shot.rendered) {
            find("rendered", false,
                 fmt::format("{} is a rendered picture: its colours were changed in the camera, so what is measured "
                             "holds for pictures with these settings only.",
                             name),
                 "Use the raw file of the frame.");
            shot.as_shot = {1, 1, 1};
        } else {
            const RawPicture raw = read_raw(opened);
            if (!raw.has_colours())
                throw input_error(name + " is of a monochrome sensor, which has no colours to measure.");
            shot.matrices = own_matrices(raw);
            shot.as_shot = raw.as_shot_neutral;
        }
        take_ratios(shot);
        shots_.push_back(std::move(shot));
    }

    /// The colour of the light, from patches that are nearly grey.
    void take_ratios(Shot& shot) const {
        double n = 0;
        for (std::size_t i = 0; i < shot.patches.size(); ++i) {
            const cv::Vec3d lab = lab_of(run_.chart.patches[i].xyz_d50, white_d50);
            const std::array<double, 3>& raw = shot.patches[i].raw;
            if (std::hypot(lab[1], lab[2]) > 10 || !(raw[0] > 0 && raw[1] > 0 && raw[2] > 0)) continue;
            shot.red += std::log(raw[0] / raw[1]);
            shot.blue += std::log(raw[2] / raw[1]);
            ++n;
        }
        if (n == 0) throw input_error("The chart has no grey patches, by which the light could be told.");
        shot.red /= n;
        shot.blue /= n;
    }

    void divide_by_flats() {
        std::vector<MeasuredPatch> sum;
        int used = 0;
        for (const fs::path& path : run_.flats)
            attempt(path, [&] {
                const MeasuringPicture picture = read_for_measuring(path);
                const std::vector<MeasuredPatch> flat = measure_patches(picture, run_.chart, places_.front());
                if (std::any_of(flat.begin(), flat.end(), [](const MeasuredPatch& p) { return !p.used(); }))
                    throw input_error(
                        fmt::format("{} is not even where the chart was ({}); use an even surface, "
                                    "exposed to half of the white level.",
                                    printable(path.filename().string()),
                                    std::find_if(flat.begin(), flat.end(), [](const MeasuredPatch& p) {
                                        return !p.used();
                                    })->left_out));
                if (used++ == 0)
                    sum = flat;
                else
                    for (std::size_t i = 0; i < sum.size(); ++i)
                        for (std::size_t c = 0; c < 3; ++c) sum[i].raw[c] += flat[i].raw[c];
            });
        if (used == 0) return;
        for (Shot& shot : shots_) divide_by_flat(shot.patches, sum);
    }

    static bool in_same_light(const Shot& a, const Shot& b) {
        return std::abs(a.red - b.red) < same_light && std::abs(a.blue - b.blue) < same_light;
    }

    /// Frames of one light and one ISO, by temperature and ISO.
    std::vector<std::vector<const Shot*>> by_light() const {
        std::vector<std::vector<const Shot*>> out;
        for (const Shot& shot : shots_) {
            const auto same = std::find_if(out.begin(), out.end(), [&](const std::vector<const Shot*>& group) {
                return group.front()->iso == shot.iso && in_same_light(*group.front(), shot);
            });
            if (same == out.end())
                out.push_back({&shot});
            else
                same->push_back(&shot);
        }
        // Warmer light has more red and less blue.
        std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) {
            const Shot &x = *a.front(), &y = *b.front();
            if (!in_same_light(x, y)) return x.red - x.blue > y.red - y.blue;
            return x.iso < y.iso;
        });
        return out;
    }

    void require_two_lights() const {
        std::vector<const Shot*> lights;
        for (const Shot& shot : shots_)
            if (std::none_of(lights.begin(), lights.end(), [&](const Shot* l) { return in_same_light(*l, shot); }))
                lights.push_back(&shot);
        if (lights.size() > 2)
            throw input_error(
                fmt::format("The frames show the chart in {} lights; a colour file holds two at most. "
                            "Give frames of one or two lights.",
                            lights.size()));
    }

    /// Means over the frames of a light; exposures may differ.
    std::vector<MeasuredPatch> mean_of(const std::vector<const Shot*>& shots) const {
        std::vector<MeasuredPatch> out = shots.front()->patches;
        const auto brightness = [](const Shot& s) {
            double sum = 0;
            for (const MeasuredPatch& p : s.patches)
                if (p.used()) sum += p.raw[1];
            return sum;
        };
        const double first = brightness(*shots.front()), n = static_cast<double>(shots.size());
        for (std::size_t i = 0; i < out.size(); ++i) {
            std::array<double, 3> sum{}, variance{};
            for (const Shot* s : shots) {
                const MeasuredPatch& p = s->patches[i];
                const double gain = first / brightness(*s);
                if (!p.used() && out[i].used()) out[i].left_out = p.left_out;
                for (std::size_t c = 0; c < 3; ++c) {
                    sum[c] += gain * p.raw[c] / n;
                    variance[c] += gain * gain * p.sigma[c] * p.sigma[c] / (n * n);
                }
            }
            out[i].raw = sum;
            for (std::size_t c = 0; c < 3; ++c) out[i].sigma[c] = std::sqrt(variance[c]);
        }
        return out;
    }

    MeasuredLight fitted(const std::vector<const Shot*>& shots) {
        MeasuredLight out;
        const Shot& first = *shots.front();
        for (const Shot* s : shots) out.frames.push_back(s->path.filename().string());
        out.rendered = first.rendered;
        out.iso = first.iso;
        out.exposure_s = first.exposure_s;
        out.aperture = first.aperture;
        out.as_shot = first.as_shot;
        out.patches = mean_of(shots);
        out.fitted.fit = fit_colours(run_.chart, out.patches);
        const ColourFit& fit = out.fitted.fit;
        for (const auto& [patch, error] : fit.glare) {
            out.patches[static_cast<std::size_t>(patch)].left_out = "it is lighter and paler than the others explain";
            find("glare", true,
                 fmt::format("The patch {} is lighter and paler than all others explain (dE2000 {:.1f}): glare.",
                             printable(place_name(run_.chart, static_cast<std::size_t>(patch))), error),
                 "Turn the chart or move the lamps, and take it again.");
        }
        tell_left_out(out);
        const std::array<double, 3> neutral = fit.balance();
        out.exposure_ev = {std::log2(fit.neutral[1]), fit.neutral_sigma[1] / fit.neutral[1] / std::log(2.0)};
        if (!out.rendered) take_neutral(first, neutral, out);
        if (fit.grey_spread > mixed_light)
            find("mixed_light", true,
                 fmt::format("The greys differ in colour by {:.1f} % (one sigma): several lights mix on the chart, or "
                             "one lies in the colour of a wall.",
                             100 * fit.grey_spread),
                 "Use lamps of one kind, and keep daylight and coloured surfaces away.");
        if (outside_chart(fit.mean))
            find("outside_chart", true,
                 fmt::format("The best fit leaves a mean of {:.1f} dE2000: this body sees these surfaces unlike the "
                             "eye does, as one that sees infrared.",
                             fit.mean),
                 "Use what is neutral of this measurement, and no colours. Where the body sees no infrared, check "
                 "that the chart file belongs to this chart.");
        return out;
    }

    void tell_left_out(const MeasuredLight& light) {
        int clipped = 0;
        std::string others;
        for (std::size_t i = 0; i < light.patches.size(); ++i) {
            const std::string& why = light.patches[i].left_out;
            if (why == "it is overexposed")
                ++clipped;
            else if (!why.empty() && why != "it is lighter and paler than the others explain")
                others +=
                    fmt::format("{}{}: {}", others.empty() ? "" : "; ", printable(place_name(run_.chart, i)), why);
        }
        if (clipped > 0)
            find("clipped", true, fmt::format("{} patches are overexposed and left out.", clipped),
                 "Expose the chart less: its white to about 70 percent of the white level.");
        if (!others.empty())
            find("left_out", false, fmt::format("Patches are left out: {}.", others),
                 "Clean the chart, light it evenly, and take it again.");
    }

    void take_neutral(const Shot& shot, const std::array<double, 3>& neutral, MeasuredLight& out) {
        const ColourFit& fit = out.fitted.fit;
        out.fitted.white = white_of(shot.matrices, neutral);
        out.fitted.kelvin = correlated_temperature(out.fitted.white);
        out.xyz_to_camera = shot.matrices.at(out.fitted.kelvin);
        // By the scatter of the greys.
        const NeutralOffsets offsets = neutral_offsets(shot.matrices, shot.as_shot, neutral, fit.balance_sigma);
        out.mired = offsets.warmth;
        out.tint = offsets.tint;
        const auto reference = standard_light(run_.chart.illuminant);
        const cv::Vec3d white = white_of(*reference);
        const double of_chart = 1e6 / correlated_temperature({white[0] / (white[0] + white[1] + white[2]),
                                                              white[1] / (white[0] + white[1] + white[2])});
        if (std::abs(1e6 / out.fitted.kelvin - of_chart) > other_light_mired)
            find(
                "other_illuminant", false,
                fmt::format("The light has {:.0f} K, the reference colours are for {}: surfaces that look alike in one "
                            "light may differ in another.",
                            out.fitted.kelvin, run_.chart.illuminant),
                "Spectra in the chart file, or a reference for this light, tell more.");
    }

    const ColourRun& run_;
    Progress& progress_;
    ColourMeasurement out_;
    std::vector<Shot> shots_;
    std::vector<cv::Matx33d> places_;
    std::set<fs::path> seen_;
};

}  // namespace

ColourMeasurement measure_colours(const ColourRun& run, Progress& progress) { return Run(run, progress).measured(); }

}  // namespace optrel

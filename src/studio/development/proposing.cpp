// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/proposing.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "baselines/fringe_hues.h"
#include "patches/neutral_area.h"
#include "render/colour_rendering.h"
#include "studio/development/develop_frame.h"
#include "studio/development/prepare_frame.h"

namespace optrel {

namespace {

FrameMap lens_of(const FrameDevelopment& r) {
    return lens_of(r.fields, r.profile, geometry_of(r.metadata), r.metadata.focal_mm);
}

/// Rounds and limits a number to what the field can hold.
Value fitting(Field field, double number) {
    const FieldInfo& f = info(field);
    const double steps = std::pow(10, f.decimals);
    return {std::clamp(std::round(number * steps) / steps, f.low, f.high), ""};
}

double now(const FrameDevelopment& r, Field field) { return r.fields[field].value.number; }

/// Lens with additional manual distortion, as a fraction of the corner radius.
std::function<FrameMap(double)> with_distortion(const FrameDevelopment& r) {
    return [r](double more) {
        FrameDevelopment with = r;
        with.fields.fields[static_cast<int>(Field::hand_distortion)].value.number += 100 * more;
        return lens_of(with);
    };
}

}  // namespace

FieldProposal propose_colours(const std::filesystem::path& frame, const FrameDevelopment& r, const Progress& progress) {
    const ChromaticProposal p = propose_fringes(read_for_measuring(frame), lens_of(r), progress);
    FieldProposal out;
    out.values = {{Field::red_at_corner, fitting(Field::red_at_corner, p.red.corner_px)},
                  {Field::red_bow, fitting(Field::red_bow, p.red.bow_px)},
                  {Field::blue_at_corner, fitting(Field::blue_at_corner, p.blue.corner_px)},
                  {Field::blue_bow, fitting(Field::blue_bow, p.blue.bow_px)}};
    const auto said = [](const char* name, const ChromaticProposal::Colour& c) {
        return fmt::format("{} {} at the corner with a bow of {}", name,
                           figure_text(figures::shift, c.corner_px, c.corner_sigma),
                           figure_text(figures::shift, c.bow_px, c.bow_sigma));
    };
    out.text =
        fmt::format("Proposed: {}, {} (one sigma), by {} edges.", said("red", p.red), said("blue", p.blue), p.edges);
    return out;
}

FieldProposal propose_distortion(const FrameLines& lines, const std::vector<bool>& wanted, const FrameDevelopment& r) {
    std::vector<Segment> chosen;
    for (std::size_t i = 0; i < lines.segments.size(); ++i)
        if (i < wanted.size() && wanted[i]) chosen.push_back(lines.segments[i]);
    const double before = now(r, Field::hand_distortion);
    const DistortionProposal p = propose_distortion(chosen, with_distortion(r));
    FieldProposal out;
    const double percent = before + 100 * p.distortion;
    out.values = {{Field::hand_distortion, fitting(Field::hand_distortion, percent)}};
    out.text = fmt::format("Proposed: {} (one sigma), by {} lines; they stay {} (RMS) from straight, {} before.",
                           figure_text(figures::distortion, percent, 100 * p.sigma), p.lines,
                           figure_text(figures::shift, p.after_px), number_text(figures::shift, p.before_px));
    return out;
}

Value bent_straight(const Vec2& from, const Vec2& middle, const Vec2& to, const FrameDevelopment& r) {
    const double more = straightening_distortion(from, middle, to, with_distortion(r));
    return fitting(Field::hand_distortion, now(r, Field::hand_distortion) + 100 * more);
}

FieldProposal propose_light(const std::filesystem::path& frame, const FrameDevelopment& r, const cv::Rect& area,
                            const Progress& progress) {
    // Manual light is replaced, not added to, because only its shape is proposed.
    FrameDevelopment without = r;
    without.fields.fields[static_cast<int>(Field::corner_light)].value.number = 0;
    const MeasuringPicture picture = read_for_measuring(frame);
    progress.check();
    const LightProposal p = propose_light(picture, area, lens_of(without));
    FieldProposal out;
    out.values = {{Field::corner_light, fitting(Field::corner_light, p.light_ev)},
                  {Field::corner_light_from, fitting(Field::corner_light_from, p.light_from)}};
    out.text =
        fmt::format("Proposed: {} from height {} (one sigma); the area is even to {} (RMS) then, {} before.",
                    figure_text(figures::exposure, p.light_ev, p.sigma_ev), number_text(figures::ratio, p.light_from),
                    figure_text(figures::light, p.after_percent), figure_text(figures::light, p.before_percent));
    return out;
}

FieldProposal propose_neutral(const std::filesystem::path& path, const FrameDevelopment& r, const cv::Rect& area,
                              const Progress& progress) {
    const OpenedFrame frame(path);
    RawPicture raw = read_raw(frame);
    progress.check();
    add_own_colours(raw, frame, r.metadata);
    const NeutralArea n = neutral_of_area(raw, area, matrices_for(raw, r.fields));
    FieldProposal out;
    out.values = {{Field::white_balance, {0, "offset"}},
                  {Field::warmth_offset, fitting(Field::warmth_offset, n.offsets.warmth.value)},
                  {Field::tint_offset, fitting(Field::tint_offset, n.offsets.tint.value)}};
    out.text = fmt::format(
        "Proposed: {}, tint {}; warmth {} and tint {} over what the frame records (one sigma, by the noise of the "
        "area).",
        figure_text(figures::temperature, n.offsets.light.kelvin), figure_text(figures::tint, n.offsets.light.tint),
        figure_text(figures::warmth, n.offsets.warmth.value, n.offsets.warmth.sigma),
        figure_text(figures::tint, n.offsets.tint.value, n.offsets.tint.sigma));
    if (n.missed > 0.01)
        out.text += fmt::format(" No temperature and tint make it grey: {} of red or blue remain.",
                                figure_text(figures::share, 100 * n.missed));
    return out;
}

std::vector<FringeFound> list_fringes(const std::filesystem::path& frame, const FrameDevelopment& r,
                                      const Progress& progress) {
    FrameDevelopment plain = r;
    for (const Field f : {Field::fringe_suppression, Field::luminance_noise, Field::colour_noise})
        plain.fields.fields[static_cast<int>(f)].value.number = 0;
    const auto prepared = prepare_frame(frame, r.metadata, r.sensor, progress);
    const PreparedFrame::Look look = prepared->look(plain.fields, r.profile, Sampling::all_of(prepared->size()),
                                                    progress, {.keep = PreparedFrame::Keep::light});
    return find_fringes(look.light);
}

std::string describe(const FringeFound& f) {
    static constexpr const char* names[] = {"red",  "orange", "yellow", "green",  "green",  "green",
                                            "cyan", "blue",   "blue",   "violet", "purple", "pink"};
    const char* name = names[static_cast<int>(std::fmod(f.hue + 15, 360) / 30) % 12];
    return fmt::format("{} ({:.0f}°), {} of white, {} px wide, at {} of edges{}", name, f.hue,
                       figure_text(figures::light, f.percent), std::lround(f.width_px),
                       figure_text(figures::share, 100 * f.share), f.bright ? ", most of them bright" : "");
}

std::string with_hue(const std::string& text, double hue, double percent) {
    std::vector<HueRange> hues = fringe_hues(text);
    const auto turn = [](double d) { return std::fmod(d + 720, 360); };
    std::erase_if(hues, [&](const HueRange& h) { return DefringingSettings{0, {h}, false}.share(hue) > 0; });
    if (percent > 0) hues.push_back({std::round(turn(hue - 30)), std::round(turn(hue + 30)), percent});
    return to_text(hues);
}

}  // namespace optrel

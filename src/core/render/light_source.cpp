// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/light_source.h"

#include <algorithm>

#include "render/body_noise.h"
#include "render/sample_layouts.h"
#include "render/stages.h"

namespace optrel {
namespace {

constexpr int margin_of_interpolation = 12, margin_of_wavelets = 96;

std::optional<GainTable> gains_of(const Framing& framing) {
    if (!framing.view.lens().has_falloff()) return std::nullopt;
    return GainTable(framing.view.lens());
}

/// A range that begins at an even place and has the minimum length for interpolation when possible; empty when it lies
/// outside.
cv::Range range_of(double from, double to, int size) {
    constexpr int least = 16;
    if (to <= 0 || from >= size) return {};
    const int start = std::clamp(static_cast<int>(from), 0, std::max(0, size - least)) / 2 * 2;
    return {start, std::clamp(static_cast<int>(to), std::min(size, start + least), size)};
}

/// The area of the frame that an area of the corrected picture needs, with a margin, from an even row and column. Empty
/// when it lies outside the frame.
cv::Rect source_of(const Framing& framing, const Sampling& at, const cv::Size& frame, int margin) {
    // The margin covers the bending of the picture between two of these places.
    constexpr int each = 12;
    double left = 1e9, top = 1e9, right = -1e9, bottom = -1e9;
    for (int j = 0; j <= each; ++j)
        for (int i = 0; i <= each; ++i) {
            const Vec2 place(at.left + at.step * at.size.width * i / each,
                             at.top + at.step * at.size.height * j / each);
            const std::optional<Vec2> p = framing.moves ? framing.view.green(place) : std::optional(place);
            if (!p) continue;
            left = std::min(left, p->x());
            right = std::max(right, p->x());
            top = std::min(top, p->y());
            bottom = std::max(bottom, p->y());
        }
    if (left > right) return {};
    const cv::Range x = range_of(left - margin, right + margin, frame.width),
                    y = range_of(top - margin, bottom + margin, frame.height);
    if (x.empty() || y.empty()) return {};
    return {x.start, y.start, x.size(), y.size()};
}

}  // namespace

RawLight::RawLight(const RawPicture& raw, cv::Mat1w counts, const ResolvedFrame& fields, const Framing& framing)
    : raw_(raw),
      counts_(std::move(counts)),
      fields_(fields),
      framing_(framing),
      multipliers_(multipliers_for(raw, fields)),
      gains_(gains_of(framing)) {
    if (treats_noise(fields)) scales_ = scale_noise_of(raw, multipliers_);
}

ColourPlanes RawLight::fringes() const {
    const bool displaced = raw_.layout == SampleLayout::six_by_six || raw_.layout == SampleLayout::interpolated;
    return displaced ? ColourPlanes::as_recorded : ColourPlanes::aligned;
}

int RawLight::margin() const { return treats_noise(fields_) ? margin_of_wavelets : margin_of_interpolation; }

Planes RawLight::part(const cv::Rect& part, const Progress& progress) const {
    Planes planes = linear_planes(raw_, counts_, multipliers_, gains_ ? &*gains_ : nullptr,
                                  framing_.fringes ? &framing_.view.lens() : nullptr, part);
    progress.check();
    const KnownNoise known{scales_, gains_ ? &*gains_ : nullptr, part};
    treat_noise(planes, fields_, scales_ ? &known : nullptr, progress);
    return planes;
}

RenderedLight::RenderedLight(cv::Mat3f linear, const ResolvedFrame& fields, const Framing& framing)
    : linear_(std::move(linear)), fields_(fields), gains_(gains_of(framing)) {}

int RenderedLight::margin() const { return treats_noise(fields_) ? margin_of_wavelets : margin_of_interpolation; }

Planes RenderedLight::part(const cv::Rect& part, const Progress& progress) const {
    Planes planes = planes_of(linear_(part));
    if (gains_) undo_falloff(planes, {double(part.x), double(part.y), 1, part.size()}, *gains_);
    progress.check();
    treat_noise(planes, fields_, nullptr, progress);
    return planes;
}

int ReadyLight::margin() const { return margin_of_interpolation; }

Planes ReadyLight::part(const cv::Rect& part, const Progress&) const {
    Planes out;
    for (int c = 0; c < 3; ++c) out.channel[c] = planes_.channel[c](part);
    return out;
}

Planes corrected_area(const LightSource& source, const Framing& framing, const Sampling& at, const Progress& progress,
                      float empty) {
    // Red and blue may be displaced by some pixels: they are sampled there, or were aligned from there.
    const int apart = source.fringes() == ColourPlanes::as_recorded ? 12 : 4;
    const int fringes = framing.fringes ? apart : 0;
    const cv::Rect part = source_of(framing, at, source.size(), source.margin() + fringes);
    if (part.empty()) {
        Planes nothing(at.size);
        for (cv::Mat1f& c : nothing.channel) c.setTo(empty);
        return nothing;
    }
    return resample(source.part(part, progress), {double(part.x), double(part.y), 1, part.size()}, framing.view, at,
                    source.fringes(), progress, empty);
}

Planes area_in_place(const LightSource& source, const cv::Rect& area, const Progress& progress) {
    const cv::Size size = source.size();
    const int margin = source.margin();
    const cv::Range x = range_of(area.x - margin, area.br().x + margin, size.width),
                    y = range_of(area.y - margin, area.br().y + margin, size.height);
    const cv::Rect part(x.start, y.start, x.size(), y.size());
    const Planes planes = source.part(part, progress);
    Planes out;
    for (int c = 0; c < 3; ++c) out.channel[c] = planes.channel[c](area - part.tl()).clone();
    return out;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/prepared_frame.h"

#include <algorithm>
#include <cmath>
#include <mutex>
#include <opencv2/imgproc.hpp>

#include "render/colour.h"
#include "render/colour_rendering.h"
#include "render/demosaic.h"
#include "render/light_source.h"
#include "render/lost_marks.h"
#include "render/resample.h"
#include "render/sample_layouts.h"
#include "render/sharpening_noise.h"
#include "render/stages.h"
#include "render/tone.h"

namespace optrel {

/// Means over cells of the frame for recent requests, and the counts with hot samples replaced.
struct PreparedFrame::Cache {
    /// Parameters that the means depend on.
    struct Key {
        int cell = 0;
        std::array<double, 3> multiplier{1, 1, 1};
        bool repaired = false;

        bool operator==(const Key& other) const = default;
    };
    static constexpr std::size_t most = 4;
    std::mutex mutex;
    std::vector<std::pair<Key, Planes>> cells;
    cv::Mat1w repaired;
    std::optional<std::array<double, 6>> noise;  ///< estimated
    int lost_cell = 0;                           ///< size of the cells of `lost`; 0: none
    LostCells lost;
};

PreparedFrame::PreparedFrame(RawPicture raw, const CaptureGeometry& taken)
    : raw_(std::move(raw)), taken_(taken), size_(raw_->counts.size()), cache_(std::make_shared<Cache>()) {}

PreparedFrame::PreparedFrame(cv::Mat3f linear, const CaptureGeometry& taken)
    : linear_(std::move(linear)), taken_(taken), size_(linear_.size()), cache_(std::make_shared<Cache>()) {}

cv::Matx33f PreparedFrame::matrix(const ResolvedFrame& f) const {
    return raw_ ? camera_to_srgb(*raw_, wanted_neutral(*raw_, f)) : cv::Matx33f::eye();
}

EmbeddedRendering PreparedFrame::rendering() const { return raw_ ? raw_->rendering : EmbeddedRendering(); }

std::shared_ptr<const ColourRendering> PreparedFrame::colours(const ResolvedFrame& f) const {
    return raw_ ? colour_rendering(*raw_, f) : nullptr;
}

PreparedFrame::Look PreparedFrame::look(const ResolvedFrame& f, const std::optional<AppliedProfile>& profile,
                                        const Sampling& at, const Progress& progress, const Wanted& wanted) const {
    Look out;
    out.framing = std::make_shared<const Framing>(framing_of(f, profile, size_, taken_));
    const Framing& framing = *out.framing;
    Planes planes = at.step >= 2 ? reduced(f, framing, at, progress) : in_full(f, framing, at, progress);
    out.empty = planes.channel[1] <= 0.5f * outside_frame;
    for (cv::Mat1f& c : planes.channel) c.setTo(0, out.empty);
    if (wanted.keep == Keep::light)
        for (int c = 0; c < 3; ++c) out.light.channel[c] = planes.channel[c].clone();
    const bool every_pixel = at.step == 1;
    if (every_pixel) apply_defringing(planes, defringing_settings(f));
    ToneSettings s = tone_settings(f, rendering(), colours(f));
    s.levels = levels(f, framing);
    tone(planes, matrix(f), s);
    progress.check();
    if (every_pixel) {
        const std::vector<float> noise = raw_ && sharpens_above_noise(f)
                                             ? sharpening_noise(*raw_, f, {matrix(f), s, 1, sensor_noise()})
                                             : std::vector<float>();
        sharpen_by(planes, f, &noise);
    }
    const ScreenColours& screen = wanted.screen ? *wanted.screen : *ScreenColours::srgb();
    out.rgb = screen.encoded(planes);
    if (wanted.marks) {
        out.marks = marks(framing, at, progress) | lost_in_development(planes);
        out.marks.setTo(lost_on_screen, screen.outside(planes, out.rgb) & (out.marks == 0));
        out.marks.setTo(0, out.empty);
    }
    if (wanted.keep == Keep::developed) out.developed = planes;
    return out;
}

/// lost_cells() of the frame, kept for the size of cells that was asked for last.
LostCells PreparedFrame::lost_in(int cell) const {
    {
        const std::lock_guard lock(cache_->mutex);
        if (cache_->lost_cell == cell) return cache_->lost;
    }
    LostCells lost = lost_cells(*raw_, cell);
    const std::lock_guard lock(cache_->mutex);
    cache_->lost = lost;
    cache_->lost_cell = cell;
    return lost;
}

/// Marks clipped and black raw samples where the corrected picture shows them.
cv::Mat1b PreparedFrame::marks(const Framing& framing, const Sampling& at, const Progress& progress) const {
    cv::Mat1b out(at.size, uchar(0));
    if (!raw_) return out;
    const int cell = std::max(2, static_cast<int>(at.step + 1e-6) / 2 * 2);
    const LostCells lost = lost_in(cell);
    const Sampling from{0, 0, double(cell), lost.black.size()};
    Planes black;
    black.channel.fill(lost.black);
    const Planes clipped = resample(lost.clipped, from, framing.view, at, ColourPlanes::as_recorded, progress);
    black = resample(black, from, framing.view, at, ColourPlanes::as_recorded, progress);
    // Cells are interpolated; a clipped one covers what is nearer to it than to others.
    for (int row = 0; row < out.rows; ++row)
        for (int i = 0; i < out.cols; ++i) {
            int bits = black.channel[1](row, i) > 0.75f ? lost_black : 0;
            for (int c = 0; c < 3; ++c)
                if (clipped.channel[static_cast<std::size_t>(c)](row, i) > 0.3f) bits |= lost_red << c;
            out(row, i) = static_cast<uchar>(bits);
        }
    return out;
}

std::vector<PreparedFrame::RawSample> PreparedFrame::samples_at(const Vec2& place) const {
    std::vector<RawSample> out;
    if (!raw_ || !(place.x() >= 0 && place.y() >= 0 && place.x() < size_.width && place.y() < size_.height)) return out;
    const int row = static_cast<int>(place.y()) / 2 * 2, column = static_cast<int>(place.x()) / 2 * 2;
    if (raw_->layout == SampleLayout::interpolated) {
        const cv::Vec3w& v = raw_->interpolated(static_cast<int>(place.y()), static_cast<int>(place.x()));
        for (int c = 0; c < 3; ++c)
            out.push_back({static_cast<Channel>(c), v[c] - raw_->interpolated_black[static_cast<std::size_t>(c)]});
        return out;
    }
    for (int y = row; y < std::min(row + 2, size_.height); ++y)
        for (int x = column; x < std::min(column + 2, size_.width); ++x)
            out.push_back({raw_->channel_at(y, x), raw_->counts(y, x) - raw_->black.at(y, x)});
    return out;
}

double PreparedFrame::white_above_black() const {
    if (!raw_) return 0;
    return raw_->white -
           (raw_->layout == SampleLayout::interpolated ? raw_->interpolated_black[1] : raw_->black.at(0, 0));
}

LightDistribution PreparedFrame::light(const ResolvedFrame& f, const std::optional<AppliedProfile>& profile) const {
    const FrameMap lens = lens_of(f, profile, {size_.width, size_.height, taken_.pitch_um}, taken_.focal_mm);
    return raw_ ? light_distribution(*raw_, lens) : light_distribution(linear_, lens);
}

cv::Mat1w PreparedFrame::counts(const ResolvedFrame& f) const {
    if (!is_on(f, Field::hot_pixel_repair)) return raw_->counts;
    const std::lock_guard lock(cache_->mutex);
    if (cache_->repaired.empty()) cache_->repaired = counts_for(*raw_, f);
    return cache_->repaired;
}

std::array<double, 6> PreparedFrame::sensor_noise() const {
    if (raw_->noise) return *raw_->noise;
    const std::lock_guard lock(cache_->mutex);
    if (!cache_->noise) cache_->noise = estimated_noise(*raw_);
    return *cache_->noise;
}

Planes PreparedFrame::cells(const ResolvedFrame& f, int cell) const {
    Cache::Key key{cell};
    if (raw_) {
        key.multiplier = multipliers_for(*raw_, f);
        key.repaired = is_on(f, Field::hot_pixel_repair);
    }
    {
        const std::lock_guard lock(cache_->mutex);
        for (const auto& [known, planes] : cache_->cells)
            if (known == key) return planes;
    }
    Planes planes;
    if (raw_) {
        planes = light_in_cells(*raw_, counts(f), key.multiplier, cell);
    } else {
        cv::Mat3f small;
        const cv::Rect whole(0, 0, size_.width / cell * cell, size_.height / cell * cell);
        cv::resize(linear_(whole), small, whole.size() / cell, 0, 0, cv::INTER_AREA);
        planes = planes_of(small);
    }
    const std::lock_guard lock(cache_->mutex);
    if (cache_->cells.size() >= Cache::most) cache_->cells.erase(cache_->cells.begin());
    cache_->cells.emplace_back(key, planes);
    return planes;
}

/// The same with falloff corrected.
Planes PreparedFrame::lit_cells(const ResolvedFrame& f, const Framing& framing, int cell) const {
    Planes planes = cells(f, cell);
    if (!framing.view.lens().has_falloff()) return planes;
    for (cv::Mat1f& c : planes.channel) c = c.clone();  // the means are shared
    undo_falloff(planes, {0, 0, double(cell), planes.size()}, framing.view.lens());
    return planes;
}

/// The luminances for auto levels, from a reduced picture of the whole crop.
std::optional<std::pair<float, float>> PreparedFrame::levels(const ResolvedFrame& f, const Framing& framing) const {
    if (!is_on(f, Field::auto_levels)) return std::nullopt;
    const cv::Rect& kept = framing.kept;
    const int cell = std::max(2, std::max(size_.width, size_.height) / 1000 / 2 * 2);
    Planes planes = lit_cells(f, framing, cell);
    const Sampling from{0, 0, double(cell), planes.size()};
    const Sampling to{double(kept.x), double(kept.y), double(cell), cv::Size(kept.width / cell, kept.height / cell)};
    planes = resample(planes, from, framing.view, to, ColourPlanes::as_recorded, Progress());
    return auto_levels(std::move(planes), matrix(f), tone_settings(f, rendering(), colours(f)));
}

Planes PreparedFrame::reduced(const ResolvedFrame& f, const Framing& framing, const Sampling& at,
                              const Progress& progress) const {
    const int cell = std::max(2, static_cast<int>(at.step + 1e-6) / 2 * 2);
    const Planes planes = lit_cells(f, framing, cell);
    progress.check();
    return resample(planes, {0, 0, double(cell), planes.size()}, framing.view, at, ColourPlanes::as_recorded, progress,
                    outside_frame);
}

Planes PreparedFrame::in_full(const ResolvedFrame& f, const Framing& framing, const Sampling& at,
                              const Progress& progress) const {
    if (raw_) return corrected_area(RawLight(*raw_, counts(f), f, framing), framing, at, progress, outside_frame);
    return corrected_area(RenderedLight(linear_, f, framing), framing, at, progress, outside_frame);
}

}  // namespace optrel

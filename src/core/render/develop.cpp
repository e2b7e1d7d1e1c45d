// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/develop.h"

#include <opencv2/imgproc.hpp>

#include "base/error.h"
#include "base/large_pages.h"
#include "frames/reduced_size.h"
#include "render/colour.h"
#include "render/colour_rendering.h"
#include "render/light_source.h"
#include "render/row_sampling.h"
#include "render/sharpening_noise.h"
#include "render/stages.h"
#include "render/strips.h"
#include "render/tone.h"

namespace optrel {
namespace {

/// Reduces planes so that the longer side has at most this many pixels; returns the factor.
double reduce(Planes& planes, int longest_side) {
    const cv::Size size = planes.size(), to = reduced_size(size, longest_side);
    if (to == size) return 1;
    for (cv::Mat1f& plane : planes.channel) {
        cv::Mat1f small;
        cv::resize(plane, small, to, 0, 0, cv::INTER_AREA);
        plane = small;
    }
    return double(std::max(to.width, to.height)) / std::max(size.width, size.height);
}

/// The conversion of planes to colours: by a matrix alone, or by a colour profile.
struct Colours {
    cv::Matx33f matrix = cv::Matx33f::eye();
    EmbeddedRendering embedded;
    std::shared_ptr<const ColourRendering> rendering;
    const RawPicture* raw = nullptr;  ///< null: a rendered picture
};

/// A tile of the corrected picture with the surround that its finish needs. Tiles begin at nodes of the resampling
/// mesh, so that the picture does not depend on the tiling.
struct Tile {
    cv::Rect wanted, with_reach;

    static std::vector<Tile> all_of(const cv::Size& size, int reach) {
        constexpr int width = 1024, height = 256, nodes = row_nodes_apart;
        const int about = (reach + nodes - 1) / nodes * nodes;
        const cv::Rect whole({0, 0}, size);
        std::vector<Tile> out;
        for (int y = 0; y < size.height; y += height)
            for (int x = 0; x < size.width; x += width)
                out.push_back({cv::Rect(x, y, width, height) & whole,
                               cv::Rect(x - about, y - about, width + 2 * about, height + 2 * about) & whole});
        return out;
    }
    /// The tile without its surround.
    Planes cut(const Planes& planes) const {
        Planes out;
        for (int c = 0; c < 3; ++c) out.channel[c] = planes.channel[c](wanted - with_reach.tl());
        return out;
    }
};

/// The second part of the development, from linear light to encoded values.
class Finish {
public:
    Finish(const LightSource& source, const Colours& colours, const ResolvedFrame& fields, const Framing& framing,
           const PictureForm& form)
        : source_(source), fields_(fields), framing_(framing), form_(form), fringes_(defringing_settings(fields)) {
        const bool own = form.space == ColourSpace::camera;
        matrix_ = own ? cv::Matx33f::eye() : colours.matrix;
        tone_ = tone_settings(fields, colours.embedded, own ? nullptr : colours.rendering);
        if (!colours.raw || !sharpens_above_noise(fields)) return;
        raw_ = colours.raw;
        noise_ = raw_->noise ? *raw_->noise : estimated_noise(*raw_);
    }

    /// Tile by tile, so that all steps of a tile use data in the processor's cache.
    cv::Mat3w in_tiles(const Progress& progress) const {
        cv::Mat3w out(framing_.kept.size());
        prefer_large_pages(out.data, out.total() * out.elemSize());
        const std::vector<float> noise = noise_for_sharpening(tone_, 1);
        for_tiles(reach_of_finish(fields_), progress, [&](const Tile& tile, Planes light) {
            tone(light, matrix_, tone_);
            sharpen_by(light, fields_, &noise);
            encode_into(tile.cut(light), form_.space, out(tile.wanted));
        });
        return out;
    }
    /// For settings that depend on the whole picture: automatic levels, or a reduced size. `reduced`: resulting scale.
    cv::Mat3w as_a_whole(const Progress& progress, double& reduced) const {
        Planes all(framing_.kept.size());
        for_tiles(fringes_.any() ? defringing_reach : 0, progress, [&](const Tile& tile, const Planes& light) {
            const Planes wanted = tile.cut(light);
            for (int c = 0; c < 3; ++c) wanted.channel[c].copyTo(all.channel[c](tile.wanted));
        });
        reduced = reduce(all, form_.longest_side);
        ToneSettings settled = tone_;
        if (raw_ && settled.auto_levels && !settled.levels) {
            Planes copy;
            for (int c = 0; c < 3; ++c) copy.channel[c] = all.channel[c].clone();
            settled.levels = auto_levels(std::move(copy), matrix_, settled);
        }
        const std::vector<float> noise = noise_for_sharpening(settled, reduced);
        tone(all, matrix_, settled);
        progress.check();
        sharpen_by(all, fields_, &noise);
        progress.check();
        return encoded(all, form_.space);
    }
    bool needs_all() const {
        const cv::Size size = framing_.kept.size();
        return (tone_.auto_levels && !tone_.levels) || reduced_size(size, form_.longest_side) != size;
    }

private:
    std::vector<float> noise_for_sharpening(const ToneSettings& settled, double reduced) const {
        return raw_ ? sharpening_noise(*raw_, fields_, {matrix_, settled, reduced, noise_}) : std::vector<float>();
    }
    template <class Body>
    void for_tiles(int reach, const Progress& progress, const Body& body) const {
        const std::vector<Tile> tiles = Tile::all_of(framing_.kept.size(), reach);
        parallel_for(static_cast<int>(tiles.size()), [&](int i) {
            const SingleThreadScope small;
            progress.check();
            Planes light = light_of(tiles[i].with_reach, progress);
            apply_defringing(light, fringes_);
            body(tiles[i], std::move(light));
        });
    }
    /// Linear light of a part of the crop; an independent copy.
    Planes light_of(const cv::Rect& part, const Progress& progress) const {
        const cv::Rect place = part + framing_.kept.tl();
        if (!framing_.moves) return area_in_place(source_, place, progress);
        return corrected_area(source_, framing_, {double(place.x), double(place.y), 1, place.size()}, progress);
    }

    const LightSource& source_;
    const ResolvedFrame& fields_;
    const Framing& framing_;
    const PictureForm& form_;
    DefringingSettings fringes_;
    const RawPicture* raw_ = nullptr;  ///< where sharpening depends on its noise
    std::array<double, 6> noise_{};
    cv::Matx33f matrix_;
    ToneSettings tone_;
};

Developed finish(const LightSource& source, const Colours& colours, const ResolvedFrame& f, const Framing& framing,
                 const Progress& progress, const PictureForm& form) {
    Developed out;
    out.camera_to_srgb = colours.matrix;
    out.scale = framing.view.settings().scale;
    out.corrected = framing.corrected;
    out.kept = framing.kept;
    const Finish work(source, colours, f, framing, form);
    out.rgb = work.needs_all() ? work.as_a_whole(progress, out.reduced) : work.in_tiles(progress);
    return out;
}

/// Noise reduction measures the noise of the whole frame, so it precedes tiling.
Developed finish_quiet(const LightSource& source, const Colours& colours, const ResolvedFrame& f,
                       const Framing& framing, const Progress& progress, const PictureForm& form) {
    if (!treats_noise(f)) return finish(source, colours, f, framing, progress, form);
    const ReadyLight quiet(source.part(cv::Rect({0, 0}, source.size()), progress), source.fringes());
    return finish(quiet, colours, f, framing, progress, form);
}

}  // namespace

Developed develop(const RawPicture& raw, const CaptureGeometry& taken, const ResolvedFrame& f,
                  const std::optional<AppliedProfile>& profile, const Progress& progress, const PictureForm& form) {
    const Framing framing = framing_of(f, profile, raw.counts.size(), taken);
    const RawLight light(raw, counts_for(raw, f), f, framing);
    progress.check();
    return finish_quiet(light,
                        {camera_to_srgb(raw, wanted_neutral(raw, f)), raw.rendering, colour_rendering(raw, f), &raw}, f,
                        framing, progress, form);
}

Developed develop_rendered(const cv::Mat3f& linear, const CaptureGeometry& taken, const ResolvedFrame& f,
                           const std::optional<AppliedProfile>& profile, const Progress& progress,
                           const PictureForm& form) {
    if (form.space == ColourSpace::camera)
        throw input_error(
            "A rendered picture has no camera's own colours to be written in; choose another colour space for it.");
    const Framing framing = framing_of(f, profile, linear.size(), taken);
    return finish_quiet(RenderedLight(linear, f, framing), {}, f, framing, progress, form);
}

}  // namespace optrel

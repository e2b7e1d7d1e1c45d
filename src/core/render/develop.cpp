// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/develop.h"

#include <opencv2/imgproc.hpp>

#include "base/error.h"
#include "render/colour.h"
#include "render/colour_rendering.h"
#include "render/demosaic.h"
#include "render/reduced_size.h"
#include "render/resample.h"
#include "render/stages.h"
#include "render/tone.h"

namespace optrel {
namespace {

Planes cut_out(const Planes& planes, const cv::Rect& part) {
    if (part.size() == planes.size()) return planes;
    Planes out;
    for (int c = 0; c < 3; ++c) out.channel[c] = planes.channel[c](part).clone();
    return out;
}

/// Makes the longer side at most so many pixels; returns the factor.
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

/// How the planes become colours: by a matrix alone, or by what a colour profile says.
struct Colours {
    cv::Matx33f matrix = cv::Matx33f::eye();
    EmbeddedRendering embedded;
    std::shared_ptr<const ColourRendering> rendering;
};

Developed finish(Planes planes, const Colours& colours, const ResolvedFrame& f, const Framing& framing, Fringes fringes,
                 const Progress& progress, const PictureForm& form) {
    Developed out;
    out.camera_to_srgb = colours.matrix;
    out.scale = framing.view.settings().scale;
    out.corrected = framing.corrected;
    out.kept = framing.kept;
    const cv::Rect& kept = framing.kept;
    if (framing.moves)
        planes = resample(planes, Sampling::all_of(planes.size()), framing.view,
                          {double(kept.x), double(kept.y), 1, kept.size()}, fringes, progress);
    else
        planes = cut_out(planes, kept);
    progress.check();
    suppress_fringes(planes, fringe_recipe(f));
    out.reduced = reduce(planes, form.longest_side);
    const bool own = form.space == ColourSpace::camera;
    tone(planes, own ? cv::Matx33f::eye() : colours.matrix,
         tone_settings(f, colours.embedded, own ? nullptr : colours.rendering));
    progress.check();
    sharpen_by(planes, f);
    progress.check();
    out.rgb = encoded(planes, form.space);
    return out;
}

}  // namespace

Developed develop(const RawPicture& raw, const TakenWith& taken, const ResolvedFrame& f,
                  const std::optional<AppliedProfile>& profile, const Progress& progress, const PictureForm& form) {
    const Framing framing = framing_of(f, profile, raw.counts.size(), taken);
    const FrameMap& lens = framing.view.lens();
    const cv::Mat1f mosaic = linear_mosaic(raw, counts_for(raw, f), multipliers_for(raw, f), &lens);
    progress.check();
    Planes planes = demosaic(mosaic, raw.filter, framing.fringes ? &lens : nullptr);
    progress.check();
    treat_noise(planes, f, progress);
    return finish(std::move(planes), {camera_to_srgb(raw), raw.rendering, colour_rendering(raw, f)}, f, framing,
                  Fringes::aligned, progress, form);
}

Developed develop_rendered(const cv::Mat3f& linear, const TakenWith& taken, const ResolvedFrame& f,
                           const std::optional<AppliedProfile>& profile, const Progress& progress,
                           const PictureForm& form) {
    if (form.space == ColourSpace::camera)
        throw input_error(
            "A rendered picture has no camera's own colours to be written in; choose another colour space for it.");
    const Framing framing = framing_of(f, profile, linear.size(), taken);
    Planes planes = planes_of(linear);
    undo_falloff(planes, Sampling::all_of(planes.size()), framing.view.lens());
    progress.check();
    treat_noise(planes, f, progress);
    return finish(std::move(planes), {}, f, framing, Fringes::as_recorded, progress, form);
}

}  // namespace optrel

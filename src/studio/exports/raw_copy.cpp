// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/raw_copy.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "exchange/opcode_fit.h"
#include "frames/dng_writer.h"
#include "frames/jpeg_bytes.h"
#include "frames/orientation.h"
#include "render/prepared_frame.h"
#include "render/stages.h"
#include "scene/noise_terms.h"
#include "studio/development/develop_frame.h"
#include "studio/exports/account.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// Opcode lists of a copy.
struct Lists {
    std::array<std::vector<Opcode>, 3> opcodes;
    bool required = false;

    void add(int list, Opcode opcode, OpcodeUse use) {
        opcode.optional = use == OpcodeUse::optional;
        required = required || !opcode.optional;
        opcodes[list - 1].push_back(std::move(opcode));
    }
};

void carry_geometry(Lists& lists, Exported& done, const Framing& framing, const FrameDevelopment& facts,
                    bool has_colours, OpcodeUse use) {
    const PictureView::Settings& settings = framing.view.settings();
    const bool held_otherwise = !settings.turn.isIdentity(0) || !settings.shift.isZero(0);
    if (held_otherwise)
        done.remarks.push_back(
            fmt::format("{}: perspective and shift are not carried by a raw copy, its form has no place for them.",
                        done.frame.string()));
    if (use == OpcodeUse::none || !(framing.moves || framing.fringes)) return;
    const bool angular = facts.profile && facts.profile->node.model.kind()->angular();
    // The scale for a rotated picture does not apply to an unrotated one.
    const OpcodeWarp carried = carried_geometry(framing.view.lens(), held_otherwise ? 1 : settings.scale, angular);
    done.carried.geometry = name_of(carried.warp);
    done.carried.geometry_rms_px = carried.rms_px;
    done.carried.geometry_largest_px = carried.largest_px;
    done.carried.green_largest_px = carried.green_largest_px;
    done.carried.scale = carried.scale;
    if (carried.largest_px > carried_px)
        done.remarks.push_back(fmt::format(
            "{}: {} follows this lens to {} at most in green and {} in red or blue ({} RMS), not to {:g}; export a "
            "TIFF where that counts.",
            done.frame.string(), done.carried.geometry, figure_text(figures::shift, carried.green_largest_px),
            figure_text(figures::shift, carried.largest_px), figure_text(figures::shift, carried.rms_px), carried_px));
    Opcode warp = carried.warp;
    // A picture of one plane takes one set of terms.
    if (!has_colours)
        std::visit(
            [](auto& what) {
                if constexpr (requires { what.planes.at(1); }) what.planes = {what.planes.at(1)};
            },
            warp.what);
    lists.add(3, warp, use);
}

void carry_falloff(Lists& lists, Exported& done, const FrameMap& lens, const RawPicture& raw, OpcodeUse use) {
    if (use == OpcodeUse::none || !lens.has_falloff()) return;
    const OpcodeGain carried = carried_falloff(lens, raw.layout, raw.filter, carried_percent);
    done.carried.falloff = name_of(carried.opcodes.front());
    done.carried.falloff_rms_percent = carried.rms_percent;
    done.carried.falloff_largest_percent = carried.largest_percent;
    if (carried.largest_percent > carried_percent)
        done.remarks.push_back(fmt::format("{}: {} follows the falloff to {} at most, not to {:g}.",
                                           done.frame.string(), done.carried.falloff,
                                           figure_text(figures::fine_share, carried.largest_percent), carried_percent));
    for (const Opcode& opcode : carried.opcodes) lists.add(carried.in_mosaic ? 2 : 3, opcode, use);
}

/// Samples that the body's defect map and the hot-pixel repair replace. The list refers to the stored mosaic including
/// its border (DNG 1.6, OpcodeList1), so positions and Bayer phase count from its first sample.
void carry_bad_pixels(Lists& lists, Exported& done, const RawMosaic& mosaic, const BadSamples& known,
                      const ResolvedFrame& fields) {
    const RawPicture& raw = mosaic.picture;
    if (!is_on(fields, Field::hot_pixel_repair) && known.empty()) return;
    if (raw.layout != SampleLayout::bayer) {
        done.remarks.push_back(
            fmt::format("{}: defect pixels are not carried by a raw copy, its form lists them for Bayer filters alone.",
                        done.frame.string()));
        return;
    }
    cv::Mat1b bad = marked(known, raw.counts.size());
    bad |= counts_for(raw, fields) != raw.counts;
    FixBadPixelsList list;
    // Bayer phase by the colour of the first sample: 0 red, 1 green beside red, 2 green beside blue, 3 blue.
    const int top = mosaic.visible.top, left = mosaic.visible.left;
    const Channel first = raw.channel_at(top, left), beside = raw.channel_at(top, left + 1);
    if (first == Channel::green)
        list.bayer_phase = beside == Channel::red ? 1 : 2;
    else
        list.bayer_phase = first == Channel::red ? 0 : 3;
    for (int row = 0; row < bad.rows; ++row)
        for (int column = 0; column < bad.cols; ++column)
            if (bad(row, column))
                list.points.push_back(
                    {static_cast<std::uint32_t>(top + row), static_cast<std::uint32_t>(left + column)});
    if (!list.points.empty()) lists.add(1, {list}, OpcodeUse::optional);
}

cv::Mat3b preview_of(const PreparedFrame& frame, const FrameDevelopment& facts, const cv::Rect& kept, int side,
                     const Progress& progress) {
    const cv::Mat3w rgb = frame.look(facts.fields, facts.profile, Sampling::reduced(kept, side), progress).rgb;
    cv::Mat3b out(rgb.size());
    for (int row = 0; row < rgb.rows; ++row)
        for (int i = 0; i < rgb.cols; ++i)
            for (int c = 0; c < 3; ++c) out(row, i)[c] = to_8(rgb(row, i)[c]);
    return out;
}

/// The measured noise of the body, otherwise an estimate from the frame itself.
std::vector<double> noise_of(const RawPicture& raw, const FrameDevelopment& facts) {
    if (facts.sensor.noise && raw.has_colours()) return {facts.sensor.noise->begin(), facts.sensor.noise->end()};
    std::vector<double> out;
    for (const NoiseTerms& n : noise_terms(raw.planes())) {
        if (n.patches == 0 && raw.has_colours()) return {};
        if (n.patches == 0) continue;
        out.push_back(n.slope);
        out.push_back(n.offset);
    }
    return out;
}

/// Correction note for a copy that contains its correction as opcodes.
XmpProperties carrying_note(const FrameDevelopment& facts) {
    XmpProperties out = correction_note(facts);
    if (const auto corrected = out.extract("corrected"); !corrected.empty()) out["carries"] = corrected.mapped();
    return out;
}

}  // namespace

Exported write_frame_copy(const fs::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                          const fs::path& out, Existing existing, const Progress& progress,
                          const std::function<void()>& unchanged) {
    if (facts.metadata.kind == FrameKind::rendered)
        throw input_error(
            fmt::format("{} is a rendered picture, of which there is no raw copy; export it as a TIFF, JPEG or PNG.",
                        frame.string()));
    const OpenedFrame opened(frame);
    RawMosaic mosaic = read_mosaic(opened);
    add_own_colours(mosaic.picture, opened, facts.metadata);
    const RawPicture& raw = mosaic.picture;
    progress.check();
    const CaptureGeometry taken{geometry_of(facts.metadata).pitch_um, facts.metadata.focal_mm,
                                facts.metadata.orientation};
    const Framing framing = framing_of(facts.fields, facts.profile, raw.counts.size(), taken);
    Exported done = about_to_export(frame, facts, out);
    done.kept = framing.kept;
    Lists lists;
    const BadSamples known = bad_samples_of(opened, facts.metadata.iso, raw.counts.size(), facts.sensor);
    carry_bad_pixels(lists, done, mosaic, known, facts.fields);
    carry_falloff(lists, done, framing.view.lens(), raw, delivery.raw.falloff);
    carry_geometry(lists, done, framing, facts, raw.has_colours(), delivery.raw.geometry);
    progress.check();
    RawCopyContent content;
    content.metadata = facts.metadata;
    content.keep = delivery.metadata;
    content.properties = carrying_note(facts);
    content.properties["account"] = account_to_json(account_of(frame, file_hash(frame), facts, delivery));
    for (int i = 0; i < 3; ++i) content.opcodes[i] = encode_opcodes(lists.opcodes[i]);
    content.needs_opcodes = lists.required;
    content.compressed = delivery.raw.compressed;
    content.noise = noise_of(raw, facts);
    if (delivery.raw.embed_original) content.original = frame;
    // The crop refers to the corrected picture; a rotated one differs from the copy's.
    const bool same_picture = framing.view.settings().turn.isIdentity(0) && framing.view.settings().shift.isZero(0) &&
                              delivery.raw.geometry != OpcodeUse::none;
    if (same_picture) content.crop = framing.kept;
    const EmbeddedRendering embedded = read_rendering(opened);
    content.baseline_exposure = embedded.baseline_exposure + number_of(facts.fields, Field::exposure);
    {
        RawPicture repaired = raw;
        replace_bad_samples(repaired, known);
        repaired.noise = facts.sensor.noise;
        const PreparedFrame prepared(repaired, taken);
        content.preview = preview_of(prepared, facts, framing.kept, delivery.raw.preview_side, progress);
    }
    const cv::Size shown = (content.crop.empty() ? raw.counts.size() : content.crop.size());
    const cv::Size held = size_as_held(shown, facts.metadata.orientation);
    done.width = held.width;
    done.height = held.height;
    done.scale = done.carried.scale;
    write_raw_copy(out, existing, mosaic, frame, content, progress, unchanged);
    return done;
}

}  // namespace optrel

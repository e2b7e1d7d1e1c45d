// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/export_preview.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"
#include "exchange/metadata_parts.h"
#include "frames/orientation.h"
#include "frames/reduced_size.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {

namespace {

/// Resulting size, without reading pixels.
cv::Size size_of(const FrameDevelopment& facts, const Delivery& delivery) {
    const Metadata& m = facts.metadata;
    const CaptureGeometry taken{geometry_of(m).pitch_um, m.focal_mm, m.orientation};
    const cv::Size kept = framing_of(facts.fields, facts.profile, {m.width, m.height}, taken).kept.size();
    const int longest_side = delivery.format == ExportFormat::dng ? 0 : delivery.longest_side;
    return size_as_held(reduced_size(kept, longest_side), m.orientation);
}

void tell_metadata(const MetadataChoice& keep, ExportPreview& out) {
    std::vector<std::string> along{"camera"}, left;
    for (const MetadataPart& part : metadata_parts) (keep.*part.kept ? along : left).emplace_back(part.name);
    out.along = all_of(along);
    out.left_out = left.empty() ? "" : all_of(left);
}

}  // namespace

ExportPreview export_preview(const std::filesystem::path& frame, const FrameDevelopment& facts,
                             const Delivery& delivery, const std::filesystem::path& folder) {
    check(delivery);
    ExportPreview out;
    try {
        out.out = ExportNames(folder, delivery).take(frame, facts, 1);
    } catch (const Error& error) {
        out.name_problem = error.what();
    }
    const cv::Size size = size_of(facts, delivery);
    out.width = size.width;
    out.height = size.height;
    out.coding = described(delivery);
    const bool film = facts.film.has_value(), films = delivery.format == ExportFormat::film;
    if (film != films)
        out.warning = film ? "It is a film, and this delivery writes pictures."
                           : "It is a picture, and this delivery writes films.";
    tell_metadata(delivery.metadata, out);
    const XmpProperties note = correction_note(facts);
    if (const auto corrected = note.find("corrected"); corrected != note.end()) out.corrected = corrected->second;
    const bool rendered = facts.metadata.kind == FrameKind::rendered;
    if (!facts.metadata.corrected.empty())
        out.warning = fmt::format("It is corrected already: {}.", facts.metadata.corrected);
    else if (!out.warning.empty())
        return out;
    else if (rendered && delivery.format == ExportFormat::dng)
        out.warning = "It is a rendered picture, of which there is no raw copy.";
    else if (rendered && delivery.space == ColourSpace::camera)
        out.warning = "It is a rendered picture, which has no camera's own colours.";
    return out;
}

}  // namespace optrel

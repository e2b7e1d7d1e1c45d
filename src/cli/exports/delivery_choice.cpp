// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/exports/delivery_choice.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"
#include "exchange/file_name.h"
#include "store/deliveries.h"

namespace optrel::cli {

void add_delivery_choice(CLI::App& command, DeliveryChoice& c) {
    command.add_option("--delivery", c.delivery, "A delivery by its name; what is said beside it counts for this time");
    command.add_option(
        "--as", c.as,
        "tiff, jpeg, png, dng, exr (a map of the correction) or film; with --delivery it must be the delivery's own");
    command.add_option("--space", c.space, "Colour space: srgb, p3-d65, rec2020, romm, linear or camera [srgb]");
    command.add_option("--bits", c.bits, "8 or 16 [16; a JPEG has 8]");
    command.add_option("--longest-side", c.longest_side, "Reduce to so many px, 0 for the whole size [0]");
    command.add_option("--resolution", c.resolution, "For printing, as 300/in or 120/cm [300/in]");
    command.add_option("--quality", c.quality, "Of a JPEG, 1 to 100 [92]");
    command.add_flag("--compressed", c.compressed, "Compress a TIFF (deflate)");
    command.add_option("--name", c.file_name,
                       "File name with tokens [{name}]: " + all_of(name_tokens()) +
                           " in braces; {lens|none} for frames that do not name their lens");
    command.add_option("--taken", c.taken, "What becomes of names that are taken: keep, number or replace [keep]");
    command.add_option("--metadata", c.metadata,
                       "What goes along, by commas, of exposure, serials, place, rights and description [all]");
    command.add_option("--geometry", c.geometry, "DNG: distortion and lateral colour as none, optional or required");
    command.add_option("--falloff", c.falloff, "DNG: falloff as none, optional or required [optional]");
    command.add_flag("--plain-samples", c.plain_samples, "DNG: do not compress the mosaic");
    command.add_option("--codec", c.codec, "Film: " + one_of(film_codec_names()) + " [ffv1]");
    command.add_option("--container", c.container, "Film: " + one_of(film_containers()) + " [mkv]");
    command.add_flag("--embed-original", c.embed_original, "DNG: put the frame's own file inside");
}

namespace {

/// Options that the format does not have would otherwise be silently ignored.
void refuse_what_is_not_there(const DeliveryChoice& c, ExportFormat format) {
    const bool raw = format == ExportFormat::dng, film = format == ExportFormat::film,
               picture = !raw && !film && format != ExportFormat::exr;
    const std::pair<const char*, bool> wrong[] = {{"--space", !picture && c.space},
                                                  {"--bits", !picture && c.bits},
                                                  {"--longest-side", !picture && c.longest_side},
                                                  {"--resolution", !picture && c.resolution},
                                                  {"--metadata", !picture && !raw && c.metadata},
                                                  {"--codec", !film && c.codec},
                                                  {"--container", !film && c.container},
                                                  {"--quality", format != ExportFormat::jpeg && c.quality},
                                                  {"--compressed", format != ExportFormat::tiff && c.compressed},
                                                  {"--geometry", !raw && c.geometry},
                                                  {"--falloff", !raw && c.falloff},
                                                  {"--plain-samples", !raw && c.plain_samples},
                                                  {"--embed-original", !raw && c.embed_original}};
    for (const auto& [option, refused] : wrong)
        if (refused)
            throw usage_error(fmt::format("{} means nothing for {}; leave it out.", option, to_string(format)));
}

}  // namespace

Delivery chosen_delivery(const DeliveryChoice& c, const std::vector<Delivery>& known) {
    if (!c.delivery && !c.as)
        throw usage_error("Say how to write: --as tiff, jpeg, png, dng, exr or film, or --delivery NAME.");
    Delivery r = c.delivery ? delivery_named(known, *c.delivery) : plain_delivery(export_format_from(*c.as));
    if (c.as && export_format_from(*c.as) != r.format)
        throw usage_error(fmt::format("The delivery '{}' writes {}; leave out --as, or choose another delivery.",
                                      r.name, to_string(r.format)));
    refuse_what_is_not_there(c, r.format);
    if (c.space) r.space = colour_space_from(*c.space);
    r.bits = c.bits.value_or(r.bits);
    r.longest_side = c.longest_side.value_or(r.longest_side);
    if (c.resolution) r.resolution = print_resolution_from(*c.resolution);
    r.quality = c.quality.value_or(r.quality);
    if (c.compressed) r.compressed = true;
    r.file_name = c.file_name.value_or(r.file_name);
    if (c.taken) r.taken = name_taken_from(*c.taken);
    if (c.metadata) r.metadata = metadata_choice_from(listed(*c.metadata));
    if (c.geometry) r.raw.geometry = opcode_use_from(*c.geometry);
    if (c.falloff) r.raw.falloff = opcode_use_from(*c.falloff);
    if (c.codec) r.film.codec = film_codec_from(*c.codec);
    if (c.container) r.film.container = *c.container;
    if (c.plain_samples) r.raw.compressed = false;
    if (c.embed_original) r.raw.embed_original = true;
    check(r);
    return r;
}

}  // namespace optrel::cli

// SPDX-License-Identifier: GPL-3.0-or-later
// A delivery: the settings for writing frames out.
#pragma once

#include <string>
#include <vector>

#include "frames/colour_space.h"
#include "frames/export_metadata.h"
#include "frames/film_codec.h"
#include "frames/picture_writer.h"

namespace optrel {

/// The first four are pictures; "exr" is a map of a frame's correction, "film" a film.
enum class ExportFormat { tiff, jpeg, png, dng, exr, film };
/// "tiff", for the command line and files.
std::string to_string(ExportFormat format);
ExportFormat export_format_from(const std::string& text);
/// What happens when the name of an export exists in its folder already.
enum class NameTaken {
    keep,     ///< the existing file stays, and the frame is reported as not exported
    number,   ///< NAME-2, NAME-3 …
    replace,  ///< replace files that Optrel wrote; keep others
};
std::string to_string(NameTaken taken);
NameTaken name_taken_from(const std::string& text);

/// From "exposure", "serials", "place", "rights" and "description". Throws Error(input) for any other name.
MetadataChoice metadata_choice_from(const std::vector<std::string>& parts);

/// Whether readers of a raw copy may ignore a correction, or must apply it.
enum class OpcodeUse { none, optional, required };
std::string to_string(OpcodeUse use);
OpcodeUse opcode_use_from(const std::string& text);

/// Contents of a raw copy (DNG) besides the mosaic.
struct RawCopy {
    bool compressed = true;                    ///< lossless JPEG; false: uncompressed
    OpcodeUse geometry = OpcodeUse::optional;  ///< distortion and lateral colour
    OpcodeUse falloff = OpcodeUse::optional;
    bool embed_original = false;  ///< the complete file of the frame
    int preview_side = 1024;      ///< px of the longer side of the preview

    bool operator==(const RawCopy& o) const {
        return compressed == o.compressed && geometry == o.geometry && falloff == o.falloff &&
               embed_original == o.embed_original && preview_side == o.preview_side;
    }
};

/// How a film is written.
struct FilmForm {
    FilmCodec codec = FilmCodec::ffv1;
    std::string container = "mkv";  ///< of film_containers()

    bool operator==(const FilmForm& o) const { return codec == o.codec && container == o.container; }
};

struct Delivery {
    std::string name;
    ExportFormat format = ExportFormat::tiff;
    int bits = 16;  ///< 8 or 16; a JPEG has 8
    ColourSpace space = ColourSpace::srgb;
    int longest_side = 0;              ///< px; a larger picture is reduced to it; 0: not reduced
    bool compressed = false;           ///< TIFF: deflate
    int quality = 92;                  ///< JPEG: 1 to 100
    PrintResolution resolution;        ///< of a picture
    std::string file_name = "{name}";  ///< with tokens (exchange/file_name.h); a / makes folders
    NameTaken taken = NameTaken::keep;
    MetadataChoice metadata;
    RawCopy raw;
    FilmForm film;

    PictureCoding coding() const;
    bool operator==(const Delivery& o) const;
};

/// ".tif", ".jpg", ".png", ".dng", ".exr", or that of the film's container.
std::string extension_of(const Delivery& delivery);

/// Throws Error(input) in one sentence for impossible settings: a JPEG of 16 bits, a quality of 0, a name pattern that
/// gives all frames one name, an unknown token.
void check(const Delivery& delivery);

/// JSON with "format": "optrel-delivery". Reading checks it, and throws Error(input) with one sentence for anything
/// else, also for unknown keys.
std::string delivery_to_json(const Delivery& delivery);
Delivery delivery_from_json(const std::string& text, const std::string& where);

/// Deliveries that every new store contains.
const std::vector<Delivery>& shipped_deliveries();
/// The default delivery of a format: the frame's name, 16 bits where possible, sRGB.
Delivery plain_delivery(ExportFormat format);

/// "16-bit TIFF, ROMM RGB, whole size": one line for display.
std::string described(const Delivery& delivery);

}  // namespace optrel

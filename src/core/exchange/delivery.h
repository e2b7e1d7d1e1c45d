// SPDX-License-Identifier: GPL-3.0-or-later
// A delivery: how frames are written out.
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
/// "tiff": on the command line and in files.
std::string to_string(ExportFormat format);
ExportFormat export_format_from(const std::string& text);
/// What becomes of an export whose name stands in its folder already.
enum class NameTaken {
    keep,     ///< the file stays, the frame is listed as not exported
    number,   ///< NAME-2, NAME-3 …
    replace,  ///< when Optrel wrote it; otherwise as keep
};
std::string to_string(NameTaken taken);
NameTaken name_taken_from(const std::string& text);

/// Of "exposure", "serials", "place", "rights" and "description". Throws Error(input) for any other.
MetadataChoice metadata_choice_from(const std::vector<std::string>& parts);

/// A corner of a raw copy's correction that a reader may leave out, or has to apply.
enum class OpcodeUse { none, optional, required };
std::string to_string(OpcodeUse use);
OpcodeUse opcode_use_from(const std::string& text);

/// What a raw copy (DNG) holds beside the mosaic.
struct RawCopy {
    bool compressed = true;                    ///< lossless JPEG; false: samples as they are
    OpcodeUse geometry = OpcodeUse::optional;  ///< distortion and lateral colour
    OpcodeUse falloff = OpcodeUse::optional;
    bool embed_original = false;  ///< the frame's own file, whole
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
    int longest_side = 0;              ///< px; a larger picture is reduced to it; 0: it stays as it is
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

/// Throws Error(input) in one sentence for what cannot be written: a JPEG of 16 bits, a quality of 0, a name without
/// tokens that would give all frames one name, a token that there is not.
void check(const Delivery& delivery);

/// JSON with "format": "optrel-delivery". Reading throws Error(input) with one sentence on anything else, unknown
/// keys included, and checks.
std::string delivery_to_json(const Delivery& delivery);
Delivery delivery_from_json(const std::string& text, const std::string& where);

/// Those that every studio begins with.
const std::vector<Delivery>& shipped_deliveries();
/// The plain one of a format: nothing but the frame's name, 16 bits where there are, sRGB.
Delivery plain_delivery(ExportFormat format);

/// "16-bit TIFF, ROMM RGB, whole size": for people, in one line.
std::string described(const Delivery& delivery);

}  // namespace optrel

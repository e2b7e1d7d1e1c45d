// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/delivery.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <set>

#include "base/error.h"
#include "base/json_text.h"
#include "base/words.h"
#include "exchange/file_name.h"
#include "exchange/metadata_parts.h"

namespace optrel {

namespace {

using nlohmann::json;

/// Deliveries formerly had another name, which old files still contain.
constexpr const char *format_name = "optrel-delivery", *older_name = "optrel-export-recipe";
constexpr std::array formats{"tiff", "jpeg", "png", "dng", "exr", "film"};
constexpr std::array extensions{".tif", ".jpg", ".png", ".dng", ".exr"};
constexpr std::array takens{"keep", "number", "replace"}, uses{"none", "optional", "required"};

template <class Enum, std::size_t Count>
Enum chosen(const std::array<const char*, Count>& names, const std::string& text, const char* what) {
    for (std::size_t i = 0; i < Count; ++i)
        if (lowered(text) == names[i]) return static_cast<Enum>(i);
    throw input_error(fmt::format("'{}' is no {}; choose {}.", printable(text), what,
                                  one_of(std::vector<std::string>(names.begin(), names.end()))));
}

json metadata_json(const MetadataChoice& choice) {
    json out = json::array();
    for (const MetadataPart& part : metadata_parts)
        if (choice.*part.kept) out.push_back(part.id);
    return out;
}

int whole(const json& j, const char* key) {
    if (!j.at(key).is_number_integer()) throw input_error(fmt::format("'{}' is no whole number.", key));
    return j.at(key);
}

RawCopy raw_from(const json& j) {
    RawCopy out;
    out.compressed = j.at("compressed");
    out.geometry = opcode_use_from(j.at("geometry"));
    out.falloff = opcode_use_from(j.at("falloff"));
    out.embed_original = j.at("embed_original");
    out.preview_side = whole(j, "preview_side");
    return out;
}

void refuse_unknown(const json& j, const std::set<std::string>& known) {
    for (const auto& [key, value] : j.items())
        if (!known.count(key))
            throw input_error(fmt::format("The key '{}' is not known; a delivery has {}.", printable(key),
                                          all_of(std::vector<std::string>(known.begin(), known.end()))));
}

Delivery made(const char* name, ExportFormat format, int bits, ColourSpace space, int longest_side, bool compressed) {
    Delivery r = plain_delivery(format);
    r.name = name;
    r.bits = bits;
    r.space = space;
    r.longest_side = longest_side;
    r.compressed = compressed;
    return r;
}

Delivery film_delivery(const char* name, FilmCodec codec, const char* container) {
    Delivery r = plain_delivery(ExportFormat::film);
    r.name = name;
    r.film = {codec, container};
    return r;
}

}  // namespace

std::string to_string(ExportFormat format) { return formats[static_cast<std::size_t>(format)]; }
ExportFormat export_format_from(const std::string& text) { return chosen<ExportFormat>(formats, text, "format"); }
std::string extension_of(const Delivery& r) {
    return r.format == ExportFormat::film ? "." + r.film.container : extensions[static_cast<std::size_t>(r.format)];
}
std::string to_string(NameTaken taken) { return takens[static_cast<std::size_t>(taken)]; }
NameTaken name_taken_from(const std::string& text) {
    return chosen<NameTaken>(takens, text, "way to treat names that are taken");
}
std::string to_string(OpcodeUse use) { return uses[static_cast<std::size_t>(use)]; }
OpcodeUse opcode_use_from(const std::string& text) { return chosen<OpcodeUse>(uses, text, "use of a correction"); }

MetadataChoice metadata_choice_from(const std::vector<std::string>& parts) {
    MetadataChoice out{false, false, false, false, false};
    for (const std::string& text : parts) {
        bool known = false;
        for (const MetadataPart& part : metadata_parts)
            if (text == part.id) known = out.*part.kept = true;
        if (!known)
            throw input_error(fmt::format(
                "There is no metadata part '{}'; choose of exposure, serials, place, rights and description.",
                printable(text)));
    }
    return out;
}

PictureCoding Delivery::coding() const {
    PictureCoding out;
    out.format = static_cast<PictureFormat>(format);
    out.bits = bits;
    out.compressed = compressed;
    out.quality = quality;
    out.resolution = resolution;
    out.srgb = space == ColourSpace::srgb;
    return out;
}

bool Delivery::operator==(const Delivery& o) const {
    return name == o.name && format == o.format && bits == o.bits && space == o.space &&
           longest_side == o.longest_side && compressed == o.compressed && quality == o.quality &&
           resolution == o.resolution && file_name == o.file_name && taken == o.taken && metadata == o.metadata &&
           raw == o.raw && film == o.film;
}

void check(const Delivery& r) {
    if (trimmed(r.name).empty() || r.name.size() > 80 || !is_utf8(r.name))
        throw input_error("A delivery needs a name of at most 80 characters.");
    const auto refuse = [&](const std::string& why) {
        throw input_error(fmt::format("The delivery '{}' {}.", r.name, why));
    };
    if (r.bits != 8 && r.bits != 16) refuse(fmt::format("has {} bits; choose 8 or 16", r.bits));
    if (r.format == ExportFormat::jpeg && r.bits != 8) refuse("is a JPEG of 16 bits; a JPEG has 8");
    if (r.bits == 8 && (r.space == ColourSpace::linear || r.space == ColourSpace::camera))
        refuse("writes linear light with 8 bits, which bands in the shadows; choose 16 bits or another colour space");
    if (r.longest_side != 0 && (r.longest_side < 16 || r.longest_side > 100000))
        refuse(
            fmt::format("has a longest side of {} px; choose 16 to 100000, or 0 for the whole size", r.longest_side));
    if (r.quality < 1 || r.quality > 100) refuse(fmt::format("has the quality {}; choose 1 to 100", r.quality));
    if (r.raw.preview_side < 64 || r.raw.preview_side > 10000)
        refuse(fmt::format("has a preview of {} px; choose 64 to 10000", r.raw.preview_side));
    if (r.format == ExportFormat::dng && r.raw.embed_original && !(r.metadata == MetadataChoice()))
        refuse("leaves metadata behind and puts the original inside, which says all of them; choose one of the two");
    const std::vector<std::string>& containers = film_containers();
    if (std::find(containers.begin(), containers.end(), r.film.container) == containers.end())
        refuse(fmt::format("puts films into '{}'; choose {}", printable(r.film.container), one_of(containers)));
    print_resolution_from(to_string(r.resolution));
    check_name_pattern(r.file_name);
}

std::string delivery_to_json(const Delivery& r) {
    check(r);
    // Versions before films and maps would misread them.
    const bool later = r.format == ExportFormat::film || r.format == ExportFormat::exr;
    json j = {{"format", format_name},
              {"version", later ? 2 : 1},
              {"name", r.name},
              {"as", to_string(r.format)},
              {"bits", r.bits},
              {"space", to_string(r.space)},
              {"longest_side", r.longest_side},
              {"compressed", r.compressed},
              {"quality", r.quality},
              {"file_name", r.file_name},
              {"taken", to_string(r.taken)},
              {"metadata", metadata_json(r.metadata)},
              {"raw",
               {{"compressed", r.raw.compressed},
                {"geometry", to_string(r.raw.geometry)},
                {"falloff", to_string(r.raw.falloff)},
                {"embed_original", r.raw.embed_original},
                {"preview_side", r.raw.preview_side}}}};
    // Versions without print resolution can read deliveries with the default one.
    if (!(r.resolution == PrintResolution())) j["resolution"] = to_string(r.resolution);
    if (r.format == ExportFormat::film)
        j["film"] = {{"codec", to_string(r.film.codec)}, {"container", r.film.container}};
    return json_text(j, 2) + "\n";
}

Delivery delivery_from_json(const std::string& text, const std::string& where) {
    const json j = parse_json(text, where);
    try {
        if (!j.is_object() || (j.value("format", "") != format_name && j.value("format", "") != older_name))
            throw input_error("It is no delivery; one begins with \"format\": \"optrel-delivery\".");
        if (j.at("version") != 1 && j.at("version") != 2)
            throw input_error(
                "It is of a newer version of Optrel; take that version, or save it there as an older one.");
        refuse_unknown(j, {"format", "version", "name", "as", "bits", "space", "longest_side", "compressed", "quality",
                           "resolution", "file_name", "taken", "metadata", "raw", "film"});
        refuse_unknown(j.at("raw"), {"compressed", "geometry", "falloff", "embed_original", "preview_side"});
        Delivery r;
        r.name = trimmed(j.at("name").get<std::string>());
        r.format = export_format_from(j.at("as"));
        r.bits = whole(j, "bits");
        r.space = colour_space_from(j.at("space"));
        r.longest_side = whole(j, "longest_side");
        r.compressed = j.at("compressed");
        r.quality = whole(j, "quality");
        if (j.contains("resolution")) r.resolution = print_resolution_from(j["resolution"]);
        r.file_name = j.at("file_name");
        r.taken = name_taken_from(j.at("taken"));
        r.metadata = metadata_choice_from(j.at("metadata"));
        r.raw = raw_from(j.at("raw"));
        if (j.contains("film")) {
            refuse_unknown(j["film"], {"codec", "container"});
            r.film = {film_codec_from(j["film"].at("codec")), j["film"].at("container")};
        }
        check(r);
        return r;
    } catch (const Error& error) {
        throw input_error(fmt::format("{} cannot be taken as a delivery: {}.", where, without_stop(error.what())));
    } catch (const std::exception& error) {
        throw input_error(fmt::format("{} cannot be taken as a delivery: a part is missing or of the wrong kind ({}).",
                                      where, without_stop(error.what())));
    }
}

Delivery plain_delivery(ExportFormat format) {
    Delivery r;
    r.name = "plain " + to_string(format);
    r.format = format;
    if (format == ExportFormat::jpeg) r.bits = 8;
    return r;
}

const std::vector<Delivery>& shipped_deliveries() {
    static const std::vector<Delivery> shipped = [] {
        std::vector<Delivery> out{
            made("Archive", ExportFormat::tiff, 16, ColourSpace::romm, 0, true),
            made("Measuring", ExportFormat::tiff, 16, ColourSpace::linear, 0, false),
            made("Review", ExportFormat::jpeg, 8, ColourSpace::srgb, 2400, false),
            made("Raw copy", ExportFormat::dng, 16, ColourSpace::srgb, 0, false),
            made("Correction map", ExportFormat::exr, 16, ColourSpace::srgb, 0, false),
            film_delivery("Film to keep", FilmCodec::ffv1, "mkv"),
            film_delivery("Film to show", FilmCodec::h264, "mp4"),
            film_delivery("Film to go on", FilmCodec::h264_intra, "mov"),
        };
        out[2].metadata.place = out[2].metadata.serials = false;
        return out;
    }();
    return shipped;
}

std::string described(const Delivery& r) {
    if (r.format == ExportFormat::dng) {
        std::string out = r.raw.compressed ? "DNG, lossless" : "DNG, not compressed";
        out += r.raw.geometry == OpcodeUse::none && r.raw.falloff == OpcodeUse::none ? ", without a correction"
                                                                                     : ", with its correction";
        return out + (r.raw.embed_original ? ", the original inside" : "");
    }
    if (r.format == ExportFormat::exr) return "OpenEXR, a map of the correction";
    if (r.format == ExportFormat::film)
        return fmt::format("film, {} in .{}", to_string(r.film.codec), r.film.container);
    const std::string size = r.longest_side > 0 ? fmt::format("{} px at most", r.longest_side) : "whole size";
    std::string coding = fmt::format("{}-bit {}", r.bits, r.format == ExportFormat::tiff ? "TIFF" : "PNG");
    if (r.format == ExportFormat::jpeg) coding = fmt::format("JPEG, quality {}", r.quality);
    return fmt::format("{}{}, {}, {}", coding, r.format == ExportFormat::tiff && r.compressed ? ", deflate" : "",
                       name_of(r.space), size);
}

}  // namespace optrel

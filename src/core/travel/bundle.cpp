// SPDX-License-Identifier: GPL-3.0-or-later
#include "travel/bundle.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/output.h"
#include "base/words.h"
#include "travel/zip_parts.h"

namespace optrel {
namespace {

using nlohmann::json;

constexpr int bundle_format = 1;
constexpr const char* manifest_name = "manifest.json";
constexpr const char* signature_name = "signature.json";
constexpr const char* signing_purpose = "optrel bundle";

struct KindWords {
    const char *one, *many, *folder, *ending;
};
constexpr KindWords kind_words[bundle_kind_count] = {{"model", "models", "models", "json"},
                                                     {"body", "bodies", "bodies", "json"},
                                                     {"lens", "lenses", "lenses", "json"},
                                                     {"claim", "claims", "claims", "json"},
                                                     {"colour file", "colour files", "colours", "bin"},
                                                     {"profile", "profiles", "profiles", "json"},
                                                     {"set", "sets", "sets", "json"},
                                                     {"tier", "tiers", "tiers", "json"},
                                                     {"baseline", "baselines", "baselines", "json"}};
const KindWords& words_of(BundleKind kind) { return kind_words[static_cast<int>(kind)]; }

std::string manifest_of(const Bundle& bundle, std::vector<ZipPart>& files) {
    json parts = json::array();
    std::map<BundleKind, int> counts;
    for (const BundlePart& p : bundle.parts) {
        const std::string file =
            fmt::format("{}/{:04}.{}", words_of(p.kind).folder, ++counts[p.kind], words_of(p.kind).ending);
        parts.push_back({{"kind", to_string(p.kind)},
                         {"id", p.id},
                         {"name", p.name},
                         {"file", file},
                         {"size", p.document.size()},
                         {"sha256", bytes_hash(p.document)}});
        files.push_back({file, p.document});
    }
    return json_text({{"format", "optrel-bundle"},
                      {"format_version", bundle_format},
                      {"title", bundle.title},
                      {"note", bundle.note},
                      {"sender", bundle.sender},
                      {"time", bundle.time},
                      {"program", bundle.program},
                      {"parts", parts}},
                     1) +
           "\n";
}

/// What is left of the pieces, by name, is taken out one by one; what remains was not named.
using Pieces = std::map<std::string, std::string>;

std::string take(Pieces& pieces, const std::string& name, const std::string& where) {
    const auto it = pieces.find(name);
    if (it == pieces.end())
        throw input_error(fmt::format("{} is not whole: '{}' is missing in it; get it again.", where, printable(name)));
    std::string bytes = std::move(it->second);
    pieces.erase(it);
    return bytes;
}

/// What people are shown of a manifest: no line ends in it, but in a note.
std::string line_in(const json& j, const char* name, const std::string& where, std::size_t most = 300) {
    auto text = j.at(name).get<std::string>();
    std::string line = text;
    if (most > 300) std::replace(line.begin(), line.end(), '\n', ' ');
    if (!is_plain_line(line, most))
        throw input_error(fmt::format("{} has a {} that is no text to be shown; have it made again.", where, name));
    return text;
}

void read_parts(const json& listed, Pieces& pieces, const std::string& where, Bundle& out) {
    std::set<std::pair<BundleKind, std::string>> ids;
    for (const json& j : listed) {
        BundlePart p;
        p.kind = bundle_kind(j.at("kind").get<std::string>());
        p.id = line_in(j, "id", where);
        p.name = line_in(j, "name", where);
        if (p.id.empty() || !ids.insert({p.kind, p.id}).second)
            throw input_error(fmt::format("{} names a {} '{}' twice; have it made again.", where, to_string(p.kind),
                                          printable(p.id)));
        const std::string file = j.at("file").get<std::string>();
        p.document = take(pieces, file, where);
        if (p.document.size() != j.at("size").get<std::uint64_t>() ||
            bytes_hash(p.document) != j.at("sha256").get<std::string>())
            throw input_error(
                fmt::format("{} is damaged: '{}' in it is not what was packed; get it again.", where, printable(file)));
        out.parts.push_back(std::move(p));
    }
    std::stable_sort(out.parts.begin(), out.parts.end(),
                     [](const BundlePart& a, const BundlePart& b) { return a.kind < b.kind; });
}

/// The key that signed the manifest. Throws when the signature does not belong to it.
std::string signer_of(const std::string& signature, const std::string& manifest, const std::string& where) {
    const json j = parse_json(signature, where + ", signature");
    const std::string key = j.at("key").get<std::string>(), digits = j.at("signature").get<std::string>();
    if (!signed_by(key, signing_purpose, manifest, digits))
        throw input_error(where +
                          " was changed after it was signed, or signed by somebody else than it says; do not use it, "
                          "and get it again from who made it.");
    return key;
}

}  // namespace

std::string to_string(BundleKind kind) { return words_of(kind).one; }

std::string counted(BundleKind kind, int count) {
    return fmt::format("{} {}", count, count == 1 ? words_of(kind).one : words_of(kind).many);
}

BundleKind bundle_kind(const std::string& text) {
    std::vector<std::string> names;
    for (int k = 0; k < bundle_kind_count; ++k) {
        const std::string name = kind_words[k].one;
        if (lowered(trimmed(text)) == name) return static_cast<BundleKind>(k);
        names.push_back(name);
    }
    throw input_error(fmt::format("A bundle has no part of the kind '{}', only {}; a newer Optrel may know it.",
                                  printable(text.substr(0, 40)), all_of(names)));
}

bool named_as_bundle(const std::filesystem::path& path) {
    const std::string name = lowered(path.filename().string()), ending = bundle_ending;
    return name.size() > ending.size() && name.compare(name.size() - ending.size(), ending.size(), ending) == 0;
}

std::string bundle_bytes(const Bundle& bundle, const SigningKey* key) {
    std::vector<ZipPart> files{{manifest_name, ""}};
    files.front().bytes = manifest_of(bundle, files);
    if (key) {
        const json signature = {{"format", "optrel-signature"},
                                {"format_version", 1},
                                {"key", key->public_key()},
                                {"signature", key->sign(signing_purpose, files.front().bytes)}};
        files.insert(files.begin() + 1, {signature_name, json_text(signature, 1) + "\n"});
    }
    return zip_of(files);
}

Bundle bundle_from(const std::string& bytes, const std::string& where) {
    Pieces pieces;
    for (ZipPart& p : parts_of_zip(bytes, where)) pieces.emplace(std::move(p.name), std::move(p.bytes));
    if (!pieces.count(manifest_name))
        throw input_error(where + " is a zip file, but no bundle of Optrel; choose one that Optrel made.");
    const std::string manifest = take(pieces, manifest_name, where);
    try {
        const json j = parse_json(manifest, where);
        if (!j.is_object() || j.value("format", "") != "optrel-bundle")
            throw input_error(where + " is a zip file, but no bundle of Optrel; choose one that Optrel made.");
        if (j.value("format_version", 0) > bundle_format)
            throw input_error(
                fmt::format("{} is a bundle of format {}, newer than this program reads ({}); update "
                            "Optrel.",
                            where, j.value("format_version", 0), bundle_format));
        Bundle out;
        if (pieces.count(signature_name)) out.key = signer_of(take(pieces, signature_name, where), manifest, where);
        out.title = line_in(j, "title", where);
        out.note = line_in(j, "note", where, 4000);
        out.sender = line_in(j, "sender", where);
        out.time = line_in(j, "time", where);
        out.program = line_in(j, "program", where);
        read_parts(j.at("parts"), pieces, where, out);
        if (!pieces.empty())
            throw input_error(fmt::format("{} holds '{}', which its manifest does not name; have it made again.", where,
                                          printable(pieces.begin()->first)));
        return out;
    } catch (const json::exception& error) {
        throw input_error(fmt::format("{} cannot be read as a bundle ({}); get it again.", where, error.what()));
    }
}

Bundle read_bundle(const std::filesystem::path& path) {
    return bundle_from(read_file(path, bundle_limit), printable(path.string()));
}

void write_bundle(const std::filesystem::path& path, const std::string& bytes, bool overwrite) {
    static const OutputFormat format{"a bundle", {".zip"}, [](const std::filesystem::path& there, const std::string&) {
                                         try {
                                             read_bundle(there);
                                             return true;
                                         } catch (const std::exception&) {
                                             return false;
                                         }
                                     }};
    if (!named_as_bundle(path))
        throw usage_error(
            fmt::format("{} is no name for a bundle; it ends in {}.", printable(path.string()), bundle_ending));
    write_output(path, format, overwrite ? Existing::replace_ours : Existing::keep, bytes);
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/bundle.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/output.h"
#include "base/words.h"
#include "sharing/zip_parts.h"

namespace optrel {
namespace {

using nlohmann::json;

constexpr int bundle_format = 1;
constexpr const char* manifest_name = "manifest.json";
constexpr const char* signature_name = "signature.json";
constexpr const char* signing_purpose = "optrel bundle";
/// Room for some 4000 parts.
constexpr std::uint64_t largest_manifest = 1u << 20;
constexpr std::uint64_t largest_signature = 4096;

std::uint64_t whole_mb(std::uint64_t bytes) { return (bytes + (1u << 20) - 1) >> 20; }

std::string manifest_of(const Bundle& bundle, std::vector<ZipPart>& files) {
    json parts = json::array();
    std::map<BundleKind, int> counts;
    for (const BundlePart& p : bundle.parts) {
        const std::string file = fmt::format("{}/{:04}.{}", p.kind.folder(), ++counts[p.kind], p.kind.ending());
        parts.push_back({{"kind", to_string(p.kind)},
                         {"id", p.id},
                         {"name", p.name},
                         {"file", file},
                         {"size", p.document.size()},
                         {"sha256", bytes_hash(p.document)}});
        files.push_back({file, p.document});
    }
    json out = {{"format", "optrel-bundle"}, {"format_version", bundle_format},
                {"title", bundle.title},     {"note", bundle.note},
                {"sender", bundle.sender},   {"time", bundle.time},
                {"program", bundle.program}, {"parts", parts}};
    if (bundle.anchor)
        out["history"] = {{"first", bundle.anchor->first}, {"row", bundle.anchor->row}, {"seal", bundle.anchor->seal}};
    return json_text(out, 1) + "\n";
}

/// The pieces of a bundle, which are unpacked one by one; what nobody asked for was not named.
class Pieces {
public:
    Pieces(const ZipFile& zip, const std::string& where) : zip_(zip), where_(where) {
        left_.insert(zip.names().begin(), zip.names().end());
    }
    bool has(const std::string& name) const { return left_.count(name) != 0; }
    /// One that may say that it has up to `most` bytes. Each is taken once.
    std::string take(const std::string& name, std::uint64_t most) {
        if (!has(name))
            throw input_error(
                fmt::format("{} is not whole: '{}' is missing in it; get it again.", where_, printable(name)));
        if (zip_.size(name) > most)
            throw input_error(
                fmt::format("{} is damaged: '{}' in it unpacks to {} bytes, more than the {} that it "
                            "can have; get it again.",
                            where_, printable(name), zip_.size(name), most));
        left_.erase(name);
        return zip_.read(name);
    }
    const std::set<std::string>& left() const { return left_; }

private:
    const ZipFile& zip_;
    const std::string& where_;
    std::set<std::string> left_;
};

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
        p.kind = BundleKind::named(j.at("kind").get<std::string>());
        p.id = line_in(j, "id", where);
        p.name = line_in(j, "name", where);
        if (p.id.empty() || !ids.insert({p.kind, p.id}).second)
            throw input_error(fmt::format("{} names a {} '{}' twice; have it made again.", where, to_string(p.kind),
                                          printable(p.id)));
        const std::string file = j.at("file").get<std::string>();
        const auto size = j.at("size").get<std::uint64_t>();
        p.document = pieces.take(file, size);
        if (p.document.size() != size || bytes_hash(p.document) != j.at("sha256").get<std::string>())
            throw input_error(
                fmt::format("{} is damaged: '{}' in it is not what was packed; get it again.", where, printable(file)));
        if (p.kind != BundleKind::colours)
            require_within({}, p.document, fmt::format("'{}' in {}", printable(file), where));
        out.parts.push_back(std::move(p));
    }
    std::stable_sort(out.parts.begin(), out.parts.end(),
                     [](const BundlePart& a, const BundlePart& b) { return a.kind < b.kind; });
}

/// The key that signed the manifest. Throws when the signature does not belong to it.
std::string signer_of(const std::string& signature, const std::string& manifest, const std::string& where) {
    require_within({}, signature, where + ", signature");
    const json j = parse_json(signature, where + ", signature");
    const std::string key = j.at("key").get<std::string>(), digits = j.at("signature").get<std::string>();
    if (!signed_by(key, signing_purpose, manifest, digits))
        throw input_error(where +
                          " was changed after it was signed, or signed by somebody else than it says; do not use it, "
                          "and get it again from who made it.");
    return key;
}

}  // namespace

bool named_as_bundle(const std::filesystem::path& path) {
    const std::string name = lowered(path.filename().string()), ending = bundle_ending;
    return name.size() > ending.size() && name.compare(name.size() - ending.size(), ending.size(), ending) == 0;
}

std::string bundle_bytes(const Bundle& bundle, const SigningKey* key) {
    std::vector<ZipPart> files{{manifest_name, ""}};
    files.front().bytes = manifest_of(bundle, files);
    std::uint64_t all = 0;
    for (const ZipPart& f : files) all += f.bytes.size();
    if (files.front().bytes.size() > largest_manifest || all > bundle_limit)
        throw input_error(fmt::format(
            "{} parts with {} MB are more than one bundle can have (a list of {} MB, {} MB in all); pack them into "
            "several.",
            bundle.parts.size(), whole_mb(all), largest_manifest >> 20, bundle_limit >> 20));
    if (key) {
        const json signature = {{"format", "optrel-signature"},
                                {"format_version", 1},
                                {"key", key->public_key()},
                                {"signature", key->sign(signing_purpose, files.front().bytes)}};
        files.insert(files.begin() + 1, {signature_name, json_text(signature, 1) + "\n"});
    }
    return zip_of(files);
}

namespace {

/// Nothing is unpacked before its size is known to be within the limits.
Bundle bundle_in(const ZipFile& zip, const std::string& where, std::uint64_t most) {
    if (!zip.holds(manifest_name))
        throw input_error(where + " is a zip file, but no bundle of Optrel; choose one that Optrel made.");
    if (zip.total() > most)
        throw input_error(fmt::format(
            "{} unpacks to {} MB, more than the {} MB that are taken unasked; allow it if you expect that from whoever "
            "sent it (--up-to-mb {}).",
            where, whole_mb(zip.total()), most >> 20, whole_mb(zip.total())));
    Pieces pieces(zip, where);
    try {
        const std::string manifest = pieces.take(manifest_name, largest_manifest);
        Bundle out;
        if (pieces.has(signature_name))
            out.key = signer_of(pieces.take(signature_name, largest_signature), manifest, where);
        require_within({}, manifest, where);
        const json j = parse_json(manifest, where);
        if (!j.is_object() || j.value("format", "") != "optrel-bundle")
            throw input_error(where + " is a zip file, but no bundle of Optrel; choose one that Optrel made.");
        if (j.value("format_version", 0) > bundle_format)
            throw input_error(
                fmt::format("{} is a bundle of format {}, newer than this program reads ({}); update "
                            "Optrel.",
                            where, j.value("format_version", 0), bundle_format));
        out.title = line_in(j, "title", where);
        out.note = line_in(j, "note", where, 4000);
        out.sender = line_in(j, "sender", where);
        out.time = line_in(j, "time", where);
        out.program = line_in(j, "program", where);
        if (j.contains("history"))
            out.anchor = Bundle::Anchor{line_in(j["history"], "first", where), j["history"].at("row").get<long long>(),
                                        line_in(j["history"], "seal", where)};
        read_parts(j.at("parts"), pieces, where, out);
        if (!pieces.left().empty())
            throw input_error(fmt::format("{} holds '{}', which its manifest does not name; have it made again.", where,
                                          printable(*pieces.left().begin())));
        return out;
    } catch (const json::exception& error) {
        throw input_error(fmt::format("{} cannot be read as a bundle ({}); get it again.", where, error.what()));
    }
}

}  // namespace

Bundle bundle_from(const std::string& bytes, const std::string& where, std::uint64_t most) {
    return bundle_in(ZipFile(bytes, where), where, most);
}

Bundle read_bundle(const std::filesystem::path& path, std::uint64_t most) {
    return bundle_in(ZipFile(path), printable(path.string()), most);
}

std::uint64_t unpacked_size(const std::filesystem::path& path) { return ZipFile(path).total(); }

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

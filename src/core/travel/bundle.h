// SPDX-License-Identifier: GPL-3.0-or-later
// A bundle: one file with what a job, a colleague or an archive needs of a studio. docs/formats.md describes it.
//
// It is a zip file with a manifest that names every piece with its size and SHA-256, and, where it is signed, a
// signature of the manifest. The pieces are the documents that Optrel writes of each kind anyway. What they say is
// looked at by whoever takes them in (studio/unpacking.h); here it is only certain that they are what was packed.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "travel/signing.h"

namespace optrel {

/// In the order in which they are taken in: later ones may name earlier ones.
enum class BundleKind { model, body, lens, claim, colours, profile, set, tier, baseline };
inline constexpr int bundle_kind_count = static_cast<int>(BundleKind::baseline) + 1;
/// "profile", "colour file", "baseline".
std::string to_string(BundleKind kind);
/// "1 profile", "3 colour files".
std::string counted(BundleKind kind, int count);
/// Throws Error(input) with the kinds there are.
BundleKind bundle_kind(const std::string& text);

struct BundlePart {
    BundleKind kind = BundleKind::profile;
    std::string id;        ///< as the studio that packed it knows it; unique within its kind
    std::string name;      ///< for people
    std::string document;  ///< as the reader of its kind takes it
    bool operator==(const BundlePart&) const = default;
};

struct Bundle {
    std::string title, note;
    std::string sender;   ///< as whoever packed it calls themselves
    std::string time;     ///< ISO 8601, UTC
    std::string program;  ///< name and version
    std::vector<BundlePart> parts;
    std::string key;  ///< of who signed it; empty: it is not signed
    /// Where the history of the studio that packed it stood: the seal of its first row, by which histories are told
    /// apart, and the number and seal of its newest one. Empty: it is not told.
    struct Anchor {
        std::string first;
        long long row = 0;
        std::string seal;
    };
    std::optional<Anchor> anchor;
};

/// How the name of a bundle ends.
inline constexpr const char* bundle_ending = ".optrel.zip";
/// Whether a path is named as a bundle.
bool named_as_bundle(const std::filesystem::path& path);

/// The bytes of the file; the same bundle and key always give the same ones. `key` null: not signed. Throws
/// Error(input) for more parts than a manifest can name, or more bytes than a bundle can have.
std::string bundle_bytes(const Bundle& bundle, const SigningKey* key);
/// What a bundle may unpack to, in bytes, unless a person who was told allows more; a lens profile takes a thousandth.
inline constexpr std::uint64_t ordinary_bundle = 64u << 20;
/// The most that can be allowed.
inline constexpr std::uint64_t bundle_limit = 1024u << 20;

/// Throws Error(input) in one sentence for what is no bundle, is damaged, of a newer format, unpacks to more than
/// `most` bytes, holds what its manifest does not name, or was changed after it was signed. What the signature does not
/// cover is not unpacked, and a document nested or filled as no document of Optrel's is refused before it is read.
Bundle bundle_from(const std::string& bytes, const std::string& where, std::uint64_t most = ordinary_bundle);
/// The same of a file, and Error(file).
Bundle read_bundle(const std::filesystem::path& path, std::uint64_t most = ordinary_bundle);
/// What a bundle says that it unpacks to, in bytes, of which nothing is unpacked. Throws as read_bundle() does.
std::uint64_t unpacked_size(const std::filesystem::path& path);
/// Writes it as a file that people name. A file that is there is only replaced when it is a bundle and `overwrite`.
void write_bundle(const std::filesystem::path& path, const std::string& bytes, bool overwrite);

}  // namespace optrel

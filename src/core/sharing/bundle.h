// SPDX-License-Identifier: GPL-3.0-or-later
// Bundles: one file with profiles, baselines and other parts of a studio. Format: docs/formats.md.
//
// A bundle is a zip file with a manifest that lists every piece with size and SHA-256, and optionally a signature of
// the manifest. The pieces are ordinary documents of Optrel. This file only verifies that they are unchanged; their
// contents are checked on import (studio/unpacking.h).
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "sharing/bundle_kind.h"
#include "sharing/signing.h"

namespace optrel {

struct BundlePart {
    BundleKind kind = BundleKind::set;
    std::string id;        ///< id at the studio that packed it; unique within its kind
    std::string name;      ///< name for display
    std::string document;  ///< document in the format of its kind
    bool operator==(const BundlePart&) const = default;
};

struct Bundle {
    std::string title, note;
    std::string sender;   ///< name that the author uses
    std::string time;     ///< ISO 8601, UTC
    std::string program;  ///< name and version
    std::vector<BundlePart> parts;
    std::string key;  ///< public key of the signature; empty: not signed
    /// State of the packing studio's history: seal of the first row, which identifies the history, and number and seal
    /// of the newest row. Empty: not included.
    struct Anchor {
        std::string first;
        long long row = 0;
        std::string seal;
    };
    std::optional<Anchor> anchor;
};

/// File name extension of bundles.
inline constexpr const char* bundle_ending = ".optrel.zip";
/// Whether a path has that extension.
bool named_as_bundle(const std::filesystem::path& path);

/// Contents of a bundle file; the same bundle and key give the same bytes. `key` null: not signed. Throws Error(input)
/// for too many parts or too many bytes.
std::string bundle_bytes(const Bundle& bundle, const SigningKey* key);
/// Default limit for the unpacked size in bytes. A lens profile needs a thousandth of it.
inline constexpr std::uint64_t ordinary_bundle = 64u << 20;
/// Upper bound for that limit.
inline constexpr std::uint64_t bundle_limit = 1024u << 20;

/// Throws Error(input) when the data is no bundle, is damaged, has a newer format, unpacks to more than `most` bytes,
/// contains pieces that its manifest does not list, or was changed after signing. Pieces without a valid signature are
/// not unpacked, and overly nested or large documents are refused before parsing.
Bundle bundle_from(const std::string& bytes, const std::string& where, std::uint64_t most = ordinary_bundle);
/// The same for a file; also throws Error(file).
Bundle read_bundle(const std::filesystem::path& path, std::uint64_t most = ordinary_bundle);
/// Unpacked size in bytes that a bundle declares. Nothing is unpacked. Throws as read_bundle() does.
std::uint64_t unpacked_size(const std::filesystem::path& path);
/// Writes a bundle file. An existing file is replaced only when it is a bundle and `overwrite` is true.
void write_bundle(const std::filesystem::path& path, const std::string& bytes, bool overwrite);

}  // namespace optrel

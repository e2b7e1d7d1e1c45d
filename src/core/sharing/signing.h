// SPDX-License-Identifier: GPL-3.0-or-later
// Signatures by Ed25519 (Bernstein et al. 2011, RFC 8032), with libsodium.
//
// A key is identified by its public part, 64 lower-case hexadecimal digits. The secret part stays on the station in a
// file that only its user can read. A signature includes its purpose, so that it is not valid for other kinds of
// documents.
#pragma once

#include <filesystem>
#include <string>

namespace optrel {

class SigningKey {
public:
    /// Creates a key.
    static SigningKey make();
    /// Reads a key file, or creates it when it is missing. Throws Error(input) for an invalid key file and for one that
    /// others can read, and Error(file).
    static SigningKey load_or_make(const std::filesystem::path& path);

    const std::string& public_key() const { return public_; }
    /// 128 hexadecimal digits.
    std::string sign(const std::string& purpose, const std::string& bytes) const;
    /// Pseudonym of a text: 16 hexadecimal digits that depend on the key and do not reveal the text (keyed BLAKE2b, RFC
    /// 7693).
    std::string mark_of(const std::string& words) const;

private:
    std::string secret_, public_;
};

/// Whether the signature is valid for these bytes, this key and this purpose. False for malformed keys and signatures.
bool signed_by(const std::string& public_key, const std::string& purpose, const std::string& bytes,
               const std::string& signature);

/// Normalised key. Throws Error(input) when the text is no key.
std::string required_key(const std::string& text);

/// Path of the user's key, in the configuration folder.
std::filesystem::path own_key_path();

}  // namespace optrel

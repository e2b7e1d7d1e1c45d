// SPDX-License-Identifier: GPL-3.0-or-later
// Who made what travels: signatures by Ed25519 (Bernstein et al. 2011, RFC 8032), from libsodium.
//
// A key is known by its public half, 64 hexadecimal digits in small letters. The secret half stays on the station that
// made it, in a file that nobody else can read. What is signed is bound to its purpose, so that a signature under one
// kind of document is worth nothing under another.
#pragma once

#include <filesystem>
#include <string>

namespace optrel {

class SigningKey {
public:
    /// A new one.
    static SigningKey make();
    /// The one of a file; it is made when there is none. Throws Error(input) for a file that is no key, or that others
    /// may read, and Error(file).
    static SigningKey load_or_make(const std::filesystem::path& path);

    const std::string& public_key() const { return public_; }
    /// 128 hexadecimal digits.
    std::string sign(const std::string& purpose, const std::string& bytes) const;
    /// 16 hexadecimal digits that are alike for the same words and this key, and tell nobody the words (keyed BLAKE2b,
    /// RFC 7693).
    std::string mark_of(const std::string& words) const;

private:
    std::string secret_, public_;
};

/// Whether the owner of the key signed these bytes for this purpose. False for whatever is no key or no signature.
bool signed_by(const std::string& public_key, const std::string& purpose, const std::string& bytes,
               const std::string& signature);

/// The key in small letters. Throws Error(input) for what is none.
std::string required_key(const std::string& text);

/// Where the key of this user is: below the user's configuration.
std::filesystem::path own_key_path();

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/signing.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sodium.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/words.h"

namespace optrel {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

void begin_sodium() {
    static const bool ready = sodium_init() >= 0;
    if (!ready) throw file_error("The system gives no random numbers, so nothing can be signed; restart the computer.");
}

std::string hex(const std::string& bytes) {
    std::string out;
    for (const unsigned char c : bytes) out += fmt::format("{:02x}", c);
    return out;
}

/// The bytes of 2 n hexadecimal digits; empty for anything else.
std::string unhex(const std::string& digits, std::size_t n) {
    if (digits.size() != 2 * n || digits.find_first_not_of("0123456789abcdef") != std::string::npos) return {};
    std::string out(n, '\0');
    std::size_t written = 0;
    const int failed = sodium_hex2bin(reinterpret_cast<unsigned char*>(out.data()), n, digits.data(), digits.size(),
                                      nullptr, &written, nullptr);
    return failed == 0 && written == n ? out : std::string();
}

const unsigned char* raw(const std::string& bytes) { return reinterpret_cast<const unsigned char*>(bytes.data()); }

std::string bound(const std::string& purpose, const std::string& bytes) { return purpose + '\n' + bytes; }

constexpr const char* key_format = "optrel-signing-key";

/// Only its owner can read it, from its first byte on.
void write_secret(const fs::path& part, const std::string& text, const fs::path& wanted) {
    const int fd = ::open(part.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
    const bool done = fd >= 0 && ::write(fd, text.data(), text.size()) == static_cast<ssize_t>(text.size());
    if (fd >= 0) ::close(fd);
    if (!done)
        throw file_error(fmt::format("Cannot write {}: look whether its folder may be written and the disk has room.",
                                     printable(wanted.string())));
}

std::string secret_in(const fs::path& path) {
    struct ::stat status = {};
    if (::stat(path.c_str(), &status) == 0 && (status.st_mode & 077) != 0)
        throw input_error(
            fmt::format("Others can read the signing key {}; take that right from them (chmod 600), and make a new key "
                        "if somebody may have read it.",
                        printable(path.string())));
    const std::string where = printable(path.string());
    const json j = parse_json(read_file(path, 1 << 16), where);
    std::string secret;
    if (j.is_object() && j.value("format", "") == key_format && j.contains("secret") && j["secret"].is_string())
        secret = unhex(j["secret"].get<std::string>(), crypto_sign_SECRETKEYBYTES);
    if (secret.empty())
        throw input_error(where +
                          " is no signing key of Optrel; restore it from a copy, or move it away for a new one.");
    return secret;
}

}  // namespace

SigningKey SigningKey::make() {
    begin_sodium();
    SigningKey out;
    out.secret_.resize(crypto_sign_SECRETKEYBYTES);
    std::string open(crypto_sign_PUBLICKEYBYTES, '\0');
    crypto_sign_keypair(reinterpret_cast<unsigned char*>(open.data()),
                        reinterpret_cast<unsigned char*>(out.secret_.data()));
    out.public_ = hex(open);
    return out;
}

SigningKey SigningKey::load_or_make(const fs::path& path) {
    begin_sodium();
    if (std::error_code none; !fs::exists(path, none)) {
        const SigningKey made = make();
        const std::string text =
            json_text({{"format", key_format}, {"format_version", 1}, {"secret", hex(made.secret_)}}, 1) + "\n";
        std::error_code failed;
        fs::create_directories(path.parent_path(), failed);
        try {
            write_atomic_with(
                path, [&](const fs::path& part) { write_secret(part, text, path); }, IfThere::fail);
        } catch (const Error&) {
            // Another program of this user may have made one at this instant.
            if (!fs::exists(path, none)) throw;
        }
    }
    SigningKey out;
    out.secret_ = secret_in(path);
    std::string open(crypto_sign_PUBLICKEYBYTES, '\0');
    crypto_sign_ed25519_sk_to_pk(reinterpret_cast<unsigned char*>(open.data()), raw(out.secret_));
    out.public_ = hex(open);
    return out;
}

std::string SigningKey::sign(const std::string& purpose, const std::string& bytes) const {
    const std::string whole = bound(purpose, bytes);
    std::string signature(crypto_sign_BYTES, '\0');
    crypto_sign_detached(reinterpret_cast<unsigned char*>(signature.data()), nullptr, raw(whole), whole.size(),
                         raw(secret_));
    return hex(signature);
}

std::string SigningKey::mark_of(const std::string& words) const {
    std::string key(crypto_sign_SEEDBYTES, '\0'), mark(crypto_generichash_BYTES_MIN, '\0');
    crypto_sign_ed25519_sk_to_seed(reinterpret_cast<unsigned char*>(key.data()), raw(secret_));
    crypto_generichash(reinterpret_cast<unsigned char*>(mark.data()), mark.size(), raw(words), words.size(), raw(key),
                       key.size());
    return hex(mark).substr(0, 16);
}

bool signed_by(const std::string& public_key, const std::string& purpose, const std::string& bytes,
               const std::string& signature) {
    begin_sodium();
    const std::string key = unhex(public_key, crypto_sign_PUBLICKEYBYTES), given = unhex(signature, crypto_sign_BYTES),
                      whole = bound(purpose, bytes);
    return !key.empty() && !given.empty() &&
           crypto_sign_verify_detached(raw(given), raw(whole), whole.size(), raw(key)) == 0;
}

std::string required_key(const std::string& text) {
    std::string key = lowered(trimmed(text));
    key.erase(std::remove(key.begin(), key.end(), ' '), key.end());
    if (unhex(key, crypto_sign_PUBLICKEYBYTES).empty())
        throw input_error(fmt::format("'{}' is no key: a key has 64 digits 0-9 and a-f; copy it whole.",
                                      printable(text.substr(0, 80))));
    return key;
}

fs::path own_key_path() {
    const char* config = std::getenv("XDG_CONFIG_HOME");
    const char* home = std::getenv("HOME");
    const fs::path base = config && *config ? fs::path(config) : fs::path(home ? home : "/") / ".config";
    return base / "optrel" / "signing-key.json";
}

}  // namespace optrel

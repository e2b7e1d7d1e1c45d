// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/base64.h"

#include <openssl/evp.h>

namespace optrel {

std::string to_base64(const std::vector<unsigned char>& bytes) {
    std::string out(4 * ((bytes.size() + 2) / 3) + 1, '\0');
    const int written =
        EVP_EncodeBlock(reinterpret_cast<unsigned char*>(out.data()), bytes.data(), static_cast<int>(bytes.size()));
    out.resize(static_cast<std::size_t>(written));
    return out;
}

std::optional<std::vector<unsigned char>> from_base64(const std::string& text) {
    if (text.size() % 4 != 0) return std::nullopt;
    std::vector<unsigned char> out(text.size() / 4 * 3);
    const int written =
        EVP_DecodeBlock(out.data(), reinterpret_cast<const unsigned char*>(text.data()), static_cast<int>(text.size()));
    if (written != static_cast<int>(out.size())) return std::nullopt;
    // The library counts padding as bytes.
    for (std::size_t i = text.size(); i > 0 && i + 2 > text.size() && text[i - 1] == '='; --i) out.pop_back();
    return out;
}

}  // namespace optrel

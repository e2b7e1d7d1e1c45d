// SPDX-License-Identifier: GPL-3.0-or-later
// Writing an export under a name that another station may be taking at the same instant.
#pragma once

#include "studio/exporting.h"

namespace optrel {

/// Whatever appears under a name from now on is not ours to replace, unless the delivery says so.
inline Existing existing_for(const Delivery& delivery) {
    return delivery.taken == NameTaken::replace ? Existing::replace_ours : Existing::keep;
}

/// Takes a name and writes under it. Where names are counted, one that appeared meanwhile counts as taken, and the next
/// is tried; otherwise `write`'s error is the answer. So does one that `claim` says is being written by somebody else.
/// Throws as ExportNames::take(), `claim` and `write` do.
inline Exported write_under_free_name(ExportNames& names, const std::filesystem::path& frame,
                                      const FrameDevelopment& facts, const Delivery& delivery, int number,
                                      const std::function<Exported(const std::filesystem::path&)>& write,
                                      const std::function<bool(const std::filesystem::path&)>& claim = {}) {
    for (;;) {
        const std::filesystem::path out = names.take(frame, facts, number);
        if (claim && !claim(out)) continue;
        try {
            return write(out);
        } catch (const Error& error) {
            std::error_code none;
            const bool clash = error.kind() == ErrorKind::file && std::filesystem::exists(out, none);
            if (delivery.taken != NameTaken::number || !clash) throw;
        }
    }
}

}  // namespace optrel

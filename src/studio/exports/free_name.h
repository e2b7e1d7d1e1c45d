// SPDX-License-Identifier: GPL-3.0-or-later
// Writes an export under a name that other stations may choose at the same time.
#pragma once

#include "studio/exports/export_result.h"

namespace optrel {

/// Whether existing files may be replaced, by the delivery.
inline Existing existing_for(const Delivery& delivery) {
    return delivery.taken == NameTaken::replace ? Existing::replace_ours : Existing::keep;
}

/// Chooses a name and writes the file. When the delivery numbers its names, a name that appeared meanwhile counts as
/// taken and the next one is tried; otherwise the error of `write` is passed on. Names that `claim` refuses are skipped
/// as well. Throws as ExportNames::take(), `claim` and `write` do.
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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/measurement_file.h"

#include <fmt/format.h>

#include "base/error.h"

namespace optrel {

Measurement take_in_measurement(Store& store, const MeasurementKind& kind, const std::string& document,
                                OtherSettings others) {
    const std::string proposed = kind.numbered(document, "", 0);
    // A file can claim any origin; only a bundle proves its signature.
    if (kind.read(proposed, "the file").taken_in)
        throw input_error(fmt::format(
            "This {} says that it was taken in from elsewhere, which a file cannot prove; take in the bundle.",
            kind.one));
    for (const Measurement& m : store.measurements().all_versions(kind))
        if (kind.differences(m.document, proposed).empty())
            throw input_error(
                fmt::format("The store has this very {} already, as {} version {}.", kind.one, m.id, m.version));
    return store.measurements().publish(kind, proposed, others);
}

}  // namespace optrel

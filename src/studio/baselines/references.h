// SPDX-License-Identifier: GPL-3.0-or-later
// References in field values: lens profiles and colour files.
#pragma once

#include <vector>

#include "baselines/field.h"
#include "baselines/tier.h"
#include "optics/profile.h"
#include "store/colours.h"

namespace optrel {

class Store;

struct References {
    std::vector<Profile> profiles;  ///< all versions
    std::vector<ColourFile> colours;
};

/// Possible targets for a field; empty for most fields.
References references_for(Field field, const Store& store);

/// Replaces a name in a reference by the id; other values are returned unchanged. Throws Error(input) with similar
/// names.
Value referred(Field field, const Value& value, const References& known);

/// Colour file by name, by the beginning of its hash, or in the form of colour_source. Throws Error(input).
const ColourFile& colour_file_named(const std::vector<ColourFile>& files, const std::string& text);

/// The measurement in the store that "ID@VERSION" names; an id alone names the current version. Throws Error(input) for
/// one that does not exist.
Measurement measurement_named(const Store& store, const std::string& text);

/// Parses a field value as users type it: references by name, everything else as value_from_text(). Throws Error.
Pin pin_named(Field field, const std::string& text, const References& known, const Revision& draft);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// What the values of fields can name in a studio: lens profiles and colour files.
#pragma once

#include <vector>

#include "baselines/field.h"
#include "optics/profile.h"
#include "store/colours.h"

namespace optrel {

class Store;

struct References {
    std::vector<Profile> profiles;  ///< all versions
    std::vector<ColourFile> colours;
};

/// Those that a value of this field can name; none for most fields.
References references_for(Field field, Store& store);

/// The value of a field that refers to something, with what a person wrote for it looked up by name or by id; other
/// values stay as they are. Throws Error(input) that names what is near.
Value referred(Field field, const Value& value, const References& known);

/// A colour file by its name, by the beginning of its hash, or as colour_source has it. Throws Error(input).
const ColourFile& colour_file_named(const std::vector<ColourFile>& files, const std::string& text);

}  // namespace optrel

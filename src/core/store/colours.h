// SPDX-License-Identifier: GPL-3.0-or-later
// Colour files of a studio: ICC input profiles and colour profiles of the DNG specification, identified by their
// contents.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "baselines/field.h"
#include "frames/colour_profile.h"

namespace optrel {

class Engine;

struct ColourFile {
    std::string hash;  ///< SHA-256 of the bytes
    std::string name, camera, contents;
    std::string origin;  ///< where the file came from
    std::string author, time;

    /// Value of the field colour_source that names this file.
    Value value() const { return value_of_colour_file(name, hash); }
};

class StoredColours {
public:
    explicit StoredColours(Engine& engine) : engine_(engine) {}

    /// All files, ordered by name.
    std::vector<ColourFile> all() const;
    /// Adds a colour file; a file with the same bytes is kept as it is. Returns the kept file.
    ColourFile put(const ColourProfile& profile, const std::string& origin, const std::string& author);
    /// Loads the profile that a value of colour_source names; null when the store does not have it. Throws Error(input)
    /// when the stored bytes are damaged.
    std::shared_ptr<const ColourProfile> fetch(const Value& value) const;

private:
    Engine& engine_;
};

}  // namespace optrel

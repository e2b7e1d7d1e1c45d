// SPDX-License-Identifier: GPL-3.0-or-later
// The colour files of a studio: ICC input profiles and colour profiles of the DNG specification, by their contents.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "baselines/field.h"
#include "frames/colour_profile.h"

namespace optrel {

class Engine;

struct ColourFile {
    std::string hash;  ///< SHA-256 of its bytes
    std::string name, camera, contents;
    std::string origin;  ///< where it was taken from
    std::string author, time;

    /// As the field colour_source names it.
    Value value() const { return value_of_colour_file(name, hash); }
};

class StoredColours {
public:
    explicit StoredColours(Engine& engine) : engine_(engine) {}

    /// By name.
    std::vector<ColourFile> all();
    /// Keeps the bytes of a profile; one with the very same bytes stays as it is. Returns it as it is kept.
    ColourFile put(const ColourProfile& profile, const std::string& origin, const std::string& author);
    /// The profile that a value of colour_source names; null when it names a file that is not here. Throws Error(input)
    /// for one whose bytes were damaged in the store.
    std::shared_ptr<const ColourProfile> fetch(const Value& value);

private:
    Engine& engine_;
};

}  // namespace optrel

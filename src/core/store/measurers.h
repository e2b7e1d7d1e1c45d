// SPDX-License-Identifier: GPL-3.0-or-later
// Keys of other studios that signed imported measurements, and whether this studio trusts them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

class Engine;

struct Measurer {
    std::string key;   ///< public key, 64 hexadecimal digits
    std::string name;  ///< name that this studio gave to the owner
    bool trusted = false;
    std::string withdrawn = {};  ///< time of withdrawal by the owner, ISO 8601; empty: valid
    std::string author = {}, time = {};

    Standing standing() const;
    bool operator==(const Measurer&) const = default;
};

class StoredMeasurers {
public:
    explicit StoredMeasurers(Engine& engine) : engine_(engine) {}

    /// All keys, ordered by name.
    std::vector<Measurer> all() const;
    std::optional<Measurer> of(const std::string& key) const;
    /// Adds a key or updates it. A withdrawn key stays withdrawn: trusting it throws Error(input).
    void put(const Measurer& measurer, const std::string& author);
    /// Throws Error(input) for an unknown key, and for a withdrawn one, which must stay known as withdrawn.
    void remove(const std::string& key, const std::string& author);

private:
    Engine& engine_;
};

}  // namespace optrel

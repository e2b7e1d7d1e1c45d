// SPDX-License-Identifier: GPL-3.0-or-later
// Whose measurements a studio knows: the keys that signed what was taken in, and whether they are trusted.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

class Engine;

struct Measurer {
    std::string key;   ///< public half, 64 hexadecimal digits
    std::string name;  ///< as this studio calls them
    bool trusted = false;
    std::string withdrawn = {};  ///< when their owner took the key back, ISO 8601; empty: it holds
    std::string author = {}, time = {};

    Standing standing() const;
    bool operator==(const Measurer&) const = default;
};

class StoredMeasurers {
public:
    explicit StoredMeasurers(Engine& engine) : engine_(engine) {}

    /// By name.
    std::vector<Measurer> all();
    std::optional<Measurer> of(const std::string& key);
    /// Keeps or replaces that of the same key, as said by `author`. A key that was withdrawn stays so, and is never
    /// trusted: Error(input).
    void put(const Measurer& measurer, const std::string& author);
    /// Throws Error(input) where it is not known, and for one that was withdrawn: that outlives everything.
    void remove(const std::string& key, const std::string& author);

private:
    Engine& engine_;
};

}  // namespace optrel

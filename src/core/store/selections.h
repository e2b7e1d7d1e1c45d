// SPDX-License-Identifier: GPL-3.0-or-later
// Named selections of frames: rules, kept as documents.
#pragma once

#include <map>
#include <string>

namespace optrel {

class Engine;

class StoredSelections {
public:
    explicit StoredSelections(Engine& engine) : engine_(engine) {}

    /// Documents by name.
    std::map<std::string, std::string> all() const;
    /// Case does not matter. Throws Error(input) with similar names.
    std::string named(const std::string& name) const;
    /// Adds a selection or replaces the one with the same name. Throws Error(input) for an empty name.
    void put(const std::string& name, const std::string& document);
    /// Throws Error(input) for an unknown name.
    void remove(const std::string& name);

private:
    Engine& engine_;
};

}  // namespace optrel

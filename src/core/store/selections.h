// SPDX-License-Identifier: GPL-3.0-or-later
// Selections of frames that were given a name: their rules, as documents that another part writes and reads.
#pragma once

#include <map>
#include <string>

namespace optrel {

class Engine;

class StoredSelections {
public:
    explicit StoredSelections(Engine& engine) : engine_(engine) {}

    /// Name to document.
    std::map<std::string, std::string> all();
    /// In any case. Throws Error(input) with the nearest names.
    std::string named(const std::string& name);
    /// Replaces that of the same name. Throws Error(input) for an empty name.
    void put(const std::string& name, const std::string& document);
    /// Throws Error(input) where there is none.
    void remove(const std::string& name);

private:
    Engine& engine_;
};

}  // namespace optrel

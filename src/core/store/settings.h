// SPDX-License-Identifier: GPL-3.0-or-later
// What a studio settles for all its stations, by name.
#pragma once

#include <map>
#include <string>

namespace optrel {

class Engine;

class StoredSettings {
public:
    explicit StoredSettings(Engine& engine) : engine_(engine) {}
    std::map<std::string, std::string> all();
    /// Empty where nothing is settled.
    std::string get(const std::string& name);
    /// An empty value takes it out. Throws Error(store) for who may not keep the studio.
    void put(const std::string& name, const std::string& value);

private:
    Engine& engine_;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Settings of a studio, shared by all stations.
#pragma once

#include <map>
#include <string>

namespace optrel {

class Engine;

class StoredSettings {
public:
    explicit StoredSettings(Engine& engine) : engine_(engine) {}
    std::map<std::string, std::string> all() const;
    /// Empty when the setting is not set.
    std::string get(const std::string& name) const;
    /// An empty value removes the setting. Throws Error(store) without the role `keeps`.
    void put(const std::string& name, const std::string& value);

private:
    Engine& engine_;
};

}  // namespace optrel

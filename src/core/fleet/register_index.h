// SPDX-License-Identifier: GPL-3.0-or-later
// Index of unique values in the register (ids, serial numbers, asset tags), for edits of many entries.
#pragma once

#include <string>
#include <unordered_map>

#include "fleet/register.h"

namespace optrel {

/// Maps each serial number (by camera model or lens) and each asset tag to its entry. Bodies and lenses share the tags.
class RegisterIndex {
public:
    RegisterIndex() = default;
    explicit RegisterIndex(const Register& all);

    void put(const Body& body);
    void put(const LensEntry& lens);
    void put(const ModelEntry&) {}
    void take_out(const Body& body);
    void take_out(const LensEntry& lens);
    void take_out(const ModelEntry&) {}

    /// Throws Error(input) when an entry conflicts with the others; see check_entry().
    void check(const Body& body) const;
    void check(const LensEntry& lens) const;
    void check(const ModelEntry& model) const { check_entry(model); }

private:
    using Holders = std::unordered_map<std::string, std::string>;  ///< unique value to the id of its entry
    Holders body_numbers_, lens_numbers_, tags_;
};

}  // namespace optrel

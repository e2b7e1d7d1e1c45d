// SPDX-License-Identifier: GPL-3.0-or-later
// The register by what must be told apart: ids, serial numbers, asset tags. For edits of many entries at once.
#pragma once

#include <string>
#include <unordered_map>

#include "fleet/register.h"

namespace optrel {

/// Knows which id holds each serial number (of a camera model, or of a lens) and each asset tag. Bodies and lenses
/// share the tags, since a tag is stuck on one thing.
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

    /// Throws Error(input) when an entry cannot stand beside the others, as check_entry() does.
    void check(const Body& body) const;
    void check(const LensEntry& lens) const;
    void check(const ModelEntry& model) const { check_entry(model); }

private:
    using Holders = std::unordered_map<std::string, std::string>;  ///< what is held, to the id that holds it
    Holders body_numbers_, lens_numbers_, tags_;
};

}  // namespace optrel

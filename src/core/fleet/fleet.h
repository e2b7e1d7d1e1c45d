// SPDX-License-Identifier: GPL-3.0-or-later
// Determines the body and the lens of a frame, and how certain that is.
#pragma once

#include <memory>
#include <set>
#include <unordered_map>

#include "fleet/claims.h"
#include "fleet/register.h"

namespace optrel {

/// The body of a frame. Known: by a serial number in the register or in a claim, or by a claim for its folder, its time
/// or the frame itself. Assumed: the file has no serial number, no file of that model has one, and the fleet has
/// exactly one body of the model.
struct BodyAnswer {
    enum class Knowledge { unknown, assumed, known } knowledge = Knowledge::unknown;
    std::string id;
    std::string why;  ///< reason, as text
    bool claimed = false;
};
std::string to_string(BodyAnswer::Knowledge knowledge);

/// The lens of a frame. The text is the register's when a claim assigns the frame to an entry, otherwise the reported
/// one.
struct LensAnswer {
    std::string lens;  ///< model text; empty: unknown
    std::string serial;
    std::string
        id;  ///< id of the register's entry, or reported text and number; empty when the individual lens is unknown
    double focal_mm = 0;  ///< 0: as recorded; also for the fields below
    double aperture = 0;
    std::string why;
    bool claimed = false;
    bool registered = false;  ///< the register contains this lens
};

/// Index of a register and its claims. Thread-safe for reading.
class Fleet {
public:
    Fleet() = default;
    Fleet(const Fleet&) = delete;
    Fleet& operator=(const Fleet&) = delete;
    /// `numbering`: cameras whose files normally contain a serial number. When such a file has none, it was edited or
    /// comes from another body, so no body is assumed.
    Fleet(Register entries, std::vector<Claim> claims, std::set<std::string> numbering = {});

    const Register& entries() const { return register_; }
    const std::vector<Claim>& claims() const { return claims_; }
    const std::set<std::string>& numbering() const { return numbering_; }
    const Body* body(const std::string& id) const;
    const LensEntry* lens(const std::string& id) const;
    const ModelEntry* model(const std::string& id) const { return register_.model(id); }
    const Claim* claim(const std::string& id) const;

    BodyAnswer body_of(const std::filesystem::path& path, const Metadata& metadata) const;
    LensAnswer lens_of(const std::filesystem::path& path, const Metadata& metadata, const std::string& body) const;

private:
    Register register_;
    std::vector<Claim> claims_;
    std::set<std::string> numbering_;
    std::unordered_map<std::string, std::size_t> body_at_, lens_at_;  ///< by id
    std::unordered_map<std::string, std::string> body_of_number_;     ///< camera \n number
    std::unordered_map<std::string, std::vector<std::string>> bodies_of_model_;
    std::unordered_map<std::string, std::string> lens_of_number_;  ///< canonical text \n number
    std::unordered_map<std::string, std::string> lens_texts_;      ///< canonical text to the register's
    std::vector<const Claim*> body_claims_, lens_claims_;          ///< by priority, then newest first
    std::unordered_map<std::string, std::vector<const Claim*>> numbered_body_claims_;  ///< by number
};

/// Metadata with the known lens in place of the recorded one.
Metadata with_lens(const Metadata& metadata, const LensAnswer& lens);

}  // namespace optrel

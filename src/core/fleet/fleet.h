// SPDX-License-Identifier: GPL-3.0-or-later
// Which body and which lens a frame was taken with, and how that is known.
#pragma once

#include <memory>
#include <set>
#include <unordered_map>

#include "fleet/claims.h"
#include "fleet/register.h"

namespace optrel {

/// Which body took a frame. Known: by a number that the register or a claim ties to a body, or by a claim of its
/// folder, its time or of the frame itself. Assumed: the file reports no number, no file of the model does, and the
/// fleet has one body of it.
struct BodyAnswer {
    enum class Knowledge { unknown, assumed, known } knowledge = Knowledge::unknown;
    std::string id;
    std::string why;  ///< in words
    bool claimed = false;
};
std::string to_string(BodyAnswer::Knowledge knowledge);

/// Which lens. The text is the register's where a claim ties the frame to an entry, else as reported.
struct LensAnswer {
    std::string lens;  ///< model text; empty: unknown
    std::string serial;
    std::string id;       ///< of the register's entry, or text/serial as reported; empty when the copy is not known
    double focal_mm = 0;  ///< 0: as recorded, here and below
    double aperture = 0;
    std::string why;
    bool claimed = false;
    bool registered = false;  ///< the register has an entry of this lens
};

/// A register with its claims, indexed. Reading is thread-safe.
class Fleet {
public:
    Fleet() = default;
    Fleet(const Fleet&) = delete;
    Fleet& operator=(const Fleet&) = delete;
    /// `numbering`: cameras whose files report a serial number. When such a file reports none, it was altered or comes
    /// from another body, so no body is assumed for it.
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
    std::vector<const Claim*> body_claims_, lens_claims_;          ///< weightiest first, then newest
    std::unordered_map<std::string, std::vector<const Claim*>> numbered_body_claims_;  ///< by number
};

/// The metadata with the lens that the frame is known to have.
Metadata with_lens(const Metadata& metadata, const LensAnswer& lens);

}  // namespace optrel

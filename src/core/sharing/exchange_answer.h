// SPDX-License-Identifier: GPL-3.0-or-later
// Messages of a profile exchange, for client and server. Requests: docs/exchange.md.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// Entry of a profile in an exchange.
struct ExchangeEntry {
    std::string id;  ///< SHA-256 of the bundle
    std::string key, measurer;
    std::string lens;
    std::string copy;  ///< pseudonym of the individual lens
    std::string camera;
    PictureGeometry geometry;
    double focal_min = 0, focal_max = 0;  ///< mm; 0: not known
    int settings = 0, frames = 0, corners = 0;
    double rms_px = 0;           ///< RMS of the worst lens setting
    double held_out_rms_px = 0;  ///< the same for frames that were not used in the solve
    double max_sigma_px = 0, coverage = 0;
    bool falloff = false;
    std::string measured;  ///< date
    /// Deviation from other copies of this lens at the requested setting: RMS in px from their mean, one sigma of it,
    /// and the number of copies. Empty: no other copies.
    struct Agreement {
        int others = 0;
        double from_others_px = 0, sigma_px = 0;
        bool operator==(const Agreement&) const = default;
    };
    std::optional<Agreement> agreement;
};

/// Search criteria; empty criteria match everything.
struct ExchangeQuestion {
    std::string lens;             ///< words that must all occur
    double half_diagonal_mm = 0;  ///< minimum sensor size that the profile covers
    LensSetting setting;          ///< setting inside the measured range
    double most_rms_px = 0;       ///< maximum error
    int page = 1;
};

struct ExchangePage {
    int total = 0, page = 1, pages = 1;
    std::vector<ExchangeEntry> entries;
};

/// Entry for a profile. The caller fills in `id`, `key` and `measurer`.
ExchangeEntry entry_of(const Profile& profile);

std::string entry_to_json(const ExchangeEntry& entry);
std::string page_to_json(const ExchangePage& page);
/// Throws Error(input) for an invalid answer or impossible figures.
ExchangePage page_from_json(const std::string& text, const std::string& where);

/// Withdrawal of a key by its owner, signed with the key itself, so that nobody else can create it.
struct Withdrawal {
    std::string key, time, reason, signature;
};
Withdrawal withdraw_key(const class SigningKey& key, const std::string& reason);
bool holds(const Withdrawal& withdrawal);
std::string withdrawal_to_json(const Withdrawal& withdrawal);
/// Throws Error(input), also when the signature is not by that key.
Withdrawal withdrawal_from_json(const std::string& text, const std::string& where);

}  // namespace optrel

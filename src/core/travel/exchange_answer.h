// SPDX-License-Identifier: GPL-3.0-or-later
// What a profile exchange says of the profiles that it has, as both sides of the wire know it. docs/exchange.md
// describes the requests.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// One profile of an exchange.
struct ExchangeEntry {
    std::string id;  ///< SHA-256 of its bundle
    std::string key, measurer;
    std::string lens;
    std::string copy;  ///< a mark that tells copies apart, and says nothing else
    std::string camera;
    PictureGeometry geometry;
    double focal_min = 0, focal_max = 0;  ///< mm; 0: not known
    int settings = 0, frames = 0, corners = 0;
    double rms_px = 0;           ///< the worst of its lens settings
    double held_out_rms_px = 0;  ///< the same, on frames that the solve did not see
    double max_sigma_px = 0, coverage = 0;
    bool falloff = false;
    std::string measured;  ///< day
    /// How it lies to the other copies of this lens, at the setting asked for: RMS px from their mean, one sigma of
    /// that, and how many they are. Empty: there are none.
    struct Agreement {
        int others = 0;
        double from_others_px = 0, sigma_px = 0;
        bool operator==(const Agreement&) const = default;
    };
    std::optional<Agreement> agreement;
};

/// What to look for. What is not said does not narrow.
struct ExchangeQuestion {
    std::string lens;             ///< all its words have to occur
    double half_diagonal_mm = 0;  ///< of the sensor: profiles that reach at least as far
    LensSetting setting;          ///< within what was measured
    double most_rms_px = 0;       ///< quality: no worse than this
    int page = 1;
};

struct ExchangePage {
    int total = 0, page = 1, pages = 1;
    std::vector<ExchangeEntry> entries;
};

/// What a profile says of itself. `id`, `key` and `measurer` are not its own.
ExchangeEntry entry_of(const Profile& profile);

std::string entry_to_json(const ExchangeEntry& entry);
std::string page_to_json(const ExchangePage& page);
/// Throws Error(input), in one sentence, for whatever is no such answer, or holds figures that cannot be.
ExchangePage page_from_json(const std::string& text, const std::string& where);

/// That the owner of a key takes it back: signed with the key itself, so that nobody else can say it.
struct Withdrawal {
    std::string key, time, reason, signature;
};
Withdrawal withdraw_key(const class SigningKey& key, const std::string& reason);
bool holds(const Withdrawal& withdrawal);
std::string withdrawal_to_json(const Withdrawal& withdrawal);
/// Throws Error(input), also for one that its key did not sign.
Withdrawal withdrawal_from_json(const std::string& text, const std::string& where);

}  // namespace optrel

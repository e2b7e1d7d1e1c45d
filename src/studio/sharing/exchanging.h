// SPDX-License-Identifier: GPL-3.0-or-later
// A studio and a profile exchange: search, import and publish.
//
// Nothing is requested or sent until the user has configured an address and asks for it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "frames/metadata.h"
#include "optics/copy_spread.h"
#include "sharing/exchange_client.h"
#include "store/store.h"
#include "studio/sharing/unpacking.h"

namespace optrel {

/// Configured exchange; empty: none.
std::string exchange_of(const Store& store);
/// An empty text removes it. Throws Error(input) for an invalid address.
void settle_exchange(Store& store, const std::string& address);

/// Search for a frame or lens without a profile: its lens, sensor size and lens setting.
ExchangeQuestion question_for(const Metadata& frame, const PictureGeometry& geometry);

/// A profile of an exchange, as this studio sees it.
struct ExchangeCandidate {
    ExchangeEntry entry;
    Standing standing = Standing::unknown;
    std::string measurer;  ///< name of the owner in this studio, otherwise the owner's own name
    /// Grade after an import: "same model" for a trusted owner, otherwise "stand-in".
    std::string worth() const { return standing == Standing::trusted ? "same model" : "stand-in"; }
};
struct ExchangeAnswer {
    std::string address;
    ExchangeQuestion question;
    std::vector<ExchangeCandidate> candidates;
    int total = 0;
};
ExchangeAnswer ask_exchange(const Store& store, const std::string& address, const ExchangeQuestion& question,
                            const Progress& progress);

/// Spread of one lens model: downloads up to twelve copies of the same lens from an answer and compares them locally.
struct ModelConsensus {
    std::string lens;
    PictureGeometry geometry;  ///< picture for the figures in px
    LensSetting setting;
    std::vector<std::string> copies;  ///< label of each copy, for example "Shore Museum, copy-3f2a..."
    CopySpread spread;
    /// Meaning for a copy that was not measured, in two or three sentences.
    std::vector<std::string> sentences() const;
};
/// Empty with fewer than two comparable copies.
std::optional<ModelConsensus> consensus_of(const ExchangeAnswer& answer, const Progress& progress);

/// Downloads a profile and views it like a bundle. Throws Error(input) when it differs from the exchange's description.
/// `key`: expected owner; empty: any.
BundleView fetch_candidate(const Store& store, const std::string& address, const std::string& id,
                           const std::string& key, const Progress& progress);

/// What would be published of a profile.
struct ExchangeOffer {
    Profile profile;
    std::string bundle;  ///< bytes to be sent
    std::string shown;   ///< the same as text
};
/// `measurer`: public name of the studio; may be empty.
ExchangeOffer offer_of(const Profile& profile, const std::string& measurer, const SigningKey& key);
/// Publishes it; returns its id.
std::string send_offer(const std::string& address, const ExchangeOffer& offer, const Progress& progress);

/// Asks for withdrawals of known keys and saves them. Returns one sentence for each new withdrawal.
std::vector<std::string> learn_withdrawn(Store& store, const std::string& address, const std::string& author,
                                         const Progress& progress);

}  // namespace optrel

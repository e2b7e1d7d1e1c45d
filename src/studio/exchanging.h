// SPDX-License-Identifier: GPL-3.0-or-later
// The studio and a profile exchange: looking for what others measured, taking it in, and giving what was measured here.
//
// Nothing is asked or sent before somebody settles an address and asks for it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "frames/metadata.h"
#include "optics/copy_spread.h"
#include "store/store.h"
#include "studio/unpacking.h"
#include "travel/exchange_client.h"

namespace optrel {

/// The exchange that this studio asks; empty: none is settled.
std::string exchange_of(Store& store);
/// Empty takes it out. Throws Error(input) for what is no address.
void settle_exchange(Store& store, const std::string& address);

/// What to look for when a frame or a lens has no profile: its lens, a sensor as large, its lens setting.
ExchangeQuestion question_for(const Metadata& frame, const PictureGeometry& geometry);

/// A profile of an exchange, as this studio sees it.
struct ExchangeCandidate {
    ExchangeEntry entry;
    Standing standing = Standing::unknown;
    std::string measurer;  ///< as this studio calls them, or else as they call themselves
    /// "same model" where its measurer is trusted, else "stand-in": what it can be taken in as.
    std::string worth() const { return standing == Standing::trusted ? "same model" : "stand-in"; }
};
struct ExchangeAnswer {
    std::string address;
    ExchangeQuestion question;
    std::vector<ExchangeCandidate> candidates;
    int total = 0;
};
ExchangeAnswer ask_exchange(Store& store, const std::string& address, const ExchangeQuestion& question,
                            const Progress& progress);

/// What several measured of one lens: fetches the copies of an answer that are of the lens of its first, one of each
/// copy and at most twelve, and computes how they differ, here and not at the exchange.
struct ModelConsensus {
    std::string lens;
    PictureGeometry geometry;  ///< that the figures in px are of
    LensSetting setting;
    std::vector<std::string> copies;  ///< "Shore Museum, copy-3f2a...", beside the figures of each
    CopySpread spread;
    /// What it means for a copy that was not measured, in two or three sentences.
    std::vector<std::string> sentences() const;
};
/// Empty when fewer than two copies can be compared.
std::optional<ModelConsensus> consensus_of(const ExchangeAnswer& answer, const Progress& progress);

/// Fetches one, and looks at it as at any bundle. Throws Error(input) when it is not what the exchange said it is.
/// `key`: who the exchange said measured it; empty: it said nothing.
BundleView fetch_candidate(Store& store, const std::string& address, const std::string& id, const std::string& key,
                           const Progress& progress);

/// What would be sent of a profile.
struct ExchangeOffer {
    Profile profile;
    std::string bundle;  ///< the bytes
    std::string shown;   ///< all that is in them, as text
};
/// `measurer`: as the studio wants to be called there; may be empty.
ExchangeOffer offer_of(const Profile& profile, const std::string& measurer, const SigningKey& key);
/// Sends it; returns the id there.
std::string send_offer(const std::string& address, const ExchangeOffer& offer, const Progress& progress);

/// Asks which of the keys that this studio met were withdrawn, and keeps that. A sentence for each that is news.
std::vector<std::string> learn_withdrawn(Store& store, const std::string& address, const std::string& author,
                                         const Progress& progress);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The store of a studio: one handle for everything that is kept, by subject.
//
// Addresses: a folder, postgresql://USER@HOST/NAME for a server, or a name that the user defined (studio_names.h). A
// handle belongs to the thread that opened it and refuses calls from others; source() can be copied to any thread,
// where a worker opens its own handle. Each call writes in one transaction; Transaction joins several calls into one.
// Errors are Error(store) with one sentence: locked, read-only, damaged, or written by a newer version.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <string>

#include "rollout/rollout_store.h"
#include "store/access.h"
#include "store/baselines.h"
#include "store/body_runs.h"
#include "store/colours.h"
#include "store/deliveries.h"
#include "store/exports.h"
#include "store/film_rules.h"
#include "store/found_bundles.h"
#include "store/frames.h"
#include "store/history.h"
#include "store/hold.h"
#include "store/intake.h"
#include "store/measurements.h"
#include "store/measurers.h"
#include "store/people.h"
#include "store/profiles.h"
#include "store/proposals.h"
#include "store/queue.h"
#include "store/register.h"
#include "store/roots.h"
#include "store/runs.h"
#include "store/selections.h"
#include "store/settings.h"
#include "store/stations.h"
#include "store/transaction.h"

class QObject;

namespace optrel {

class Engine;
class Store;

/// Address of a store, with which a worker opens its own handle.
class StoreSource {
public:
    explicit StoreSource(std::string address) : address_(std::move(address)) {}
    const std::string& address() const { return address_; }
    /// Nothing of what this returns can write, and the engine refuses every change, too.
    std::unique_ptr<const Store> open_for_reading() const;
    /// For tasks that change the store.
    Store open_for_writing() const;

private:
    std::string address_;
};

class Store {
public:
    /// Throws as the engine does, and Error(input) for an unknown kind of address.
    explicit Store(const std::string& address, Access access = Access::write);
    ~Store();
    Store(const Store&) = delete;
    Store& operator=(const Store&) = delete;

    const StoreSource& source() const { return source_; }
    /// False when the store was opened read-only.
    bool writable() const;

    StoredFrames& frames() { return frames_; }
    const StoredFrames& frames() const { return frames_; }
    StoredRegister& registry() { return register_; }
    const StoredRegister& registry() const { return register_; }
    StoredMeasurements& measurements() { return measurements_; }
    const StoredMeasurements& measurements() const { return measurements_; }
    StoredProfiles& profiles() { return profiles_; }
    const StoredProfiles& profiles() const { return profiles_; }
    StoredBaselines& baselines() { return baselines_; }
    const StoredBaselines& baselines() const { return baselines_; }
    StoredRuns& runs() { return runs_; }
    const StoredRuns& runs() const { return runs_; }
    StoredBodyRuns& body_runs() { return body_runs_; }
    const StoredBodyRuns& body_runs() const { return body_runs_; }
    StoredDeliveries& deliveries() { return deliveries_; }
    const StoredDeliveries& deliveries() const { return deliveries_; }
    StoredExports& exports() { return exports_; }
    const StoredExports& exports() const { return exports_; }
    StoredColours& colours() { return colours_; }
    const StoredColours& colours() const { return colours_; }
    StoredFilmRules& film_rules() { return film_rules_; }
    const StoredFilmRules& film_rules() const { return film_rules_; }
    StoredIntake& intake() { return intake_; }
    const StoredIntake& intake() const { return intake_; }
    StoredSelections& selections() { return selections_; }
    const StoredSelections& selections() const { return selections_; }
    StoredHistory& history() { return history_; }
    const StoredHistory& history() const { return history_; }
    StoredSettings& settings() { return settings_; }
    const StoredSettings& settings() const { return settings_; }
    StoredRoots& roots() { return roots_; }
    const StoredRoots& roots() const { return roots_; }
    StoredQueue& queue() { return queue_; }
    const StoredQueue& queue() const { return queue_; }
    StoredProposals& proposals() { return proposals_; }
    const StoredProposals& proposals() const { return proposals_; }
    StoredMeasurers& measurers() { return measurers_; }
    const StoredMeasurers& measurers() const { return measurers_; }
    StoredFoundBundles& found_bundles() { return found_bundles_; }
    const StoredFoundBundles& found_bundles() const { return found_bundles_; }
    StoredStations& stations() { return stations_; }
    const StoredStations& stations() const { return stations_; }
    /// Converts between a path at this station and the path that the store keeps for all stations (roots.h).
    std::string kept(const std::filesystem::path& path) const;
    std::filesystem::path here(const std::string& kept) const;
    /// Users of the store; null for a store in a folder, which has none.
    StorePeople* people();
    const StorePeople* people() const;
    /// Reads the roots of this station again, after another program changed them.
    void read_roots();
    RolloutStore& rollouts();
    const RolloutStore& rollouts() const;
    Engine& engine() { return *engine_; }
    /// Takes an exclusive role ("intake") for this program; null when another program has it.
    std::unique_ptr<StoreHold> hold(const std::string& name);
    /// Calls `told` in this thread's event loop, while `context` lives, after any station has written. Returns false
    /// when the engine cannot notify; then poll stamps().
    bool listen(QObject& context, std::function<void()> told);
    /// Allows a listening connection that was lost to reconnect, since another connection has reached the server.
    void reachable_again();
    /// Published records that cannot be read and are therefore left out of what the parts return.
    std::vector<DamagedRecord> damaged_records() const;
    /// Current time in the format of utc_now(), by the store's clock, which all stations share.
    std::string now() const;

    /// Change counters of the parts (frames, fleet, draft, baselines, profiles), to detect changes by other stations.
    std::map<std::string, long long> stamps() const;

private:
    StoreSource source_;
    std::unique_ptr<Engine> engine_;
    StoredFrames frames_{*engine_};
    StoredBaselines baselines_{*engine_};
    StoredRegister register_{*engine_, baselines_};
    StoredMeasurements measurements_{*engine_};
    StoredProfiles profiles_{*engine_};
    StoredRuns runs_{*engine_};
    StoredBodyRuns body_runs_{*engine_};
    StoredDeliveries deliveries_{*engine_};
    StoredExports exports_{*engine_};
    StoredColours colours_{*engine_};
    StoredFilmRules film_rules_{*engine_};
    StoredIntake intake_{*engine_};
    StoredSelections selections_{*engine_};
    StoredHistory history_{*engine_};
    StoredSettings settings_{*engine_};
    StoredRoots roots_{*engine_};
    StoredQueue queue_{*engine_};
    StoredProposals proposals_{*engine_};
    StoredMeasurers measurers_{*engine_};
    StoredFoundBundles found_bundles_{*engine_};
    StoredStations stations_{*engine_};
};

/// Whether a folder contains a store.
bool store_exists(const std::string& folder);
/// Whether an address names a server, not a folder.
bool is_server_address(const std::string& address);
/// User name in a server address; empty when there is none, or for a folder. Throws Error(input) for an invalid
/// address.
std::string user_in(const std::string& address);
/// Default address: the folder optrel in the user's data directory.
std::string default_store_address();

}  // namespace optrel

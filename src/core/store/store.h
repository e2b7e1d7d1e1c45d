// SPDX-License-Identifier: GPL-3.0-or-later
// The store of a studio: one handle to all that is kept, by subject.
//
// A store is opened by its address: a folder, postgresql://USER@HOST/NAME
// for one on a server, or a name that the user gave to one of these (studio_names.h). A handle belongs to
// the thread that opened it, and refuses any other; a worker opens one of its own by source(), which may be copied to
// any thread. All writes of one call are one transaction, and Transaction joins several calls to one. Errors are
// Error(store), one sentence: locked, read-only, damaged, or written by a newer version.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <string>

#include "rollout/shelf.h"
#include "store/access.h"
#include "store/baselines.h"
#include "store/colours.h"
#include "store/deliveries.h"
#include "store/exports.h"
#include "store/film_rules.h"
#include "store/found_bundles.h"
#include "store/frames.h"
#include "store/history.h"
#include "store/hold.h"
#include "store/intake.h"
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

/// Where a store is: what a worker takes along to open its own handle.
class StoreSource {
public:
    explicit StoreSource(std::string address) : address_(std::move(address)) {}
    const std::string& address() const { return address_; }
    Store open(Access access = Access::write) const;

private:
    std::string address_;
};

class Store {
public:
    /// Throws as the engine of the address does, and Error(input) for an address of a kind that this version does not
    /// know.
    explicit Store(const std::string& address, Access access = Access::write);
    ~Store();
    Store(const Store&) = delete;
    Store& operator=(const Store&) = delete;

    const StoreSource& source() const { return source_; }
    /// False when it was opened to be read where nothing can be written.
    bool writable() const;

    StoredFrames& frames() { return frames_; }
    StoredRegister& registry() { return register_; }
    StoredProfiles& profiles() { return profiles_; }
    StoredBaselines& baselines() { return baselines_; }
    StoredRuns& runs() { return runs_; }
    StoredDeliveries& deliveries() { return deliveries_; }
    StoredExports& exports() { return exports_; }
    StoredColours& colours() { return colours_; }
    StoredFilmRules& film_rules() { return film_rules_; }
    StoredIntake& intake() { return intake_; }
    StoredSelections& selections() { return selections_; }
    StoredHistory& history() { return history_; }
    StoredSettings& settings() { return settings_; }
    StoredRoots& roots() { return roots_; }
    StoredQueue& queue() { return queue_; }
    StoredProposals& proposals() { return proposals_; }
    StoredMeasurers& measurers() { return measurers_; }
    StoredFoundBundles& found_bundles() { return found_bundles_; }
    StoredStations& stations() { return stations_; }
    /// A path as it is kept for all stations, and back as this one sees it (roots.h).
    std::string kept(const std::filesystem::path& path) const;
    std::filesystem::path here(const std::string& kept) const;
    /// The people that it knows; none for a store in a folder, which is everybody's who may write the folder.
    StorePeople* people();
    /// Another program of this station has placed roots.
    void read_roots();
    RolloutShelf& rollouts();
    Engine& engine() { return *engine_; }
    /// What `name` stands for ("intake"), for this program alone; nothing when another one has it.
    std::unique_ptr<StoreHold> hold(const std::string& name);
    /// Calls back in this thread's event loop, as long as `context` lives, when any station has written. False: this
    /// store cannot tell, and is to be asked (stamps()).
    bool listen(QObject& context, std::function<void()> told);
    /// Where the connection of one that listens was lost: it may be opened again, since another one could be.
    void reachable_again();
    /// Now, as utc_now() writes it, by the one clock that all stations have.
    std::string now();

    /// How often each part was written: frames, fleet, draft, baselines, profiles. Tells what another station has
    /// changed meanwhile.
    std::map<std::string, long long> stamps();

private:
    StoreSource source_;
    std::unique_ptr<Engine> engine_;
    StoredFrames frames_{*engine_};
    StoredBaselines baselines_{*engine_};
    StoredRegister register_{*engine_, baselines_};
    StoredProfiles profiles_{*engine_};
    StoredRuns runs_{*engine_};
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

/// Whether there is a store in a folder.
bool store_exists(const std::string& folder);
/// Whether an address is one of a server, not a folder.
bool is_server_address(const std::string& address);
/// Whom an address of a server names; empty when it names nobody, or is a folder. Throws Error(input) when it is none.
std::string user_in(const std::string& address);
/// Where the store is when nobody says: optrel below the user's data directory.
std::string default_store_address();

}  // namespace optrel

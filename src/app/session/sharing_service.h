// SPDX-License-Identifier: GPL-3.0-or-later
// What comes from elsewhere and what goes there: bundles, the profile exchange, and whose word counts.
#pragma once

#include <QObject>
#include <QTemporaryDir>
#include <functional>
#include <vector>

#include "session/session_part.h"
#include "studio/sharing/exchanging.h"
#include "studio/sharing/packing.h"

namespace optrel {

class Jobs;

class SharingService : public SessionPart {
    Q_OBJECT
public:
    SharingService(Store& store, Messages& messages, Jobs& jobs);

    /// Bundles that lie in folders of frames and wait for a person.
    const std::vector<FoundBundle>& found() const { return found_; }
    /// Somebody looked at it and does not want it.
    void put_aside(const std::filesystem::path& path);

    // Work that takes its time runs off the window's thread; `done` is called when it went well.

    /// Looks at the bundle of a file. One that lay in a folder and is gone is not offered any more. One that says that
    /// it unpacks to more than `most` bytes is not unpacked, and `larger` is called with what it says.
    void look_at(const std::filesystem::path& path, std::uint64_t most,
                 const std::function<void(const BundleView&)>& done,
                 const std::function<void(std::uint64_t bytes)>& larger);
    /// Takes parts of one in, and says what came of it. `from`: the file, where it lay in a folder.
    void take(const BundleView& view, const BundleChoice& choice, const std::filesystem::path& from = {});
    /// Packs, signs and writes a bundle, and says so.
    void pack(const PackingList& list, const BundleLabel& label, bool sign, const std::filesystem::path& out);

    /// The same at once, for a row that is dragged to another program: where it lies, until the program ends. Empty,
    /// and told, where it cannot be packed.
    std::filesystem::path packed_to_drag(const PackingList& list, const std::string& title);

    /// The exchange that this studio asks; empty: none.
    std::string exchange() const { return exchange_; }
    /// Throws as settle_exchange() does.
    void settle_exchange(const std::string& address);
    void ask(const ExchangeQuestion& question, const std::function<void(const ExchangeAnswer&)>& done);
    void compare(const ExchangeAnswer& answer, const std::function<void(const std::optional<ModelConsensus>&)>& done);
    void fetch(const ExchangeEntry& entry, const std::function<void(const BundleView&)>& done);
    void send(const ExchangeOffer& offer);
    /// Ends what is under way.
    void cancel();

    /// Throw as the store does.
    std::vector<Measurer> measurers() { return store_.measurers().all(); }
    void put_measurer(const Measurer& measurer);
    void forget_measurer(const std::string& key);
    /// Asks the exchange which keys were withdrawn.
    void check_keys();

    void reload();

signals:
    /// Profiles, entries or the draft are other ones now.
    void taken();

private:
    Jobs& jobs_;
    std::vector<FoundBundle> found_;
    std::string exchange_;
    std::unique_ptr<QTemporaryDir> dragged_;
};

}  // namespace optrel

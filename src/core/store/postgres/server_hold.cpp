// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/postgres/server_hold.h"

#include <condition_variable>
#include <mutex>
#include <thread>

#include "base/error.h"
#include "base/station.h"
#include "rollout/lease_length.h"
#include "store/engine.h"
#include "store/postgres/server_lease.h"

namespace optrel::postgres {
namespace {

/// Connection and lease belong to this thread, because a connection belongs to one thread.
class ServerHold final : public StoreHold {
public:
    ServerHold(std::function<std::unique_ptr<Engine>()> open, const std::string& name) {
        thread_ = std::thread([this, open = std::move(open), name] { keep(open, name); });
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [this] { return begun_; });
        if (!failed_) return;
        lock.unlock();
        thread_.join();
        std::rethrow_exception(failed_);
    }
    ~ServerHold() override {
        {
            const std::lock_guard lock(mutex_);
            over_ = true;
        }
        changed_.notify_all();
        thread_.join();
    }
    bool held() const override {
        const std::lock_guard lock(mutex_);
        return lease_ && lease_->valid();
    }

private:
    void keep(const std::function<std::unique_ptr<Engine>()>& open, const std::string& name) {
        std::unique_ptr<Engine> engine;
        std::optional<ServerLease> own;
        try {
            engine = open();
            Transaction transaction(*engine, "leases");
            if (ServerLease::of_others(*engine, name).empty())
                own.emplace(*engine, name, current_author() + " at " + this_station(), "");
            transaction.commit();
        } catch (...) {
            failed_ = std::current_exception();
        }
        std::unique_lock lock(mutex_);
        if (own) lease_ = &*own;
        begun_ = true;
        changed_.notify_all();
        while (lease_ && !over_) {
            changed_.wait_for(lock, lease_length() / 5);
            if (over_) break;
            lock.unlock();
            const bool lost = own->ask() == RolloutStore::Lease::Standing::lost;
            lock.lock();
            if (lost) lease_ = nullptr;
        }
        const bool ours = lease_ != nullptr;
        lease_ = nullptr;
        lock.unlock();
        if (ours) own->give_back();
    }

    mutable std::mutex mutex_;
    std::condition_variable changed_;
    bool begun_ = false, over_ = false;
    std::exception_ptr failed_;
    const ServerLease* lease_ = nullptr;  ///< while the role is held
    std::thread thread_;
};

}  // namespace

std::unique_ptr<StoreHold> hold_on_server(std::function<std::unique_ptr<Engine>()> open, const std::string& name) {
    auto hold = std::make_unique<ServerHold>(std::move(open), name);
    if (!hold->held()) return nullptr;
    return hold;
}

}  // namespace optrel::postgres

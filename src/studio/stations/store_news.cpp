// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/stations/store_news.h"

#include <QCoreApplication>
#include <QObject>
#include <chrono>
#include <thread>

namespace optrel {

struct StoreNews::Listener {
    explicit Listener(const StoreSource& source) : store(source.address(), Access::read) {
        tells = store.listen(context, [this] { told = true; });
    }
    Store store;
    QObject context;
    bool tells = false, told = false;
};

StoreNews::StoreNews(const StoreSource& source) : listener_(std::make_unique<Listener>(source)) {}

StoreNews::~StoreNews() = default;

void StoreNews::wait(Progress& progress) {
    using namespace std::chrono_literals;
    const auto until = std::chrono::steady_clock::now() + (listener_->tells ? 5s : 1s);
    for (listener_->told = false; !listener_->told && std::chrono::steady_clock::now() < until;) {
        progress.check();
        QCoreApplication::processEvents();
        std::this_thread::sleep_for(50ms);
    }
    if (!listener_->tells || listener_->told) return;
    try {
        // A lost connection receives no notifications until it is reopened.
        listener_->store.reachable_again();
        listener_->store.stamps();
    } catch (const Error&) {
        // The server cannot be reached; the next wait tries again.
    }
}

}  // namespace optrel

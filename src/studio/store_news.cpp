// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/store_news.h"

#include <QCoreApplication>
#include <QObject>
#include <chrono>
#include <thread>

namespace optrel {

struct StoreNews::Ears {
    explicit Ears(const StoreSource& source) : store(source.address(), Access::read) {
        tells = store.listen(context, [this] { told = true; });
    }
    Store store;
    QObject context;
    bool tells = false, told = false;
};

StoreNews::StoreNews(const StoreSource& source) : ears_(std::make_unique<Ears>(source)) {}

StoreNews::~StoreNews() = default;

void StoreNews::wait(Progress& progress) {
    using namespace std::chrono_literals;
    const auto until = std::chrono::steady_clock::now() + (ears_->tells ? 5s : 1s);
    for (ears_->told = false; !ears_->told && std::chrono::steady_clock::now() < until;) {
        progress.check();
        QCoreApplication::processEvents();
        std::this_thread::sleep_for(50ms);
    }
    if (!ears_->tells || ears_->told) return;
    try {
        // A connection that was lost meanwhile hears nothing until it is opened again.
        ears_->store.reachable_again();
        ears_->store.stamps();
    } catch (const Error&) {
        // Its server is away; the next wait tries again.
    }
}

}  // namespace optrel

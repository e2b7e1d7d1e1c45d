// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/presence_service.h"

#include <QPointer>
#include <QUuid>

#include "base/station.h"
#include "jobs.h"

namespace optrel {

PresenceService::PresenceService(Store& store, Messages& messages, Jobs& jobs)
    : SessionPart(store, messages, {"presence"}), jobs_(jobs) {
    mine_.window = QUuid::createUuid().toString(QUuid::WithoutBraces).toStdString();
    // Shorter than the expiry of an announcement.
    again_.setInterval(StoredStations::lasts_seconds * 1000 / 3);
    connect(&again_, &QTimer::timeout, this, [this] {
        if (!mine_.kind.empty()) say();
        if (!others_.empty()) reload();
    });
    again_.start();
    reload();
}

PresenceService::~PresenceService() {
    if (mine_.kind.empty()) return;
    try {
        store_.stations().leave(mine_.window);
    } catch (const std::exception&) {
        // The store cannot be reached; other windows drop this announcement by themselves.
    }
}

void PresenceService::at(const std::string& kind, const std::string& subject) {
    if (mine_.kind == kind && mine_.subject == subject) return;
    mine_.kind = kind;
    mine_.subject = subject;
    say();
}

void PresenceService::say() {
    if (!store_.writable()) return;
    mine_.author = current_author();
    mine_.station = this_station();
    // Failures are not reported: the announcement is optional, and the next edit will report the problem.
    jobs_.run_in_order([source = store_.source(), mine = mine_] {
        try {
            Store store = source.open_for_writing();
            mine.kind.empty() ? store.stations().leave(mine.window) : store.stations().at(mine);
        } catch (const std::exception&) {
        }
    });
}

void PresenceService::reload() {
    auto fresh = std::make_shared<std::vector<Present>>();
    remember();
    const int reading = ++readings_;
    jobs_.run_quietly(
        [=, source = store_.source(), window = mine_.window] {
            try {
                *fresh = source.open_for_reading()->stations().others(window);
            } catch (const std::exception&) {
                // As above.
            }
        },
        [=, self = QPointer(this)] {
            if (!self || reading != self->readings_ || *fresh == self->others_) return;
            self->others_ = std::move(*fresh);
            emit self->changed();
        });
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// What a place may do with deliveries and with this station's queue of exports. It belongs to the window's thread;
// frames are exported one job each, so that other work comes in between.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <optional>

#include "session/voice.h"
#include "studio/exporting.h"

namespace optrel {

class Jobs;

class ExportDesk : public QObject {
    Q_OBJECT
public:
    ExportDesk(Store& store, Jobs& jobs, Voice& voice);

    /// Throws as the store does.
    std::vector<Delivery> deliveries() { return store_.deliveries().all(); }
    bool own(const std::string& name) { return store_.deliveries().own(name); }
    void keep(const Delivery& delivery);
    void remove(const std::string& name);
    /// What films do not say of themselves, for paths of one pattern; by whoever is at the window.
    void remember(FilmRule rule);
    /// What a frame is developed with; for a worker, which opens the store for itself.
    StoreSource source() const { return store_.source(); }

    const std::vector<QueuedExport>& queue() const { return queue_; }
    int count(ExportState state) const;
    /// Queues frames and goes on.
    void add(std::vector<std::filesystem::path> frames, const Delivery& delivery, const std::filesystem::path& folder);
    bool running() const { return running_; }
    void go_on();
    /// After the frame that is being written.
    void pause() { pausing_ = true; }
    void try_again();
    void clear_done();
    void clear_waiting();
    /// Reads the queue; with `going_on`, works on what waits.
    void reload(bool going_on);
    /// "12 of 40 exported, 1 failed, about 3 min left".
    QString summary() const;

signals:
    void deliveries_changed();
    /// Other items, or other states.
    void changed();

private:
    void work(const std::function<void(Store&)>& change, bool going_on);
    void next();
    void took(const std::optional<QueuedExport>& item);

    Store& store_;
    Jobs& jobs_;
    Voice& voice_;
    std::vector<QueuedExport> queue_;
    std::unique_ptr<StoreHold> claim_;
    bool running_ = false, pausing_ = false;
    QElapsedTimer since_;  ///< the first of those that were exported in one go
    int in_this_go_ = 0;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Deliveries and this station's export queue. Belongs to the window's thread; each frame is a separate job, so that
// other work can run in between.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <optional>

#include "session/messages.h"
#include "studio/exports/exporting.h"

namespace optrel {

class Jobs;

class ExportService : public QObject {
    Q_OBJECT
public:
    ExportService(Store& store, Jobs& jobs, Messages& messages);

    /// Throws as the store does.
    std::vector<Delivery> deliveries() { return store_.deliveries().all(); }
    bool own(const std::string& name) { return store_.deliveries().own(name); }
    void keep(const Delivery& delivery);
    void remove(const std::string& name);
    /// Saves facts about films for a pattern of paths, in the user's name.
    void remember(FilmRule rule);
    /// Development of a frame, for a worker.
    StoreSource source() const { return store_.source(); }

    const std::vector<QueuedExport>& queue() const { return queue_; }
    int count(ExportState state) const;
    /// Queues frames and continues exporting.
    void add(std::vector<std::filesystem::path> frames, const Delivery& delivery, const std::filesystem::path& folder);
    bool running() const { return running_; }
    void go_on();
    /// Stops after the current frame.
    void pause() { pausing_ = true; }
    void try_again();
    void clear_done();
    void clear_waiting();
    /// Reads the queue; with `going_on`, continues exporting.
    void reload(bool going_on);
    /// Status text: "12 of 40 exported, 1 failed, about 3 min left".
    QString summary() const;

signals:
    void deliveries_changed();
    /// Items or states have changed.
    void changed();

private:
    void work(const std::function<void(Store&)>& change, bool going_on);
    void next();
    void took(const std::optional<QueuedExport>& item);

    Store& store_;
    Jobs& jobs_;
    Messages& messages_;
    std::vector<QueuedExport> queue_;
    std::unique_ptr<StoreHold> claim_;
    bool running_ = false, pausing_ = false;
    QElapsedTimer since_;  ///< first problems of this batch
    int in_this_go_ = 0;
};

}  // namespace optrel

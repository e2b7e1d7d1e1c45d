// SPDX-License-Identifier: GPL-3.0-or-later
// Watched folders, intake while the window is open, and the log of arrivals. Belongs to the window's thread; a separate
// thread watches.
#pragma once

#include <QTimer>
#include <atomic>
#include <memory>
#include <optional>
#include <thread>
#include <vector>

#include "base/files.h"
#include "base/progress.h"
#include "session/session_part.h"

namespace optrel {

class Jobs;

class IntakeService : public SessionPart {
    Q_OBJECT
public:
    IntakeService(Store& store, Jobs& jobs, Messages& messages);
    /// Stops watching; interrupted intakes are completed at the next start.
    ~IntakeService() override;

    /// Throws as the store does.
    std::vector<IntakeFolder> folders() { return store_.intake().folders(); }
    std::vector<ArrivalRecord> newest(int most) { return store_.intake().newest(most); }
    /// For a worker.
    const StoreSource& source() const { return store_.source(); }
    /// Another part of the window has taken in frames.
    void tell_of_arrivals();
    /// Applies changes of other stations: new folders, and the log of arrivals.
    void take_over(const std::vector<std::string>& stamps);
    /// Saves a folder in the user's name, and restarts watching.
    void put(IntakeFolder folder);
    void remove(const std::filesystem::path& folder);

    /// Watches the folders of the store, as soon as no other program does.
    void watch();
    void stop();
    bool watching() const { return watching_; }
    /// Number of incomplete files.
    int waiting() const { return waiting_; }
    /// Status text: "Watching 2 folders; 3 frames are still being copied."
    QString state() const;

signals:
    /// Frames were taken in, or the log has changed.
    void arrived();

private:
    void run(std::vector<IntakeFolder> folders, const std::string& author);
    void end();
    void ended(const QString& problem);

    Jobs& jobs_;
    std::unique_ptr<StoreHold> claim_;
    std::thread thread_;
    std::unique_ptr<Progress> progress_;
    std::atomic<int> waiting_{0};
    bool watching_ = false;
    int count_ = 0;    ///< number of folders
    QString why_not_;  ///< it does not watch
    QTimer again_;     ///< retries, because another program may have ended
};

}  // namespace optrel

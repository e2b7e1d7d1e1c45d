// SPDX-License-Identifier: GPL-3.0-or-later
// What a place may do with intake: the folders that the store keeps, watching them while the window is open, and what
// arrived. It belongs to the window's thread; a thread of its own watches.
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

class IntakeDesk : public SessionPart {
    Q_OBJECT
public:
    IntakeDesk(Store& store, Jobs& jobs, Voice& voice);
    /// Ends the watching: what was begun is found again.
    ~IntakeDesk() override;

    /// Throws as the store does.
    std::vector<IntakeFolder> folders() { return store_.intake().folders(); }
    std::vector<ArrivalRecord> newest(int most) { return store_.intake().newest(most); }
    /// For a worker, which opens the store for itself.
    const StoreSource& source() const { return store_.source(); }
    /// Another part took frames in.
    void tell_of_arrivals();
    /// What another station or program changed: its folders are watched, its arrivals are told of.
    void take_over(const std::vector<std::string>& stamps);
    /// Keeps a folder under whoever is at the window, and watches anew.
    void put(IntakeFolder folder);
    void remove(const std::filesystem::path& folder);

    /// Watches what the store keeps, or as soon as no other program does.
    void watch();
    void stop();
    bool watching() const { return watching_; }
    /// Frames that are not there completely yet.
    int waiting() const { return waiting_; }
    /// "Watching 2 folders; 3 frames are still being copied."
    QString state() const;

signals:
    /// Frames were taken in, or told of.
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
    int count_ = 0;    ///< of folders
    QString why_not_;  ///< it does not watch
    QTimer again_;     ///< another program may be done
};

}  // namespace optrel

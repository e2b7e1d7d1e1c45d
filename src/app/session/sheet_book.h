// SPDX-License-Identifier: GPL-3.0-or-later
// The sheets of all frames as they were last read, and their writing.
//
// Belongs to the window's thread; reading and long writing are done by workers. A reading that is older than the
// newest, or than a write, is dropped.
#pragma once

#include <QObject>
#include <map>
#include <memory>
#include <unordered_map>
#include <vector>

#include "rollout/sheet.h"
#include "session/voice.h"
#include "store/frames.h"

namespace optrel {

class Jobs;

class SheetBook : public QObject {
    Q_OBJECT
public:
    SheetBook(Jobs& jobs, Voice& voice) : jobs_(jobs), voice_(voice) {}

    using Frames = std::shared_ptr<const std::vector<FrameRecord>>;
    /// By frame; equal ones are kept once.
    using Sheets = std::unordered_map<std::string, std::shared_ptr<const Sheet>>;
    using Written = std::vector<std::pair<std::filesystem::path, Sheet>>;

    /// Reads the sheets of these frames anew.
    void read(const Frames& frames);
    /// Reads those of the same frames again.
    void read_again() { read(frames_); }
    /// The sheet of a frame as last read; null when it was not read yet or cannot be read.
    const Sheet* find(const std::filesystem::path& frame) const;
    QString problem(const std::filesystem::path& frame) const;
    int unreadable() const { return static_cast<int>(problems_.size()); }
    /// Frames that a rollout may change and whose baseline is older than a revision.
    int behind(int revision) const;

    /// Writes sheets, each in place of the one that the window shows. What another station changed meanwhile stays (see
    /// replace_sheet); a clash is told. Many are written off the window's thread.
    void write(const Written& sheets);

signals:
    /// Over very many frames listeners should take it by a queued connection.
    void changed();

private:
    struct Writing;
    void take(const Writing& writing);
    void take_written(const std::filesystem::path& frame, const Sheet& sheet);

    Jobs& jobs_;
    Voice& voice_;
    Frames frames_ = std::make_shared<std::vector<FrameRecord>>();
    Sheets sheets_;
    std::unordered_map<std::string, QString> problems_;
    std::map<int, int> open_at_revision_;  ///< frames untouched or on a baseline, by its number
    int readings_ = 0, writes_ = 0;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The sheets of all frames as they were last read, and their writing.
//
// Belongs to the window's thread; reading and long writing are done by workers. A reading that is older than the
// newest, or than a write, is dropped.
#pragma once

#include <QObject>
#include <map>
#include <memory>
#include <set>
#include <unordered_map>
#include <vector>

#include "rollout/sheet.h"
#include "session/frame_places.h"
#include "session/messages.h"
#include "studio/profiles/behind_versions.h"

namespace optrel {

class Jobs;

class SheetModel : public QObject {
    Q_OBJECT
public:
    SheetModel(Jobs& jobs, Messages& messages) : jobs_(jobs), messages_(messages) {}

    using Frames = FramePlaces::Frames;
    using Written = std::vector<std::pair<std::filesystem::path, Sheet>>;

    /// Reads the sheets of these frames anew.
    void read(const Frames& frames);
    /// Reads those of the same frames again.
    void read_again() { read(frames_); }
    /// The sheet of a frame as last read; null when it was not read yet or cannot be read.
    const Sheet* find(const std::filesystem::path& frame) const;
    QString problem(const std::filesystem::path& frame) const;
    int unreadable() const { return static_cast<int>(known_->problems.size()); }
    /// Frames that a rollout may change and whose baseline is older than a revision.
    int behind(int revision) const;

    /// Frames whose sheet says that it was rolled out with a version of its lens profile which is not among `current`.
    std::vector<NotedFrame> noted_otherwise(const std::set<std::string>& current) const;

    /// Writes sheets, each in place of the one that the window shows. What another station changed meanwhile stays (see
    /// replace_sheet); a clash is told. Many are written off the window's thread.
    void write(const Written& sheets);

    /// What is known of sheets; equal ones are kept once.
    struct Known {
        FramePlaces places;
        std::vector<std::shared_ptr<const Sheet>> sheets;  ///< of each frame there; null: it cannot be read
        /// Of frames that are not among them.
        std::unordered_map<std::string, std::shared_ptr<const Sheet>> others;
        std::unordered_map<std::string, QString> problems;

        std::shared_ptr<const Sheet>& of(const std::string& frame);
    };

signals:
    /// Over very many frames listeners should take it by a queued connection.
    void changed();

private:
    struct Writing;
    void take(const Writing& writing);
    void take_written(const std::filesystem::path& frame, const Sheet& sheet);

    Jobs& jobs_;
    Messages& messages_;
    Frames frames_ = std::make_shared<std::vector<FrameRecord>>();
    std::shared_ptr<Known> known_ = std::make_shared<Known>();
    std::map<int, int> open_at_revision_;  ///< frames untouched or on a baseline, by its number
    int readings_ = 0, writes_ = 0;
};

}  // namespace optrel

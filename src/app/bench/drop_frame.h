// SPDX-License-Identifier: GPL-3.0-or-later
// Dropping or restoring a frame of a run, undoable.
#pragma once

#include <QUndoCommand>

#include "bench/bench_place.h"

namespace optrel {

class DropFrame : public QUndoCommand {
public:
    DropFrame(BenchPlace& bench, int run, int row, bool dropped)
        : QUndoCommand(dropped ? "drop frame" : "restore frame"),
          bench_(bench),
          run_(run),
          row_(row),
          dropped_(dropped) {}
    void redo() override { apply(dropped_); }
    void undo() override { apply(!dropped_); }

private:
    void apply(bool dropped) {
        // Another run may have been opened since; a command only ever touches its own.
        if (bench_.run() && bench_.run()->id == run_) bench_.apply_dropped(row_, dropped);
    }
    BenchPlace& bench_;
    int run_, row_;
    bool dropped_;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Undo command that drops or restores a frame of a run.
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
        // The command only changes its own run, because another run may be open by now.
        if (bench_.run() && bench_.run()->id == run_) bench_.apply_dropped(row_, dropped);
    }
    BenchPlace& bench_;
    int run_, row_;
    bool dropped_;
};

}  // namespace optrel

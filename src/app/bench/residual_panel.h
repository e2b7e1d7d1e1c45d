// SPDX-License-Identifier: GPL-3.0-or-later
// Residuals of all frames of a lens setting: over the picture, as a histogram, and by frame.
#pragma once

#include <QWidget>

#include "calibration/run.h"

namespace optrel {

class BarsView;
class FrameView;

class ResidualPanel : public QWidget {
    Q_OBJECT
public:
    explicit ResidualPanel(QWidget* parent = nullptr);
    void show_solution(const std::vector<RunFrame>& frames, const RunSolution& solution, int node);
    void clear();
    void choose_frame(int frame);
    BarsView& frame_bars() { return *by_frame_; }
    FrameView& map() { return *map_; }

signals:
    void frame_chosen(int frame);

private:
    FrameView* map_;
    BarsView *histogram_, *by_frame_;
    std::vector<int> bar_frames_;
};

}  // namespace optrel

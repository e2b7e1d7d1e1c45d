// SPDX-License-Identifier: GPL-3.0-or-later
// What a frame resolves: one edge that a person marks, before and after the correction.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "latest.h"
#include "studio/edge_curves.h"
#include "widgets/curve_plot.h"
#include "widgets/table.h"

namespace optrel {

class SharpnessPanel : public QWidget {
    Q_OBJECT
public:
    explicit SharpnessPanel(QWidget* parent = nullptr);

    /// Measures an edge, px of the frame, off the window's thread.
    void measure_edge(Jobs& jobs, const std::filesystem::path& frame, const FrameRecipe& recipe, const Vec2& from,
                      const Vec2& to);
    /// An edge is being marked.
    void show_marking(bool on);
    void clear();
    bool measuring() const { return edge_.running(); }
    Table& table() { return *table_; }
    QString text() const { return text_->text(); }

signals:
    void edge_asked(bool on);

private:
    void show_edge(const EdgeCurves& edge);

    QPushButton* mark_;
    QLabel* text_;
    CurvePlot* plot_;
    Table* table_;
    Latest<EdgeCurves> edge_;
};

}  // namespace optrel

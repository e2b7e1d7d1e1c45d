// SPDX-License-Identifier: GPL-3.0-or-later
// What a frame resolves, before and after the correction: one edge that a person marks, or all edges of a chart.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>

#include "latest.h"
#include "studio/chart_sharpness.h"
#include "studio/edge_curves.h"
#include "widgets/curve_plot.h"
#include "widgets/resolution_view.h"
#include "widgets/table.h"

namespace optrel {

class SharpnessPanel : public QWidget {
    Q_OBJECT
public:
    explicit SharpnessPanel(QWidget* parent = nullptr);

    /// Measures an edge, px of the frame, off the window's thread.
    void measure_edge(Jobs& jobs, const std::filesystem::path& frame, const FrameDevelopment& development,
                      const Vec2& from, const Vec2& to);
    /// Measures all edges of the board that the frame shows.
    void measure_chart(Jobs& jobs, const std::filesystem::path& frame, const FrameDevelopment& development);
    /// An edge is being marked.
    void show_marking(bool on);
    void clear();
    /// The edges of the board that were measured in green, px of the frame; none before.
    struct Edge {
        Vec2 from, to;
        bool soft;  ///< under three quarters of what the sharpest tenth resolves
    };
    const std::vector<Edge>& edges() const { return edges_; }
    bool measuring() const { return edge_.running() || chart_.running(); }
    Table& table() { return *table_; }
    QString text() const { return text_->text(); }

signals:
    void edge_asked(bool on);
    void chart_asked();
    /// There are other edges() than before.
    void measured();

private:
    void show_edge(const EdgeCurves& edge);
    void show_chart(const ChartSharpness& chart, int orientation);

    QPushButton *mark_, *whole_;
    QStackedWidget* pages_;
    ResolutionView* field_;
    QLabel* text_;
    CurvePlot* plot_;
    Table* table_;
    Latest<EdgeCurves> edge_;
    Latest<ChartSharpness> chart_;
    std::vector<Edge> edges_;
};

}  // namespace optrel

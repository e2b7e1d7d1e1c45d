// SPDX-License-Identifier: GPL-3.0-or-later
// Resolution of a frame before and after the correction: at one marked edge, or at all edges of a chart.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>

#include "latest_result.h"
#include "studio/development/chart_sharpness.h"
#include "studio/development/edge_curves.h"
#include "widgets/curve_plot.h"
#include "widgets/resolution_view.h"
#include "widgets/table.h"

namespace optrel {

class SharpnessPanel : public QWidget {
    Q_OBJECT
public:
    explicit SharpnessPanel(QWidget* parent = nullptr);

    /// Measures an edge (px of the frame) on a worker.
    void measure_edge(Jobs& jobs, const std::filesystem::path& frame, const FrameDevelopment& development,
                      const Vec2& from, const Vec2& to);
    /// Measures all edges of the board in the frame.
    void measure_chart(Jobs& jobs, const std::filesystem::path& frame, const FrameDevelopment& development);
    /// The user is marking an edge.
    void show_marking(bool on);
    void clear();
    /// Measured edges of the board in green, px of the frame; empty before the measurement.
    struct Edge {
        Vec2 from, to;
        bool soft;  ///< less than three quarters of the resolution of the sharpest tenth
    };
    const std::vector<Edge>& edges() const { return edges_; }
    bool measuring() const { return edge_.running() || chart_.running(); }
    Table& table() { return *table_; }
    QString text() const { return text_->text(); }

signals:
    void edge_asked(bool on);
    void chart_asked();
    /// edges() has changed.
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
    LatestResult<EdgeCurves> edge_;
    LatestResult<ChartSharpness> chart_;
    std::vector<Edge> edges_;
};

}  // namespace optrel

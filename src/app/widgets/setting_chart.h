// SPDX-License-Identifier: GPL-3.0-or-later
// The lens settings of a profile on a chart of focal length by aperture: what was measured, what lies between, what is
// outside.
#pragma once

#include "optics/profile.h"
#include "widgets/plot_view.h"

namespace optrel {

class SettingChart : public PlotView {
    Q_OBJECT
public:
    explicit SettingChart(QWidget* parent = nullptr);
    void show_profile(const Profile& profile, int chosen);
    void clear();
    /// Where a node is drawn, for tests that click.
    QPoint place_of(int node) const;

signals:
    void node_chosen(int node);

protected:
    bool empty() const override { return profile_.nodes.empty(); }
    QString empty_text() const override;
    std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const override;
    void paint_data(QPainter& painter, const PlotArea& plot) const override;
    QString hint_at(const QPointF& at) const override;
    Cells cells() const override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    int node_near(const QPointF& at) const;
    /// The error at a node when it is left out, where that could be said; NaN otherwise.
    double left_out_px(int node) const;

    Profile profile_;
    std::vector<LeftOut> left_out_;
    int chosen_ = -1;
};

}  // namespace optrel

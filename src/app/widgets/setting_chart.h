// SPDX-License-Identifier: GPL-3.0-or-later
// The lens settings of a profile on a chart of focal length by aperture: what was measured, what lies between, what is
// outside.
#pragma once

#include <QWidget>

#include "optics/profile.h"

namespace optrel {

class SettingChart : public QWidget {
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
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    QRectF plot() const;
    QPointF place(const LensSetting& s) const;

    Profile profile_;
    std::vector<LeftOut> left_out_;
    int chosen_ = -1;
    double low_f_ = 0, high_f_ = 1, low_n_ = 0, high_n_ = 1;
};

}  // namespace optrel

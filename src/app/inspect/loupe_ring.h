// SPDX-License-Identifier: GPL-3.0-or-later
// Nine loupes over the picture at once: the middle, the edges' middles and the corners, each before and after, with
// figures measured there, and what they say together.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QWidget>
#include <array>

#include "inspect/look_desk.h"
#include "scene/loupe_places.h"

namespace optrel {

class LoupeRing : public QWidget {
    Q_OBJECT
public:
    static constexpr int count = loupe_count;

    explicit LoupeRing(QWidget* parent = nullptr);
    /// A picture of a size, as it is held; another size puts the loupes back in their places.
    void set_size(const QSizeF& picture);
    void show_patches(const std::vector<LoupePatch>& patches);
    /// What the loupes look at, px of the picture.
    std::vector<QRectF> patches() const;
    QString verdict() const { return verdict_->text(); }
    /// What stands under a loupe.
    QString figures(int loupe) const;
    /// Where a loupe is in the widget, for tests that drag.
    QRectF cell(int loupe) const;

signals:
    /// A loupe was moved.
    void moved();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;

private:
    QPointF usual_place(int loupe) const;
    QRectF pane(int loupe, bool after) const;
    int loupe_at(const QPointF& at) const;
    double magnification() const { return magnify_->currentData().toDouble(); }
    void draw(QPainter& p, int loupe) const;

    QComboBox* magnify_;
    QLabel* verdict_;
    QSizeF size_;
    std::array<QPointF, count> places_;  ///< middles, px of the picture
    std::vector<LoupePatch> shown_;
    int dragged_ = -1;
    QPointF from_;
};

}  // namespace optrel

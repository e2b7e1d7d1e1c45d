// SPDX-License-Identifier: GPL-3.0-or-later
// Nine loupes over the picture (centre, edge centres, corners), each before and after, with measured figures and a
// summary.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QWidget>
#include <array>

#include "inspect/preview_service.h"
#include "scene/loupe_places.h"

namespace optrel {

class LoupeRing : public QWidget {
    Q_OBJECT
public:
    static constexpr int count = loupe_count;

    explicit LoupeRing(QWidget* parent = nullptr);
    /// Sets the picture size in display orientation; another size moves the loupes to their default places.
    void set_size(const QSizeF& picture);
    void show_patches(const std::vector<LoupePatch>& patches);
    /// Areas of the loupes, px of the picture.
    std::vector<QRectF> patches() const;
    QString verdict() const { return verdict_->text(); }
    /// Text under a loupe.
    QString figures(int loupe) const;
    /// Position of a loupe in the widget, for tests.
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
    std::array<QPointF, count> places_;  ///< centres, px of the picture
    std::vector<LoupePatch> shown_;
    int dragged_ = -1;
    QPointF from_;
};

}  // namespace optrel

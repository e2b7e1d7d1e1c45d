// SPDX-License-Identifier: GPL-3.0-or-later
// Two pictures of one frame, before and after, by swapping or by a split that can be dragged; at fit and at fixed
// scales.
#pragma once

#include <QImage>
#include <QWidget>

namespace optrel {

class CompareView : public QWidget {
    Q_OBJECT
public:
    enum class Mode { before, after, split };

    explicit CompareView(QWidget* parent = nullptr);
    void set_pictures(const QImage& before, const QImage& after);
    void clear(const QString& why);
    void set_mode(Mode mode);
    Mode mode() const { return mode_; }
    /// 0: fit; otherwise screen pixels for each picture pixel.
    void set_zoom(double zoom);
    double zoom() const { return zoom_; }
    void set_grid(bool on);
    double split() const { return split_; }
    /// Where the split stands, in px of the widget.
    int split_x() const;
    /// Looks at a place of the picture, 0 to 1 across and down.
    void look_at(QPointF place);

signals:
    void mode_changed();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    QRectF picture_rect() const;

    QImage before_, after_;
    QString why_empty_;
    Mode mode_ = Mode::after;
    double zoom_ = 0, split_ = 0.5;
    QPointF centre_{0.5, 0.5};
    bool grid_ = false, dragging_split_ = false;
    QPointF drag_from_;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A chart frame with its measured corners and the residuals of the solve as arrows, exaggerated, with a scale; or the
// residuals of all frames together over the outline of the picture, with their means over parts of it.
#pragma once

#include <QImage>
#include <QWidget>
#include <optional>
#include <vector>

namespace optrel {

struct CornerMark {
    QPointF place;     ///< px of the frame
    QPointF residual;  ///< px
    bool rejected = false;
    bool solved = false;
};

class FrameView : public QWidget {
    Q_OBJECT
public:
    explicit FrameView(QWidget* parent = nullptr);
    void set_frame(const QImage& picture, QSizeF frame_size);
    void set_corners(std::vector<CornerMark> corners);
    /// Bold arrows over the others: what corners have in common in a part of the picture.
    void set_means(std::vector<CornerMark> means);
    /// What the arrows are, for the scale beneath; residuals of corners unless said.
    void set_meaning(const QString& arrows) { meaning_ = arrows; }
    /// Figures written at places of the picture.
    void set_labels(std::vector<std::pair<QPointF, QString>> labels);
    /// Rings a place that a finding speaks of.
    void point_at(std::optional<QPointF> place);
    void choose_corner(int index);
    int chosen_corner() const { return chosen_; }
    /// Where a place of the frame (px) is drawn, for tests that click.
    QPoint on_screen(const QPointF& place) const;
    void clear(const QString& why);
    int corner_count() const { return static_cast<int>(corners_.size()); }

signals:
    void corner_chosen(int index);
    void drop_asked(int index);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    QRectF picture_area() const;
    double exaggeration(const std::vector<CornerMark>& marks, double scale, double& reference) const;
    void draw_corner(QPainter& p, int corner, const QPointF& origin, double scale, double times) const;
    void draw_notes(QPainter& p, const QRectF& to, double scale) const;
    void draw_legend(QPainter& p, double scale, double times, double reference) const;
    void draw_arrow(QPainter& p, const QPointF& from, const QPointF& to, const QColor& colour, double width) const;

    std::vector<CornerMark> means_;
    std::vector<std::pair<QPointF, QString>> written_;
    QString meaning_;
    std::optional<QPointF> pointed_;
    int chosen_ = -1;
    QImage picture_;
    QSizeF size_;
    std::vector<CornerMark> corners_;
    QString why_empty_;
};

}  // namespace optrel

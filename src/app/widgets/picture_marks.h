// SPDX-License-Identifier: GPL-3.0-or-later
// What is drawn over a picture, and can be taken hold of there: lines, the part that a crop keeps, a ring, handles.
// Places are pixels of the picture.
#pragma once

#include <QColor>
#include <QLineF>
#include <QPainter>
#include <QRectF>
#include <vector>

namespace optrel {

class PictureMarks {
public:
    struct Line {
        QLineF line;
        QColor colour;
        bool dashed = false;
    };
    std::vector<Line> lines;
    QRectF crop;  ///< empty: all of it is kept
    std::vector<QPointF> ring;
    std::vector<QPointF> spots;  ///< ringed
    std::vector<QPointF> handles;
    bool closed = false;  ///< handles are joined to a closed outline, or to an open one
    int chosen = -1;      ///< of the handles

    /// How a picture lies in a widget.
    struct Lie {
        QRectF picture;
        double scale = 1;  ///< px of the widget for each of the picture

        QPointF at(const QPointF& place) const { return picture.topLeft() + place * scale; }
    };
    void draw(QPainter& painter, const Lie& lie) const;

    /// What lies nearest to a place of the picture, within a few px of the widget; -1: none.
    int line_at(const QPointF& place, double scale) const;
    int handle_at(const QPointF& place, double scale) const;
    bool on_ring(const QPointF& place, double scale) const;

private:
    void draw_crop(QPainter& painter, const Lie& lie) const;
    void draw_lines(QPainter& painter, const Lie& lie) const;
    void draw_handles(QPainter& painter, const Lie& lie) const;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The area of a sensor with its defects and dust.
#pragma once

#include <QImage>
#include <QWidget>

#include "sensor/defect_map.h"

namespace optrel {

class SensorView : public QWidget {
    Q_OBJECT
public:
    explicit SensorView(QWidget* parent = nullptr);

    /// `evenness`: the flat fields, drawn beneath; may be empty.
    void show_map(const DefectMap& map, const cv::Mat1f& evenness = {});
    void clear(const QString& text);
    /// Text about the defect or dust spot under a point of the widget; empty when there is none.
    QString hint_at(const QPointF& at) const;
    /// Point of the widget at which a position of the frame (px) is drawn.
    QPointF place_of(double u, double v) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

private:
    QRectF area() const;
    void paint_marks(QPainter& painter) const;
    void paint_legend(QPainter& painter) const;

    DefectMap map_;
    QImage flat_;
    QString text_;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Names of curves, written where the curves end.
#pragma once

#include <QColor>
#include <QRectF>
#include <QString>
#include <vector>

class QPainter;

namespace optrel {

struct EndLabel {
    double y = 0;  ///< px, where its curve ends
    QString text;
    QColor colour;
};

/// Room that labels need on the right of a plot, px.
double room_for_labels(const std::vector<EndLabel>& labels);
/// Writes labels on the right of the plot's box, moved apart where they would overlap, and within its height.
void paint_end_labels(QPainter& painter, const QRectF& box, std::vector<EndLabel> labels);

}  // namespace optrel

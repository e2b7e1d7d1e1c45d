// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/end_labels.h"

#include <QPainter>
#include <algorithm>

#include "theme.h"

namespace optrel {
namespace {

constexpr double gap = 5;

QFont label_font() { return theme::text_font(8); }

}  // namespace

double room_for_labels(const std::vector<EndLabel>& labels) {
    double widest = 0;
    for (const EndLabel& label : labels)
        widest = std::max(widest, QFontMetricsF(label_font()).horizontalAdvance(label.text));
    return std::max(14.0, widest + gap + 4);
}

void paint_end_labels(QPainter& painter, const QRectF& box, std::vector<EndLabel> labels) {
    const double height = QFontMetricsF(label_font()).height(), room = room_for_labels(labels);
    std::sort(labels.begin(), labels.end(), [](const EndLabel& a, const EndLabel& b) { return a.y < b.y; });
    // From here on y is the label's top.
    double free_from = box.top();
    for (EndLabel& label : labels) {
        label.y = std::max(label.y - height / 2, free_from);
        free_from = label.y + height - 1;
    }
    // A label that would be cut off at the bottom moves up and pushes others up.
    double free_to = box.bottom();
    for (auto label = labels.rbegin(); label != labels.rend(); ++label) {
        label->y = std::min(label->y, free_to - height);
        free_to = label->y + 1;
    }
    painter.setFont(label_font());
    for (const EndLabel& label : labels) {
        painter.setPen(label.colour);
        painter.drawText(QRectF(box.right() + gap, label.y, room, height), Qt::AlignLeft | Qt::AlignVCenter,
                         label.text);
    }
}

}  // namespace optrel

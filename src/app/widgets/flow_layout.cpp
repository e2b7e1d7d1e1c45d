// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/flow_layout.h"

#include <QWidget>
#include <algorithm>
#include <utility>

namespace optrel {

FlowLayout::FlowLayout(int gap, QWidget* parent) : QLayout(parent), gap_(gap) { setContentsMargins(0, 0, 0, 0); }

void FlowLayout::addItem(QLayoutItem* item) {
    items_.push_back({std::unique_ptr<QLayoutItem>(item), std::exchange(next_gap_, 0)});
}

QLayoutItem* FlowLayout::itemAt(int index) const {
    return index >= 0 && index < count() ? items_[static_cast<std::size_t>(index)].item.get() : nullptr;
}

QLayoutItem* FlowLayout::takeAt(int index) {
    if (index < 0 || index >= count()) return nullptr;
    QLayoutItem* out = items_[static_cast<std::size_t>(index)].item.release();
    items_.erase(items_.begin() + index);
    return out;
}

QSize FlowLayout::minimumSize() const {
    QSize out;
    for (const Item& i : items_)
        if (!i.item->isEmpty()) out = out.expandedTo(i.item->minimumSize());
    return out;
}

QSize FlowLayout::sizeHint() const {
    int width = 0, height = 0;
    for (const Item& i : items_) {
        if (i.item->isEmpty()) continue;
        const QSize size = i.item->sizeHint();
        width += size.width() + gap_ + i.gap;
        height = std::max(height, size.height());
    }
    return {width, height};
}

void FlowLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    place(rect, true);
}

/// Returns the height that is used.
int FlowLayout::place(const QRect& rect, bool move) const {
    int x = rect.left(), y = rect.top(), line = 0;
    for (const Item& i : items_) {
        if (i.item->isEmpty()) continue;
        const QSize size = i.item->sizeHint();
        if (x > rect.left()) x += gap_ + i.gap;
        if (x > rect.left() && x + size.width() > rect.right() + 1) {
            x = rect.left();
            y += line + gap_;
            line = 0;
        }
        if (move) i.item->setGeometry(QRect(QPoint(x, y), size));
        x += size.width();
        line = std::max(line, size.height());
    }
    return y + line - rect.top();
}

}  // namespace optrel

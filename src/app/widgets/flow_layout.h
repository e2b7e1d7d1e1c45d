// SPDX-License-Identifier: GPL-3.0-or-later
// Widgets one after the other, on as many lines as the width needs, so that none is cut in a narrow window.
#pragma once

#include <QLayout>
#include <memory>
#include <vector>

namespace optrel {

class FlowLayout : public QLayout {
public:
    /// Gap between neighbours and between lines, px.
    explicit FlowLayout(int gap, QWidget* parent = nullptr);

    /// A wider gap before the next widget, px.
    void add_gap(int px) { next_gap_ += px; }

    void addItem(QLayoutItem* item) override;
    int count() const override { return static_cast<int>(items_.size()); }
    QLayoutItem* itemAt(int index) const override;
    QLayoutItem* takeAt(int index) override;
    QSize sizeHint() const override;
    QSize minimumSize() const override;
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return place(QRect(0, 0, width, 0), false); }
    void setGeometry(const QRect& rect) override;

private:
    struct Item {
        std::unique_ptr<QLayoutItem> item;
        int gap;  ///< before it
    };
    int place(const QRect& rect, bool move) const;

    std::vector<Item> items_;
    int gap_, next_gap_ = 0;
};

}  // namespace optrel

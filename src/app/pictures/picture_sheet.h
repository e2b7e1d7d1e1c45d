// SPDX-License-Identifier: GPL-3.0-or-later
// The rows of a table of frames as small pictures, side by side, in groups. It shares the model and the selection of
// the table, so both always show the same rows and the same choice.
//
// The geometry follows from the number of rows in each group, so any number of rows costs nothing until it is seen.
#pragma once

#include <QAbstractItemView>
#include <QTimer>
#include <functional>
#include <optional>
#include <vector>

#include "pictures/picture_loader.h"
#include "widgets/table.h"

namespace optrel {

/// What pictures are grouped by.
enum class Grouping { none, body, lens, iso, day };
inline constexpr int grouping_count = 5;
QString grouping_name(Grouping grouping);

/// What a row shows as a picture.
struct PictureItem {
    SmallPictureCache::Of of;
    QString name;
    Cell state;  ///< with its mark, as the table shows it
};

/// Asks for rows of the table, counted before sorting. Must not throw.
struct PictureSource {
    std::function<std::optional<PictureItem>(int row)> item;
    /// Name of the group that a row belongs to; empty when unknown.
    std::function<QString(int row, Grouping)> group;
};

class PictureSheet : public QAbstractItemView {
    Q_OBJECT
public:
    PictureSheet(Table& table, PictureSource source, QWidget* parent = nullptr);

    void group_by(Grouping grouping);
    Grouping grouping() const { return grouping_; }
    /// Returns the names of the groups in the order in which they are shown.
    QStringList groups() const;
    /// Whether rows are being grouped.
    bool grouping_now() const { return work_.isActive(); }
    int columns() const { return columns_; }
    /// As those of Table, in the order of the pictures.
    int position_of(int row) const;
    int row_shown_at(int position) const;

    QRect visualRect(const QModelIndex& index) const override;
    void scrollTo(const QModelIndex& index, ScrollHint hint = EnsureVisible) override;
    QModelIndex indexAt(const QPoint& point) const override;

protected:
    QModelIndex moveCursor(CursorAction action, Qt::KeyboardModifiers modifiers) override;
    int horizontalOffset() const override { return 0; }
    int verticalOffset() const override;
    bool isIndexHidden(const QModelIndex&) const override { return false; }
    void setSelection(const QRect& rect, QItemSelectionModel::SelectionFlags command) override;
    QRegion visualRegionForSelection(const QItemSelection& selection) const override;
    void updateGeometries() override;
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void startDrag(Qt::DropActions actions) override;
    void dataChanged(const QModelIndex& from, const QModelIndex& to, const QList<int>& roles) override;

private:
    struct Group {
        QString name;
        int first = 0, count = 0;  ///< places
        int top = 0;               ///< px, of the heading
    };
    int row_count() const { return model()->rowCount(); }
    void arrange();
    void arrange_more();
    void lay_out();
    /// Rows of the sorted model and places on the sheet.
    int place_of(int row) const { return order_.empty() ? row : places_[static_cast<std::size_t>(row)]; }
    int row_at(int place) const { return order_.empty() ? place : order_[static_cast<std::size_t>(place)]; }
    const Group& group_of(int place) const;
    QRect rect_of(int place) const;
    int heading_height() const;
    QSize cell() const;
    int nearest_beside(int place, int step) const;
    void paint_cell(QPainter& painter, int place, const QRect& rect);
    void extend_to(int place, QItemSelectionModel::SelectionFlags command);

    Table& table_;
    PictureSource source_;
    Grouping grouping_ = Grouping::none;
    std::vector<int> order_, places_;  ///< empty: as the model has them
    std::vector<Group> groups_;
    int columns_ = 1;
    int anchor_ = 0;  ///< the place that a range is chosen from
    bool stale_ = true;
    /// Groups are found a little at a time, so that the window stays free.
    struct Arranging {
        std::vector<int> group_of_row;
        std::vector<QString> names;
        QHash<QString, int> known;
    } arranging_;
    QTimer work_;
};

}  // namespace optrel

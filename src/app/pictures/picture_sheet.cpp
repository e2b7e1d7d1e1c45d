// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/picture_sheet.h"

#include <QCollator>
#include <QElapsedTimer>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollBar>
#include <numeric>

#include "screen/screen_service.h"
#include "theme.h"

namespace optrel {

namespace {

constexpr int least_cell = 132, margin = 6;  // px

}  // namespace

QString grouping_name(Grouping grouping) {
    constexpr const char* names[] = {"no groups", "by body", "by lens", "by ISO", "by day"};
    return names[static_cast<int>(grouping)];
}

PictureSheet::PictureSheet(Table& table, PictureSource source, QWidget* parent)
    : QAbstractItemView(parent), table_(table), source_(std::move(source)) {
    setAccessibleName(table.accessibleName() + " as pictures");
    setModel(table.model());
    setSelectionModel(table.selectionModel());
    setSelectionMode(table.selectionMode());
    setSelectionBehavior(SelectRows);
    setDragEnabled(table.dragEnabled());
    setDragDropMode(table.dragDropMode());
    setEditTriggers(NoEditTriggers);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
    viewport()->setMouseTracking(true);
    work_.setInterval(0);
    connect(&work_, &QTimer::timeout, this, &PictureSheet::arrange_more);
    connect(model(), &QAbstractItemModel::modelReset, this, &PictureSheet::arrange);
    connect(model(), &QAbstractItemModel::layoutChanged, this, &PictureSheet::arrange);
    connect(model(), &QAbstractItemModel::rowsInserted, this, &PictureSheet::arrange);
    connect(model(), &QAbstractItemModel::rowsRemoved, this, &PictureSheet::arrange);
    connect(&PictureLoader::here(), &PictureLoader::ready, viewport(), qOverload<>(&QWidget::update));
    connect(&ScreenService::here(), &ScreenService::changed, viewport(), qOverload<>(&QWidget::update));
    connect(this, &QAbstractItemView::doubleClicked, &table, &QAbstractItemView::doubleClicked);
}

void PictureSheet::group_by(Grouping grouping) {
    grouping_ = grouping;
    arrange();
}

QStringList PictureSheet::groups() const {
    QStringList out;
    for (const Group& g : groups_) out << g.name;
    return out;
}

void PictureSheet::arrange() {
    if (!isVisible()) {
        stale_ = true;
        work_.stop();
        // What was found is of other rows.
        order_.clear();
        groups_.clear();
        return;
    }
    stale_ = false;
    if (static_cast<int>(order_.size()) != row_count() || grouping_ == Grouping::none) {
        order_.clear();
        places_.clear();
        groups_ = {{QString(), 0, row_count(), 0}};
    }
    arranging_ = {};
    if (grouping_ == Grouping::none || row_count() == 0)
        work_.stop();
    else
        work_.start();
    lay_out();
}

void PictureSheet::arrange_more() {
    constexpr int most_ms = 8;
    QElapsedTimer since;
    since.start();
    const auto* sorted = qobject_cast<const QAbstractProxyModel*>(model());
    std::vector<int>& groups = arranging_.group_of_row;
    while (static_cast<int>(groups.size()) < row_count()) {
        if (groups.size() % 64 == 63 && since.elapsed() > most_ms) return;
        const int row = sorted->mapToSource(model()->index(static_cast<int>(groups.size()), 0)).row();
        const QString name = source_.group(row, grouping_);
        auto known = arranging_.known.find(name);
        if (known == arranging_.known.end()) {
            known = arranging_.known.insert(name, static_cast<int>(arranging_.names.size()));
            arranging_.names.push_back(name);
        }
        groups.push_back(known.value());
    }
    work_.stop();
    // Groups by name, numbers in them by value; unknown ones at the end. Rows keep their order within each.
    std::vector<int> by_name(arranging_.names.size());
    std::iota(by_name.begin(), by_name.end(), 0);
    QCollator collator(QLocale(QLocale::English));  // numbers are not compared by value in the locale C
    collator.setNumericMode(true);
    std::sort(by_name.begin(), by_name.end(), [&](int a, int b) {
        const QString &x = arranging_.names[a], &y = arranging_.names[b];
        return x.isEmpty() != y.isEmpty() ? y.isEmpty() : collator.compare(x, y) < 0;
    });
    std::vector<int> counts(by_name.size()), next(by_name.size());
    for (const int g : groups) ++counts[g];
    groups_.clear();
    int first = 0;
    for (const int g : by_name) {
        groups_.push_back({arranging_.names[g].isEmpty() ? "unknown" : arranging_.names[g], first, counts[g], 0});
        next[g] = first;
        first += counts[g];
    }
    order_.resize(groups.size());
    places_.resize(groups.size());
    for (std::size_t row = 0; row < groups.size(); ++row) {
        places_[row] = next[groups[row]]++;
        order_[places_[row]] = static_cast<int>(row);
    }
    arranging_ = {};
    lay_out();
    if (currentIndex().isValid()) scrollTo(currentIndex());
}

int PictureSheet::row_shown_at(int position) const {
    return position >= 0 && position < row_count() ? table_.source_row(model()->index(row_at(position), 0)) : -1;
}

int PictureSheet::position_of(int row) const {
    const int shown = table_.position_of(row);
    return shown < 0 ? -1 : place_of(shown);
}

int PictureSheet::heading_height() const {
    return grouping_ == Grouping::none || order_.empty() ? 0 : fontMetrics().height() + 2 * margin;
}

QSize PictureSheet::cell() const {
    const int width = viewport()->width() / columns_;
    return {width, (width - 2 * margin) * 3 / 4 + 2 * fontMetrics().height() + 3 * margin};
}

void PictureSheet::lay_out() {
    columns_ = std::max(1, viewport()->width() / std::max(least_cell, fontMetrics().averageCharWidth() * 18));
    int top = 0;
    for (Group& g : groups_) {
        g.top = top;
        top += heading_height() + (g.count + columns_ - 1) / columns_ * cell().height();
    }
    verticalScrollBar()->setRange(0, std::max(0, top - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(cell().height() / 3);
    viewport()->update();
}

const PictureSheet::Group& PictureSheet::group_of(int place) const {
    const auto after =
        std::upper_bound(groups_.begin(), groups_.end(), place, [](int p, const Group& g) { return p < g.first; });
    return *std::prev(after);
}

QRect PictureSheet::rect_of(int place) const {
    if (groups_.empty()) return {};
    const Group& g = group_of(place);
    const int at = place - g.first;
    const QSize size = cell();
    return {at % columns_ * size.width(), g.top + heading_height() + at / columns_ * size.height() - verticalOffset(),
            size.width(), size.height()};
}

QRect PictureSheet::visualRect(const QModelIndex& index) const {
    return index.isValid() && index.row() < row_count() ? rect_of(place_of(index.row())) : QRect();
}

int PictureSheet::verticalOffset() const { return verticalScrollBar()->value(); }

void PictureSheet::scrollTo(const QModelIndex& index, ScrollHint) {
    if (!index.isValid() || groups_.empty()) return;
    const QRect rect = visualRect(index);
    // The heading stays in view with the first row of its group.
    const int above = place_of(index.row()) - group_of(place_of(index.row())).first < columns_ ? heading_height() : 0;
    if (rect.top() - above < 0)
        verticalScrollBar()->setValue(verticalOffset() + rect.top() - above);
    else if (rect.bottom() > viewport()->height())
        verticalScrollBar()->setValue(verticalOffset() + rect.bottom() - viewport()->height() + 1);
}

QModelIndex PictureSheet::indexAt(const QPoint& point) const {
    if (groups_.empty() || row_count() == 0) return {};
    const int y = point.y() + verticalOffset();
    const auto after =
        std::upper_bound(groups_.begin(), groups_.end(), y, [](int at, const Group& g) { return at < g.top; });
    if (after == groups_.begin() || y < 0) return {};
    const Group& g = *std::prev(after);
    const int within = y - g.top - heading_height(), column = point.x() / cell().width();
    if (within < 0 || point.x() < 0 || column >= columns_) return {};
    const int at = within / cell().height() * columns_ + column;
    return at < g.count ? model()->index(row_at(g.first + at), 0) : QModelIndex();
}

/// The place above or below in the same column, across groups; the place itself at the ends.
int PictureSheet::nearest_beside(int place, int step) const {
    const Group& g = group_of(place);
    const int column = (place - g.first) % columns_, line = (place - g.first) / columns_ + step;
    const int lines = (g.count + columns_ - 1) / columns_;
    if (line >= 0 && line < lines) return g.first + std::min(line * columns_ + column, g.count - 1);
    const auto index = &g - groups_.data() + step;
    if (index < 0 || index >= static_cast<long>(groups_.size())) return place;
    const Group& other = groups_[static_cast<std::size_t>(index)];
    const int last_line = (other.count - 1) / columns_;
    return other.first + std::min((step > 0 ? 0 : last_line * columns_) + column, other.count - 1);
}

QModelIndex PictureSheet::moveCursor(CursorAction action, Qt::KeyboardModifiers) {
    if (row_count() == 0 || groups_.empty()) return {};
    const int last = row_count() - 1, now = currentIndex().isValid() ? place_of(currentIndex().row()) : 0;
    const int lines = std::max(1, viewport()->height() / cell().height());
    int to = now;
    const auto vertical = [&](int step, int count) {
        for (int i = 0; i < count; ++i) to = nearest_beside(to, step);
    };
    switch (action) {
        case MoveLeft:
        case MovePrevious: to = std::max(0, now - 1); break;
        case MoveRight:
        case MoveNext: to = std::min(last, now + 1); break;
        case MoveUp: vertical(-1, 1); break;
        case MoveDown: vertical(1, 1); break;
        case MovePageUp: vertical(-1, lines); break;
        case MovePageDown: vertical(1, lines); break;
        case MoveHome: to = 0; break;
        case MoveEnd: to = last; break;
    }
    return model()->index(row_at(to), 0);
}

void PictureSheet::extend_to(int place, QItemSelectionModel::SelectionFlags command) {
    const int from = std::min({anchor_, place, row_count() - 1}),
              to = std::max(std::min(anchor_, row_count() - 1), place);
    QItemSelection chosen;
    for (int p = from; p <= to; ++p) {
        const int row = row_at(p);
        int end = p;
        while (end < to && row_at(end + 1) == row + end + 1 - p) ++end;
        chosen.select(model()->index(row, 0), model()->index(row + end - p, 0));
        p = end;
    }
    selectionModel()->select(chosen, command | QItemSelectionModel::Rows);
}

void PictureSheet::setSelection(const QRect& rect, QItemSelectionModel::SelectionFlags command) {
    const bool range = QApplication::keyboardModifiers() & Qt::ShiftModifier || state() == DragSelectingState;
    const QModelIndex at = range && currentIndex().isValid() ? currentIndex() : indexAt(rect.center());
    if (!at.isValid()) {
        if (command & QItemSelectionModel::Clear) selectionModel()->select(QModelIndex(), command);
        return;
    }
    if (!range) anchor_ = place_of(at.row());
    extend_to(place_of(at.row()), command);
}

void PictureSheet::mousePressEvent(QMouseEvent* event) {
    const QModelIndex at = indexAt(event->pos());
    if (at.isValid() && event->button() == Qt::LeftButton && event->modifiers() & Qt::ShiftModifier &&
        selectionMode() == ExtendedSelection) {
        extend_to(place_of(at.row()), QItemSelectionModel::ClearAndSelect);
        selectionModel()->setCurrentIndex(at, QItemSelectionModel::NoUpdate);
        return event->accept();
    }
    QAbstractItemView::mousePressEvent(event);
    if (at.isValid()) anchor_ = place_of(at.row());
}

void PictureSheet::keyPressEvent(QKeyEvent* event) {
    QAbstractItemView::keyPressEvent(event);
    if (!(event->modifiers() & Qt::ShiftModifier) && currentIndex().isValid()) anchor_ = place_of(currentIndex().row());
}

QRegion PictureSheet::visualRegionForSelection(const QItemSelection& selection) const {
    QRegion out;
    for (const QItemSelectionRange& range : selection) {
        if (range.height() > 200) return viewport()->rect();
        for (int row = range.top(); row <= std::min(range.bottom(), row_count() - 1); ++row)
            out += rect_of(place_of(row));
    }
    return out;
}

void PictureSheet::updateGeometries() {
    QAbstractItemView::updateGeometries();
    if (!groups_.empty()) lay_out();
}

void PictureSheet::resizeEvent(QResizeEvent* event) {
    QAbstractItemView::resizeEvent(event);
    if (groups_.empty()) return;
    lay_out();
    if (currentIndex().isValid()) scrollTo(currentIndex());
}

void PictureSheet::showEvent(QShowEvent* event) {
    QAbstractItemView::showEvent(event);
    if (!stale_) return;
    arrange();
    if (currentIndex().isValid()) scrollTo(currentIndex());
}

void PictureSheet::dataChanged(const QModelIndex& from, const QModelIndex& to, const QList<int>& roles) {
    QAbstractItemView::dataChanged(from, to, roles);
    viewport()->update();
}

void PictureSheet::startDrag(Qt::DropActions) { table_.drag_files(); }

void PictureSheet::paintEvent(QPaintEvent* event) {
    QPainter painter(viewport());
    painter.fillRect(event->rect(), theme::paper);
    if (row_count() == 0) return;
    for (const Group& g : groups_) {
        const int top = g.top - verticalOffset();
        if (top > event->rect().bottom()) break;
        const int bottom = top + heading_height() + (g.count + columns_ - 1) / columns_ * cell().height();
        if (bottom < event->rect().top()) continue;
        if (heading_height() > 0) {
            const QRect line(0, top, viewport()->width(), heading_height());
            painter.fillRect(line, theme::rail);
            painter.setPen(theme::ink);
            QFont bold = font();
            bold.setBold(true);
            painter.setFont(bold);
            painter.drawText(line.adjusted(2 * margin, 0, -margin, 0), Qt::AlignVCenter,
                             QString("%1   %2").arg(g.name).arg(g.count));
        }
        const int above = std::max(0, event->rect().top() - top - heading_height()) / cell().height();
        for (int place = g.first + above * columns_; place < g.first + g.count; ++place) {
            const QRect rect = rect_of(place);
            if (rect.top() > event->rect().bottom()) break;
            paint_cell(painter, place, rect);
        }
    }
}

void PictureSheet::paint_cell(QPainter& painter, int place, const QRect& rect) {
    const QModelIndex index = model()->index(row_at(place), 0);
    const auto item = source_.item(table_.source_row(index));
    if (!item) return;
    const bool chosen = selectionModel()->isRowSelected(index.row(), QModelIndex());
    if (chosen) painter.fillRect(rect, theme::mark_pale);
    const int line = fontMetrics().height();
    const QRect box = rect.adjusted(margin, margin, -margin, -(2 * line + 2 * margin));
    const PictureLoader::Found found = PictureLoader::here().find(item->of, ScreenService::here().colours(this));
    if (found.picture.isNull()) {
        painter.fillRect(box, theme::rail);
        painter.setFont(font());
        painter.setPen(found.problem.isEmpty() ? theme::faint_ink : theme::serious);
        painter.drawText(box, Qt::AlignCenter | Qt::TextWordWrap, found.problem.isEmpty() ? "…" : "✕ no picture");
    } else {
        painter.fillRect(box, theme::surround);
        QRect to(QPoint(), found.picture.size().scaled(box.size(), Qt::KeepAspectRatio));
        to.moveCenter(box.center());
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(to, found.picture);
    }
    const QRect name(box.left(), box.bottom() + margin / 2, box.width(), line), state = name.translated(0, line);
    painter.setFont(font());
    painter.setPen(theme::ink);
    painter.drawText(name, Qt::AlignLeft, fontMetrics().elidedText(item->name, Qt::ElideMiddle, name.width()));
    painter.setPen(Table::ink_of(item->state.tone));
    painter.drawText(state, Qt::AlignLeft, fontMetrics().elidedText(item->state.text, Qt::ElideRight, state.width()));
    if (index.row() != currentIndex().row()) return;
    painter.setPen(QPen(theme::mark, hasFocus() ? 2 : 1));
    painter.drawRect(rect.adjusted(1, 1, -2, -2));
}

}  // namespace optrel

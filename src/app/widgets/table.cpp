// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/table.h"

#include "base/csv.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QDrag>
#include <QHeaderView>
#include <QMenu>
#include <QUrl>
#include <algorithm>

#include "theme.h"
#include "view_settings.h"
#include "window_words.h"

namespace optrel {

RowsModel::RowsModel(std::vector<Column> columns, QObject* parent)
    : QAbstractTableModel(parent), columns_(std::move(columns)) {}

void RowsModel::set_lazy(int count, std::function<Cell(int, int)> cell) {
    const bool reset = !lazy_ || count != lazy_count_;
    if (reset) beginResetModel();
    rows_.clear();
    lazy_ = std::move(cell);
    lazy_count_ = count;
    if (reset)
        endResetModel();
    else if (count > 0)
        emit dataChanged(index(0, 0), index(count - 1, static_cast<int>(columns_.size()) - 1));
}

Cell RowsModel::cell(int row, int column) const {
    if (row < 0 || row >= rowCount() || column < 0) return {};
    if (lazy_) return lazy_(row, column);
    return column < static_cast<int>(rows_[row].size()) ? rows_[row][column] : Cell();
}

void RowsModel::set_rows(std::vector<Row> rows) {
    if (!lazy_ && rows.size() == rows_.size()) {  // keeps scroll position and selection
        rows_ = std::move(rows);
        if (!rows_.empty())
            emit dataChanged(index(0, 0),
                             index(static_cast<int>(rows_.size()) - 1, static_cast<int>(columns_.size()) - 1));
        return;
    }
    beginResetModel();
    lazy_ = nullptr;
    rows_ = std::move(rows);
    endResetModel();
}

void RowsModel::set_columns(std::vector<Column> columns) {
    beginResetModel();
    columns_ = std::move(columns);
    rows_.clear();
    lazy_ = nullptr;
    endResetModel();
}

int RowsModel::rowCount(const QModelIndex& parent) const {
    if (parent.isValid()) return 0;
    return lazy_ ? lazy_count_ : static_cast<int>(rows_.size());
}
int RowsModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(columns_.size());
}

QVariant RowsModel::data(const QModelIndex& index, int role) const {
    if (role == Qt::TextAlignmentRole && index.isValid())
        return int(Qt::AlignVCenter | (columns_[index.column()].figure ? Qt::AlignRight : Qt::AlignLeft));
    if (!index.isValid() || !(role == Qt::DisplayRole || role == Qt::EditRole || role == Qt::ToolTipRole ||
                              role == Qt::UserRole || role == Qt::FontRole || role == Qt::ForegroundRole))
        return {};
    const Cell cell = this->cell(index.row(), index.column());
    switch (role) {
        case Qt::DisplayRole: return cell.text;
        case Qt::EditRole: return cell.edit.isNull() ? cell.text : cell.edit;
        case Qt::ToolTipRole: return cell.hint.isEmpty() ? cell.text : cell.hint;
        case Qt::UserRole: return cell.sort.isValid() ? cell.sort : QVariant(cell.text);
        case Qt::FontRole: {
            QFont font = columns_[index.column()].figure ? theme::figure_font(9) : theme::text_font();
            if (cell.tone == Cell::Tone::mark || cell.tone == Cell::Tone::serious || cell.tone == Cell::Tone::heading)
                font.setBold(true);
            return font;
        }
        case Qt::ForegroundRole: return Table::ink_of(cell.tone);
        default: return {};
    }
}

QVariant RowsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || section >= static_cast<int>(columns_.size())) return {};
    if (role == Qt::DisplayRole || role == Qt::ToolTipRole) return columns_[section].title;
    if (role == Qt::TextAlignmentRole)
        return int(Qt::AlignVCenter | Qt::TextWordWrap | (columns_[section].figure ? Qt::AlignRight : Qt::AlignLeft));
    return {};
}

Qt::ItemFlags RowsModel::flags(const QModelIndex& index) const {
    Qt::ItemFlags f = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    if (index.isValid() && columns_[index.column()].editable) f |= Qt::ItemIsEditable;
    if (draggable_) f |= Qt::ItemIsDragEnabled;
    return f;
}

bool RowsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
    if (role != Qt::EditRole || data(index, Qt::EditRole).toString() == value.toString()) return false;
    emit edited(index.row(), index.column(), value.toString());
    return true;
}

Cell day_cell(const std::string& utc) { return {local_day(utc), Cell::Tone::plain, full_local_time(utc)}; }

Cell time_cell(const std::string& utc) { return {local_time(utc), Cell::Tone::plain, full_local_time(utc)}; }

QColor Table::ink_of(Cell::Tone tone) {
    switch (tone) {
        case Cell::Tone::faint: return theme::faint_ink;
        case Cell::Tone::mark: return theme::mark;
        case Cell::Tone::warning: return theme::warning;
        case Cell::Tone::serious: return theme::serious;
        default: return theme::ink;
    }
}

Table::Table(const QString& accessible_name, std::vector<Column> columns, QWidget* parent) : QTableView(parent) {
    model_ = new RowsModel(std::move(columns), this);
    sorted_ = new QSortFilterProxyModel(this);
    sorted_->setSourceModel(model_);
    sorted_->setSortRole(Qt::UserRole);
    setModel(sorted_);
    setAccessibleName(accessible_name);
    setAlternatingRowColors(true);
    setShowGrid(false);
    setSelectionBehavior(QAbstractItemView::SelectRows);
    setSelectionMode(QAbstractItemView::SingleSelection);
    setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    setWordWrap(false);
    setTabKeyNavigation(false);
    verticalHeader()->hide();
    verticalHeader()->setDefaultSectionSize(22);
    horizontalHeader()->setHighlightSections(false);
    horizontalHeader()->setMinimumSectionSize(24);
    horizontalHeader()->setFixedHeight(24);
    setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
    connect(model_, &RowsModel::edited, this, &Table::cell_edited);
    connect(selectionModel(), &QItemSelectionModel::currentChanged, this,
            [this](const QModelIndex& now, const QModelIndex&) {
                const QModelIndex source = sorted_->mapToSource(now);
                emit chosen_changed(source.row());
                if (source.isValid()) emit cell_chosen(source.row(), source.column());
            });
    connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] { emit selection_changed(); });
    for (const Column& c : model_->columns())
        if (const int width = view_setting(setting("width of " + c.title)).toInt(); width > 0)
            own_widths_[c.title] = width;
    connect(horizontalHeader(), &QHeaderView::sectionResized, this, [this](int column, int, int width) {
        // Columns are also resized when they are shown or hidden.
        if (laying_ || width < 1 || !(QApplication::mouseButtons() & Qt::LeftButton)) return;
        const QString title = model_->columns()[static_cast<std::size_t>(column)].title;
        own_widths_[title] = width;
        set_view_setting(setting("width of " + title), width);
    });
    lay_columns();
    // In the order of the rows until somebody presses a title; a third press gives that order back.
    horizontalHeader()->setSortIndicator(-1, Qt::AscendingOrder);
    horizontalHeader()->setSortIndicatorClearable(true);
    allow_sorting(true);
    connect(horizontalHeader(), &QHeaderView::sortIndicatorChanged, this, [this](int column, Qt::SortOrder order) {
        if (!isSortingEnabled()) return;
        set_view_setting(setting("sorted by"), column);
        set_view_setting(setting("descending"), order == Qt::DescendingOrder);
    });
}

void Table::allow_sorting(bool allowed) {
    sortable_ = allowed;
    sort_now(allowed);
}

void Table::sort_now(bool sorted) {
    if (sorted == isSortingEnabled()) return;
    setSortingEnabled(false);
    sorted_->sort(-1);
    setSortingEnabled(sorted);
    if (!sorted) return;
    if (const int column = view_setting(setting("sorted by"), -1).toInt();
        column >= 0 && column < model_->columnCount())
        sortByColumn(column, view_setting(setting("descending")).toBool() ? Qt::DescendingOrder : Qt::AscendingOrder);
}

void Table::forget_layout() {
    for (auto width = own_widths_.begin(); width != own_widths_.end(); ++width)
        set_view_setting(setting("width of " + width.key()), 0);
    own_widths_.clear();
    if (isSortingEnabled()) sortByColumn(-1, Qt::AscendingOrder);
    lay_columns();
}

void Table::set_rows(std::vector<Row> rows) {
    const int before = chosen();
    const bool reset = static_cast<int>(rows.size()) != model_->rowCount();
    // Measuring the height of many rows would block the window.
    if (wraps_)
        verticalHeader()->setSectionResizeMode(rows.size() <= 60 ? QHeaderView::ResizeToContents : QHeaderView::Fixed);
    model_->set_rows(std::move(rows));
    if (reset && before >= 0 && before < model_->rowCount()) choose(before);
}

void Table::set_lazy(int count, std::function<Cell(int, int)> cell) {
    const int before = chosen(), column = currentIndex().column();
    const bool reset = count != model_->rowCount();
    // Sorting asks for every cell, which the window would wait for.
    constexpr int most_sorted = 1000;
    sort_now(sortable_ && count <= most_sorted);
    model_->set_lazy(count, std::move(cell));
    if (reset && before >= 0 && before < count) choose(before, std::max(0, column));
}

void Table::wrap_rows() {
    wraps_ = true;
    setWordWrap(true);
    verticalHeader()->setMinimumSectionSize(22);
}

void Table::set_columns(std::vector<Column> columns) {
    model_->set_columns(std::move(columns));
    lay_columns();
}

int Table::chosen() const { return sorted_->mapToSource(currentIndex()).row(); }

std::vector<int> Table::chosen_rows() const {
    std::vector<int> out;
    for (const QModelIndex& i : selectionModel()->selectedRows()) out.push_back(sorted_->mapToSource(i).row());
    std::sort(out.begin(), out.end());
    return out;
}

void Table::choose_rows(const std::vector<int>& rows) {
    for (const int row : rows)
        if (row < row_count())
            selectionModel()->select(sorted_->mapFromSource(model_->index(row, 0)),
                                     QItemSelectionModel::Select | QItemSelectionModel::Rows);
}

void Table::choose(int row, int column) {
    if (row < 0 || row >= model_->rowCount()) return;
    // Not setCurrentIndex(), which would add to the selection while somebody holds Ctrl.
    selectionModel()->setCurrentIndex(sorted_->mapFromSource(model_->index(row, column)),
                                      QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
}

QPoint Table::middle_of(int row, int column) const {
    return visualRect(sorted_->mapFromSource(model_->index(row, column))).center();
}

QString Table::as_csv() const {
    std::vector<std::vector<std::string>> rows(1);
    for (const Column& c : model_->columns()) rows[0].push_back(c.title.toStdString());
    for (int r = 0; r < sorted_->rowCount(); ++r) {
        rows.emplace_back();
        for (int c = 0; c < sorted_->columnCount(); ++c)
            rows.back().push_back(sorted_->index(r, c).data().toString().toStdString());
    }
    return QString::fromStdString(write_csv(rows, "\n"));
}

void Table::contextMenuEvent(QContextMenuEvent* event) {
    QMenu menu;
    menu.addAction("Copy the table as CSV", this, [this] { QApplication::clipboard()->setText(as_csv()); });
    menu.addAction("Columns as they were at first", this, &Table::forget_layout);
    menu.exec(event->globalPos());
}

void Table::give_files(std::function<std::filesystem::path(int)> file) {
    file_ = std::move(file);
    model_->allow_dragging();
    setDragEnabled(true);
    setDragDropMode(QAbstractItemView::DragOnly);
}

std::unique_ptr<QMimeData> Table::files_to_drag() const {
    QList<QUrl> urls;
    for (const int row : chosen_rows())
        if (const std::filesystem::path path = file_ ? file_(row) : std::filesystem::path(); !path.empty())
            urls << QUrl::fromLocalFile(QString::fromStdString(path.string()));
    if (urls.isEmpty()) return nullptr;
    auto data = std::make_unique<QMimeData>();
    data->setUrls(urls);
    return data;
}

void Table::startDrag(Qt::DropActions) { drag_files(); }

void Table::drag_files() {
    std::unique_ptr<QMimeData> data = files_to_drag();
    if (!data) return;
    auto* drag = new QDrag(this);
    drag->setMimeData(data.release());
    drag->exec(Qt::CopyAction);  // copy only: frames are never moved by dragging
}

void Table::resizeEvent(QResizeEvent* event) {
    QTableView::resizeEvent(event);
    lay_columns();
}

void Table::lay_columns() {
    const std::vector<Column>& columns = model_->columns();
    int fixed = 0, sharing = 0;
    for (std::size_t i = 0; i < columns.size(); ++i) {
        if (isColumnHidden(static_cast<int>(i))) continue;
        const int width = own_widths_.value(columns[i].title, columns[i].width);
        fixed += width;
        sharing += width == 0;
    }
    const int share = sharing ? std::max(columns.size() > 9 ? 40 : 60, (viewport()->width() - fixed) / sharing) : 0;
    laying_ = true;
    for (std::size_t i = 0; i < columns.size(); ++i) {
        const int width = own_widths_.value(columns[i].title, columns[i].width);
        setColumnWidth(static_cast<int>(i), width ? width : share);
    }
    laying_ = false;
}

}  // namespace optrel

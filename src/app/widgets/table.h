// SPDX-License-Identifier: GPL-3.0-or-later
// The table that all places use: rows of texts, figures to the right, sorting, copying as CSV, cells that may be
// edited.
#pragma once

#include <QAbstractTableModel>
#include <QHash>
#include <QHeaderView>
#include <QMimeData>
#include <QSortFilterProxyModel>
#include <QTableView>
#include <filesystem>
#include <functional>
#include <memory>
#include <vector>

#include "base/figure_text.h"

namespace optrel {

struct Column {
    QString title;  ///< with the unit
    bool figure = false;
    bool editable = false;
    int width = 0;  ///< px; 0: shares what is left
};

/// Columns by what they hold; `width` in px, 0 shares what is left.
inline Column text_column(const QString& title, int width = 0) { return {title, false, false, width}; }
inline Column figure_column(const QString& title, int width = 0) { return {title, true, false, width}; }
inline Column edited_column(const QString& title, int width = 0) { return {title, false, true, width}; }
inline Column edited_figure_column(const QString& title, int width = 0) { return {title, true, true, width}; }

/// A cell: its text, what it sorts by (a figure), a hint on hover, and how it stands out.
struct Cell {
    QString text;
    QVariant sort;
    QString hint;
    QString edit;  ///< what an editor begins with, where that is not the text
    enum class Tone { plain, faint, mark, warning, serious, heading } tone = Tone::plain;

    Cell() = default;
    Cell(const QString& t) : text(t) {}
    Cell(const char* t) : text(QString::fromUtf8(t)) {}
    Cell(const QString& t, double value) : text(t), sort(value) {}
    Cell(const QString& t, Tone how, const QString& h = {}) : text(t), hint(h), tone(how) {}
};
using Row = std::vector<Cell>;

/// A count or another whole figure, which sorts by its value.
template <class Number>
Cell figure_cell(Number n) {
    return {QString::number(n), static_cast<double>(n)};
}

/// A measured figure; the title of its column says the unit.
inline Cell measured_cell(const FigureKind& kind, double value) {
    return {QString::fromStdString(number_text(kind, value)), value};
}

/// A day or a time of the store, in local time, with all of it as a hint.
Cell day_cell(const std::string& utc);
Cell time_cell(const std::string& utc);

class RowsModel : public QAbstractTableModel {
    Q_OBJECT
public:
    explicit RowsModel(std::vector<Column> columns, QObject* parent);
    void set_rows(std::vector<Row> rows);
    const std::vector<Row>& rows() const { return rows_; }
    /// Cells that are made when they are looked at, for tables of any length. `cell` must not throw.
    void set_lazy(int count, std::function<Cell(int row, int column)> cell);
    Cell cell(int row, int column) const;
    const std::vector<Column>& columns() const { return columns_; }
    void set_columns(std::vector<Column> columns);

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    void allow_dragging() { draggable_ = true; }
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

signals:
    void edited(int row, int column, const QString& text);

private:
    std::vector<Column> columns_;
    std::vector<Row> rows_;
    std::function<Cell(int, int)> lazy_;
    int lazy_count_ = 0;
    bool draggable_ = false;
};

class Table : public QTableView {
    Q_OBJECT
public:
    Table(const QString& accessible_name, std::vector<Column> columns, QWidget* parent = nullptr);

    /// Replaces the rows; the selected row stays selected where it is still there.
    void set_rows(std::vector<Row> rows);
    void set_lazy(int count, std::function<Cell(int row, int column)> cell);
    void set_columns(std::vector<Column> columns);
    int row_count() const { return model_->rowCount(); }
    /// Index into the rows as given, whatever the sorting; -1: none.
    int chosen() const;
    /// All selected rows, of a table that allows several (allow_several()), ascending.
    std::vector<int> chosen_rows() const;
    void allow_several() { setSelectionMode(QAbstractItemView::ExtendedSelection); }
    /// Titles of the columns on up to three lines, where they are names that may be long.
    void allow_long_titles() { horizontalHeader()->setFixedHeight(54); }
    void choose(int row, int column = 0);
    /// Selects several rows besides the chosen one, those that there are.
    void choose_rows(const std::vector<int>& rows);
    /// The middle of a cell in the viewport, for tests that click.
    QPoint middle_of(int row, int column) const;
    QString as_csv() const;
    RowsModel& rows_model() { return *model_; }
    const RowsModel& rows_model() const { return *model_; }
    /// Shares the width among the columns that are shown; those that a person made wider or narrower stay so.
    void lay_columns();
    /// Lets long texts take several lines; for tables of few rows.
    void wrap_rows();
    void allow_sorting(bool allowed);
    /// Forgets the widths and the sorting that a person chose.
    void forget_layout();
    /// Rows stand for files, which can be dragged to other programs. `file` gives an empty path for a row without one.
    void give_files(std::function<std::filesystem::path(int row)> file);
    /// The files of the selected rows, as they are dragged; null where there are none.
    std::unique_ptr<QMimeData> files_to_drag() const;
    void drag_files();
    /// Row as given, before sorting, of an index of the shown model.
    int source_row(const QModelIndex& shown) const { return sorted_->mapToSource(shown).row(); }
    /// Position of a row as the table shows it, counted from the top; -1 when the row does not exist.
    int position_of(int row) const { return sorted_->mapFromSource(model_->index(row, 0)).row(); }
    /// Row as given that is shown at a position; -1 when there is none.
    int row_shown_at(int position) const { return source_row(sorted_->index(position, 0)); }
    static QColor ink_of(Cell::Tone tone);

signals:
    void chosen_changed(int row);
    /// Other rows are selected than before; comes after chosen_changed().
    void selection_changed();
    void cell_edited(int row, int column, const QString& text);
    void cell_chosen(int row, int column);

protected:
    void resizeEvent(QResizeEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void startDrag(Qt::DropActions actions) override;

private:
    void sort_now(bool sorted);
    QString setting(const QString& what) const { return "table/" + accessibleName() + "/" + what; }

    std::function<std::filesystem::path(int)> file_;
    RowsModel* model_;
    QSortFilterProxyModel* sorted_;
    bool wraps_ = false, laying_ = false, sortable_ = false;
    QHash<QString, int> own_widths_;  ///< px, by the title of the column; remembered by the table's name
};

/// A column of records: what stands above it, and how it shows one of them.
template <class Record>
struct ColumnOf {
    Column column;
    std::function<Cell(const Record&)> shows;
};

/// A table that is declared by its columns: it is given records, and each column says what it shows of them.
template <class Record>
class TableOf : public Table {
public:
    TableOf(const QString& accessible_name, std::vector<ColumnOf<Record>> columns, QWidget* parent = nullptr)
        : Table(accessible_name, titles(columns), parent), columns_(std::move(columns)) {}

    /// Replaces the rows by one for each record, in their order.
    template <class Records>
    void show_records(const Records& records) {
        std::vector<Row> rows;
        for (const Record& record : records) {
            Row& row = rows.emplace_back();
            for (const ColumnOf<Record>& c : columns_) row.push_back(c.shows(record));
        }
        set_rows(std::move(rows));
    }

    /// Records of a list of any length, asked for when they are looked at. `record` gives nullptr for one that is
    /// gone, and must not throw.
    void show_lazily(int count, std::function<const Record*(int row)> record) {
        set_lazy(count, [this, record = std::move(record)](int row, int column) {
            const Record* r = record(row);
            return r ? columns_[column].shows(*r) : Cell();
        });
    }

private:
    static std::vector<Column> titles(const std::vector<ColumnOf<Record>>& columns) {
        std::vector<Column> out;
        for (const ColumnOf<Record>& c : columns) out.push_back(c.column);
        return out;
    }

    std::vector<ColumnOf<Record>> columns_;
};

}  // namespace optrel

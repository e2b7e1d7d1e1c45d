// SPDX-License-Identifier: GPL-3.0-or-later
// A table of frames that can be shown as small pictures instead; the person's choice is remembered for each list.
#pragma once

#include <QComboBox>
#include <QHBoxLayout>
#include <QStackedWidget>
#include <QToolButton>

#include "pictures/picture_sheet.h"

namespace optrel {

/// Pictures of a table without groups: the name is in its first column, the state in another one. `path` may be empty
/// for a row without a frame.
PictureSource pictures_of(const Table& table, int state_column, std::function<std::filesystem::path(int row)> path);

class TableOrPictures : public QStackedWidget {
    Q_OBJECT
public:
    /// `key` names the list in the settings, as in "inspect". Groups are offered when `source` has group().
    TableOrPictures(Table& table, PictureSource source, const QString& key, QWidget* parent = nullptr);

    /// The choice between table and pictures, and of groups, for the head of the list.
    QWidget* choice() { return choice_; }
    /// This list beneath a title that has the choice at its right.
    QWidget* under(const QString& title);
    bool shows_pictures() const { return currentWidget() == sheet_; }
    void show_pictures(bool on);
    void group_by(Grouping grouping);
    PictureSheet& sheet() { return *sheet_; }
    /// Position at which a row of the table (counted before sorting) is shown now, and the row at a position; -1 when
    /// there is none.
    int position_of(int row) const;
    int row_shown_at(int position) const;

signals:
    /// The table or the pictures are shown now.
    void switched(bool pictures);

private:
    void show_now(bool pictures);

    QString key_;
    Table& table_;
    PictureSheet* sheet_;
    QWidget* choice_;
    QToolButton* pictures_;
    QComboBox* groups_ = nullptr;
};

}  // namespace optrel

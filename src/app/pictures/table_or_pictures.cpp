// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/table_or_pictures.h"

#include "view_settings.h"
#include "widgets/place.h"
#include "window_words.h"

namespace optrel {

PictureSource pictures_of(const Table& table, int state_column, std::function<std::filesystem::path(int)> path) {
    const RowsModel& rows = table.rows_model();
    return {[&rows, state_column, path = std::move(path)](int row) -> std::optional<PictureItem> {
                const std::filesystem::path frame = path(row);
                if (frame.empty() || row >= rows.rowCount()) return std::nullopt;
                return PictureItem{{frame}, q(frame.filename().string()), rows.cell(row, state_column)};
            },
            {}};
}

TableOrPictures::TableOrPictures(Table& table, PictureSource source, const QString& key, QWidget* parent)
    : QStackedWidget(parent), key_("list/" + key), table_(table) {
    const bool with_groups = static_cast<bool>(source.group);
    addWidget(&table);
    sheet_ = new PictureSheet(table, std::move(source));
    addWidget(sheet_);
    choice_ = new QWidget;
    auto* layout = new QHBoxLayout(choice_);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(3);
    if (with_groups) {
        groups_ = new QComboBox;
        groups_->setAccessibleName("Groups of " + table.accessibleName());
        groups_->setToolTip("Puts pictures of one body, lens, ISO or day together");
        for (int i = 0; i < grouping_count; ++i) groups_->addItem(grouping_name(static_cast<Grouping>(i)));
        layout->addWidget(groups_);
        connect(groups_, &QComboBox::activated, this, [this](int grouping) {
            set_view_setting(key_ + "/groups", grouping);
            sheet_->group_by(static_cast<Grouping>(grouping));
        });
        const int last = view_setting(key_ + "/groups", 0).toInt();
        if (last > 0 && last < grouping_count) group_by(static_cast<Grouping>(last));
    }
    pictures_ = new QToolButton;
    pictures_->setText("Pictures");
    pictures_->setCheckable(true);
    pictures_->setAccessibleName(table.accessibleName() + " as small pictures");
    pictures_->setToolTip("Shows small pictures in place of the table");
    layout->addWidget(pictures_);
    connect(pictures_, &QToolButton::toggled, this, &TableOrPictures::show_now);
    connect(pictures_, &QToolButton::clicked, this, [this](bool on) { set_view_setting(key_ + "/pictures", on); });
    show_pictures(view_setting(key_ + "/pictures", false).toBool());
    show_now(pictures_->isChecked());
}

void TableOrPictures::show_pictures(bool on) { pictures_->setChecked(on); }

QWidget* TableOrPictures::under(const QString& title) {
    auto* out = new QWidget;
    auto* layout = stacked_in(out);
    auto* head = new QHBoxLayout;
    head->addWidget(heading(title));
    head->addStretch();
    head->addWidget(choice_);
    layout->addLayout(head);
    layout->addWidget(this, 1);
    return out;
}

int TableOrPictures::position_of(int row) const {
    return shows_pictures() ? sheet_->position_of(row) : table_.position_of(row);
}

int TableOrPictures::row_shown_at(int position) const {
    return shows_pictures() ? sheet_->row_shown_at(position) : table_.row_shown_at(position);
}

void TableOrPictures::group_by(Grouping grouping) {
    if (groups_) groups_->setCurrentIndex(static_cast<int>(grouping));
    sheet_->group_by(grouping);
}

void TableOrPictures::show_now(bool pictures) {
    const bool focused = currentWidget()->hasFocus();
    setCurrentIndex(pictures ? 1 : 0);
    if (groups_) groups_->setVisible(pictures);
    if (focused) currentWidget()->setFocus();
    emit switched(pictures);
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/put_dialog.h"

#include <QVBoxLayout>

#include "studio/baselines/frame_sheets.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

PutDialog::PutDialog(const QString& from, const Layer& values, std::vector<Target> targets,
                     std::function<QString(Field, const Value&)> text, QWidget* parent)
    : QDialog(parent), values_(values), targets_(std::move(targets)), text_(std::move(text)) {
    setWindowTitle("Put on others");
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(heading(QString("By hand on %1").arg(from)));
    fields_ = new QListWidget;
    fields_->setAccessibleName("Fields to put on others");
    fields_->setMaximumHeight(150);
    for (const auto& [field, value] : values_) {
        auto* item = new QListWidgetItem(q(info(field).label) + ": " + text_(field, value), fields_);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Checked);
        item->setData(Qt::UserRole, static_cast<int>(field));
    }
    layout->addWidget(fields_);
    count_ = new QLabel;
    count_->setWordWrap(true);
    layout->addWidget(count_);
    changes_ = new TableOf<Line>(
        "What changes", {{text_column("Frame", 130),
                          [this](const Line& l) { return Cell(q(targets_[l.target].frame.filename().string())); }},
                         {text_column("Field", 150), [](const Line& l) { return Cell(q(info(l.change.field).label)); }},
                         {figure_column("Now", 110),
                          [this](const Line& l) {
                              return l.change.before ? Cell(text_(l.change.field, *l.change.before))
                                                     : Cell("nothing", Cell::Tone::faint);
                          }},
                         {figure_column("Then", 110), [this](const Line& l) {
                              return Cell(text_(l.change.field, l.change.after), Cell::Tone::mark);
                          }}});
    layout->addWidget(changes_, 1);
    auto* buttons = answer_buttons(*this, "Put");
    put_ = taking(*buttons);
    layout->addWidget(buttons);
    connect(fields_, &QListWidget::itemChanged, this, &PutDialog::refresh);
    resize(560, 520);
    refresh();
}

Layer PutDialog::chosen() const {
    Layer out;
    for (int i = 0; i < fields_->count(); ++i)
        if (fields_->item(i)->checkState() == Qt::Checked) {
            const auto field = static_cast<Field>(fields_->item(i)->data(Qt::UserRole).toInt());
            out[field] = values_.at(field);
        }
    return out;
}

void PutDialog::refresh() {
    const Layer values = chosen();
    lines_.clear();
    int changed = 0, exempt = 0, unread = 0;
    for (std::size_t i = 0; i < targets_.size(); ++i) {
        const std::optional<Sheet>& sheet = targets_[i].sheet;
        unread += !sheet;
        exempt += sheet && sheet->exempt;
        if (!sheet) continue;
        const std::vector<HandChange> changes = changes_by(values, *sheet);
        changed += !changes.empty();
        for (const HandChange& c : changes) lines_.push_back({i, c});
    }
    changes_->show_lazily(static_cast<int>(lines_.size()), [this](int row) { return &lines_[row]; });
    QString said = QString("%1 of %2 frames change.").arg(changed).arg(targets_.size());
    if (exempt > 0) said += QString(" %1 are exempt and stay as they are.").arg(exempt);
    if (unread > 0) said += QString(" %1 could not be read and stay as they are.").arg(unread);
    count_->setText(said);
    put_->setText(QString("Put on %1 frames").arg(changed));
    put_->setEnabled(changed > 0);
}

}  // namespace optrel

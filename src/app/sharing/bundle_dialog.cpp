// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/bundle_dialog.h"

#include <QCheckBox>
#include <QHeaderView>
#include <QPushButton>
#include <QTreeWidget>

#include "sharing/standing_words.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {
namespace {

enum PartColumn { take_column, kind_column, stand_column, words_column };

QString stand_words(UnpackedPart::Stand stand) {
    switch (stand) {
        case UnpackedPart::Stand::fresh: return "+ new";
        case UnpackedPart::Stand::same: return "= here already";
        case UnpackedPart::Stand::differs: return "≠ differs";
        default: return "! cannot be used";
    }
}

QString words_of(const UnpackedPart& p) {
    QStringList out;
    for (const std::string& w : p.words) out << q(w);
    return out.join("; ");
}

}  // namespace

BundleDialog::BundleDialog(const BundleView& view, bool lies_in_folder, QWidget* parent)
    : QDialog(parent), view_(view) {
    setWindowTitle(view.way == "exchange" ? "A profile from an exchange" : "A bundle");
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(head());
    parts_ = new QTreeWidget;
    parts_->setAccessibleName("Parts of the bundle");
    parts_->setHeaderLabels({"Take, as", "Kind", "Here", "What it is, and what differs"});
    parts_->setRootIsDecorated(false);
    parts_->setAlternatingRowColors(true);
    parts_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    fill();
    layout->addWidget(parts_, 1);
    words_ = new QLabel;
    words_->setAccessibleDescription("The chosen part");
    words_->setTextFormat(Qt::PlainText);
    words_->setWordWrap(true);
    words_->setMinimumHeight(38);
    words_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    layout->addWidget(words_);
    replace_ = new QCheckBox("&Replace what is here where it differs");
    anyway_ = new QCheckBox(view.standing == Standing::withdrawn
                                ? "Take it &although its key was withdrawn: I know where it comes from"
                                : "Take it &although it is not signed: I know where it comes from");
    anyway_->setVisible(needs_insisting());
    layout->addWidget(replace_);
    layout->addWidget(anyway_);
    auto* buttons = answer_buttons(*this, "&Take in");
    take_ = taking(*buttons);
    if (lies_in_folder) {
        auto* aside = buttons->addButton("&Put aside", QDialogButtonBox::ActionRole);
        aside->setToolTip("Leaves it in its folder and does not ask again");
        connect(aside, &QPushButton::clicked, this, [this] {
            put_aside_ = true;
            accept();
        });
    }
    layout->addWidget(buttons);
    const auto tell = [this] {
        const QTreeWidgetItem* row = parts_->currentItem();
        words_->setText(row ? row->text(take_column) + ": " + row->text(words_column) : QString());
    };
    connect(parts_, &QTreeWidget::currentItemChanged, this, tell);
    tell();
    connect(parts_, &QTreeWidget::itemChanged, this, [this] { update_rows(); });
    connect(replace_, &QCheckBox::toggled, this, [this] { update_rows(); });
    connect(anyway_, &QCheckBox::toggled, this, [this] { update_rows(); });
    update_rows();
    resize(940, 560);
}

QWidget* BundleDialog::head() const {
    const Bundle& b = view_.bundle;
    auto* box = new QWidget;
    auto* down = stacked_in(box);
    down->addWidget(heading(q(b.title)));
    auto* origin = new QLabel(QString("%1 %2").arg(standing_mark(view_.standing), q(view_.origin())));
    origin->setAccessibleDescription("Where it comes from");
    origin->setWordWrap(true);
    origin->setStyleSheet(QString("font-weight: 600; color: %1").arg(standing_colour(view_.standing).name()));
    down->addWidget(origin);
    if (!view_.history.empty()) {
        auto* history = new QLabel(q(view_.history));
        history->setAccessibleDescription("The history that it was packed from");
        history->setWordWrap(true);
        down->addWidget(history);
    }
    QString packed = QString("Packed %1 with %2.").arg(local_day(b.time), q(b.program));
    if (!b.key.empty()) packed += QString(" Its key: %1").arg(q(b.key));
    auto* about = new QLabel(packed);
    about->setTextInteractionFlags(Qt::TextSelectableByMouse);
    about->setWordWrap(true);
    down->addWidget(about);
    if (!b.note.empty()) {
        auto* note = new QLabel("“" + q(b.note) + "”");
        note->setTextFormat(Qt::PlainText);
        note->setWordWrap(true);
        down->addWidget(note);
    }
    for (QLabel* label : {origin, about}) label->setTextFormat(Qt::PlainText);
    return box;
}

void BundleDialog::fill() {
    for (const UnpackedPart& p : view_.parts) {
        auto* row = new QTreeWidgetItem({q(p.name), q(to_string(p.kind)), stand_words(p.stand), words_of(p)});
        row->setToolTip(words_column, words_of(p));
        Qt::ItemFlags flags = Qt::ItemIsSelectable;
        if (p.usable()) flags |= Qt::ItemIsEnabled | Qt::ItemIsUserCheckable;
        if (p.usable() && p.kind == BundleKind::set) {
            flags |= Qt::ItemIsEditable;
            row->setToolTip(take_column, "A set may be taken under another name: press F2");
        }
        row->setFlags(flags);
        row->setCheckState(take_column, p.usable() && !p.replaces() ? Qt::Checked : Qt::Unchecked);
        parts_->addTopLevelItem(row);
    }
    parts_->header()->setStretchLastSection(true);
    parts_->setColumnWidth(take_column, 250);
    parts_->setColumnWidth(kind_column, 84);
    parts_->setColumnWidth(stand_column, 116);
    if (parts_->topLevelItemCount() > 0) parts_->setCurrentItem(parts_->topLevelItem(0));
}

bool BundleDialog::needs_insisting() const {
    return view_.standing == Standing::not_signed || view_.standing == Standing::withdrawn;
}

bool BundleDialog::replacing() const { return replace_->isChecked(); }

void BundleDialog::update_rows() {
    bool differs = false, any = false, blocked = false;
    for (int i = 0; i < parts_->topLevelItemCount(); ++i) {
        const UnpackedPart& p = view_.parts[i];
        const bool checked = parts_->topLevelItem(i)->checkState(take_column) == Qt::Checked;
        const bool renamed = parts_->topLevelItem(i)->text(take_column) != q(p.name);
        differs = differs || p.replaces();
        any = any || checked;
        blocked = blocked || (checked && p.replaces() && !renamed && !replacing());
    }
    replace_->setVisible(differs);
    take_->setEnabled(any && !blocked && (!needs_insisting() || anyway_->isChecked()));
    take_->setToolTip(blocked ? "A chosen part differs from what is here: give it another name, or replace what is here"
                              : "");
}

BundleChoice BundleDialog::choice() const {
    BundleChoice out;
    for (int i = 0; i < parts_->topLevelItemCount(); ++i) {
        const UnpackedPart& p = view_.parts[i];
        const QTreeWidgetItem* row = parts_->topLevelItem(i);
        if (row->checkState(take_column) != Qt::Checked) continue;
        out.parts.emplace_back(p.kind, p.id);
        const QString name = row->text(take_column).trimmed();
        if (p.kind == BundleKind::set && name != q(p.name)) out.set_names[p.id] = name.toStdString();
    }
    out.replace = replacing();
    out.anyway = anyway_->isChecked();
    return out;
}

}  // namespace optrel

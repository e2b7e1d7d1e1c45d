// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/matrix_panel.h"

#include <QHBoxLayout>
#include <QVBoxLayout>
#include <cmath>

#include "base/choose.h"
#include "base/figure_text.h"
#include "widgets/place.h"

namespace optrel {

MatrixPanel::MatrixPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    field_ = new QComboBox;
    field_->setAccessibleName("Field");
    for (const FieldInfo& f : all_fields())
        field_->addItem(q(f.label) + (f.unit.empty() ? "" : " / " + q(f.unit)), static_cast<int>(f.field));
    field_->setMaxVisibleItems(24);
    field_->setCurrentIndex(field_->findData(static_cast<int>(view_.field())));
    show_ = new QComboBox;
    show_->setAccessibleName("What the cells show");
    show_->addItems({"values", "changes since", "differences from"});
    show_->setToolTip("The resolved values; or, as before → now, what differs from a revision or from another body");
    which_ = new QComboBox;
    which_->setAccessibleName("Compared with");
    which_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    filter_ = search_line("Filter bodies", "body or model");
    filter_->setMaximumWidth(120);
    thirds_ = new QCheckBox("⅓ stops");
    thirds_->setToolTip("A column for every third of a stop");
    thirds_->setAccessibleName("Third stops");
    table_ = new Table("Matrix of bodies by ISO", {text_column("Body")});
    table_->setSelectionBehavior(QAbstractItemView::SelectItems);
    lay_out();
    listen();
    refresh_choices();
    refresh_rows();
}

void MatrixPanel::lay_out() {
    auto* top = new QHBoxLayout;
    top->setSpacing(4);
    top->addWidget(field_);
    top->addWidget(show_);
    top->addWidget(which_, 1);
    top->addWidget(filter_);
    top->addWidget(thirds_);
    auto* legend = new QLabel("s studio, m model, b body, · lens or ISO span, ° by a set, r recorded; faint: start");
    legend->setObjectName("faint");
    legend->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    legend->setToolTip(
        "The letter tells the scope of the tier that pinned the value; hover over a cell for its name, double-click to "
        "pin a value");
    auto* layout = stacked_in(this);
    layout->addLayout(top);
    layout->addWidget(legend);
    layout->addWidget(table_, 1);
}

void MatrixPanel::listen() {
    connect(field_, &QComboBox::currentIndexChanged, this,
            [this] { view_.choose_field(static_cast<Field>(field_->currentData().toInt())); });
    connect(show_, &QComboBox::currentIndexChanged, this, [this] {
        refresh_choices();
        load_revision();
        refresh_cells();
    });
    connect(which_, &QComboBox::currentIndexChanged, this, [this] {
        load_revision();
        refresh_cells();
    });
    connect(filter_, &QLineEdit::textChanged, this, &MatrixPanel::refresh_rows);
    connect(thirds_, &QCheckBox::toggled, this, &MatrixPanel::refresh_cells);
    connect(table_, &Table::cell_chosen, this,
            [this](int row, int column) { view_.choose_subject(subject_at(row, std::max(1, column))); });
    connect(table_, &Table::cell_edited, this, [this](int row, int column, const QString& text) {
        if (column > 0) emit cell_edited(subject_at(row, column), text);
    });
    connect(&view_, &DraftView::draft_changed, this, &MatrixPanel::refresh_rows);
    connect(&view_, &DraftView::field_changed, this, [this] {
        field_->setCurrentIndex(field_->findData(static_cast<int>(view_.field())));
        refresh_cells();
    });
}

void MatrixPanel::refresh_rows() {
    all_rows_ = view_.subjects();
    rows_.clear();
    const QStringList words = filter_->text().split(' ', Qt::SkipEmptyParts);
    for (const Subject& s : all_rows_) {
        const QString text = s.label + " " + q(s.facts.model);
        if (std::all_of(words.begin(), words.end(),
                        [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); }))
            rows_.push_back(s);
    }
    refresh_choices();
    refresh_cells();
}

void MatrixPanel::refresh_choices() {
    const QVariant keep = which_->currentData();
    const QSignalBlocker quiet(which_);
    which_->clear();
    if (show_->currentIndex() == against_revision)
        for (int n = view_.parts().baselines().current().number; n > 0; --n)
            which_->addItem(QString("revision %1").arg(n), n);
    if (show_->currentIndex() == against_body)
        for (const Subject& s : all_rows_) which_->addItem(s.label, s.label);
    which_->setVisible(show_->currentIndex() != values);
    if (const int at = which_->findData(keep); at >= 0) which_->setCurrentIndex(at);
}

void MatrixPanel::load_revision() {
    other_.reset();
    if (show_->currentIndex() != against_revision) return;
    const int number = which_->currentData().toInt();
    if (number == view_.parts().baselines().current().number)
        other_ = std::make_shared<const Resolver>(view_.parts().baselines().current());
    else if (number > 0)
        view_.parts().attempt([&] {
            if (auto r = view_.parts().baselines().revision(number))
                other_ = std::make_shared<const Resolver>(std::move(*r));
        });
}

void MatrixPanel::refresh_cells() {
    std::vector<double> isos;
    const int per_stop = thirds_->isChecked() ? 3 : 1;
    static const double nominal[] = {100, 125, 160, 200, 250, 320, 400, 500, 640, 800};
    const double low = view_.parts().frames().knowledge().lowest_iso,
                 high = view_.parts().frames().knowledge().highest_iso;
    for (int i = -6; i <= 30; ++i) {
        if ((i + 6) % 3 != 0 && per_stop == 1) continue;
        const int stop = static_cast<int>(std::floor(i / 3.0));
        const double iso = nominal[i - 3 * stop] * std::exp2(stop);
        if (iso >= low * 0.99 && iso <= high * 1.01) isos.push_back(iso);
    }
    if (isos != isos_) {
        isos_ = isos;
        std::vector<Column> columns{text_column("Body")};
        // Twelve columns share the width at 1280 pixels; more scroll sideways.
        const bool dense = isos_.size() > 9;
        for (const double iso : isos_)
            columns.push_back(
                {iso < 1e5 ? QString::number(std::lround(iso)) : QString("%1k").arg(std::lround(iso / 1000)), true,
                 true, first_of<int>({{!dense, 49}, {isos_.size() <= 12, 0}}, 46)});
        columns.front().width = dense ? 106 : 0;
        table_->set_columns(std::move(columns));
    }
    load_revision();
    table_->set_lazy(static_cast<int>(rows_.size()), [this](int row, int column) { return cell(row, column); });
}

Subject MatrixPanel::subject_at(int row, int column) const {
    if (row < 0 || row >= static_cast<int>(rows_.size())) return {};
    return view_.at_iso(rows_[row], isos_[std::clamp(column - 1, 0, static_cast<int>(isos_.size()) - 1)]);
}

QString MatrixPanel::short_text(Field f, const Value& value) const {
    if (info(f).type != FieldType::number) return view_.text_of(f, value);
    return QString::number(value.number, 'f',
                           value.number == std::round(value.number) ? 0 : std::max(1, info(f).decimals));
}

Cell MatrixPanel::cell(int row, int column) const {
    if (row >= static_cast<int>(rows_.size())) return {};
    if (column == 0) return Cell(rows_[row].label, Cell::Tone::plain, q(rows_[row].facts.model));
    const Field f = view_.field();
    const Subject s = subject_at(row, column);
    const ResolvedField now = view_.resolver().resolve(s.facts, f);
    if (show_->currentIndex() != values) {
        std::optional<ResolvedField> was;
        if (show_->currentIndex() == against_revision && other_) was = other_->resolve(s.facts, f);
        if (show_->currentIndex() == against_body)
            for (const Subject& other : all_rows_)
                if (other.label == which_->currentData().toString())
                    was = view_.resolver().resolve(view_.at_iso(other, s.facts.iso).facts, f);
        if (!was) return Cell("", Cell::Tone::faint);
        if (was->value == now.value) return Cell("=", Cell::Tone::faint, "the same: " + short_text(f, now.value));
        return Cell(short_text(f, was->value) + "→" + short_text(f, now.value), Cell::Tone::mark,
                    QString("%1 → %2").arg(view_.text_of(f, was->value), view_.text_of(f, now.value)));
    }
    QString text = short_text(f, now.value);
    QString hint = "from the start";
    const bool recorded = !now.tier && !now.set && now.value != info(f).neutral;
    if (now.tier) {
        if (isos_.size() <= 9) text += ' ';  // in narrow columns the mark follows directly
        text += first_of<char>({{now.tier->scope == Scope::studio, 's'}, {now.tier->scope == Scope::model, 'm'}}, 'b');
        if (now.tier->iso_span || now.tier->lens_condition != LensCondition::any) text += "·";
        hint = "pinned by " + view_.name_of(*now.tier);
    } else if (recorded) {
        text += isos_.size() <= 9 ? " r" : "r";
        hint = "as recorded by its frames, or added by the register for its model";
    }
    if (now.set) {
        text += "°";
        hint += ", by the set " + q(now.set->name);
    }
    Cell out(text, now.tier || recorded || now.set ? Cell::Tone::plain : Cell::Tone::faint, hint);
    out.edit = short_text(f, now.value);  // the mark after the value is not part of it
    return out;
}

void MatrixPanel::choose_cell(int row, int column) { table_->choose(row, column); }

}  // namespace optrel

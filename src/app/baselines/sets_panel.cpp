// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/sets_panel.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QMessageBox>
#include <QVBoxLayout>
#include <algorithm>

#include "base/files.h"
#include "base/output.h"
#include "studio/baselines/drafting.h"
#include "widgets/place.h"

namespace optrel {

namespace {

TableOf<PinSet>* new_sets_table(const DraftView& view) {
    return new TableOf<PinSet>(
        "Sets", {{edited_column("Set"),
                  [](const PinSet& s) {
                      return Cell(q(s.name), Cell::Tone::plain,
                                  s.note.empty() ? QString("double-click to rename") : q(s.note));
                  }},
                 {edited_column("Builds on", 84),
                  [](const PinSet& s) {
                      QStringList names;
                      for (const std::string& n : s.sets) names << q(n);
                      return names.isEmpty() ? Cell("nothing", Cell::Tone::faint) : Cell(names.join(", "));
                  }},
                 {figure_column("Pins", 36), [](const PinSet& s) { return figure_cell(s.pins.size()); }},
                 {figure_column("Used", 40), [&view](const PinSet& s) {
                      const std::size_t users = users_of_set(view.parts().baselines().draft(), s.name).size();
                      return Cell(QString::number(users), users ? Cell::Tone::plain : Cell::Tone::faint);
                  }}});
}

}  // namespace

SetsPanel::SetsPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    sets_ = new_sets_table(view);
    pins_ = new Table("Pins of the chosen set", {text_column("Field", 130), edited_column("Value, or ISO: value, …")});
    auto* add = button("&New set", "An empty set; in Inspect a set is made from a frame's sheet");
    delete_ = button("De&lete set", "Takes the chosen set out of the draft");
    export_ = button("E&xport…", "Writes all sets as JSON");
    auto* import = button("I&mport…", "Adds sets from a JSON file; a set of the same name is replaced");
    used_ = new QLabel;
    used_->setObjectName("faint");
    used_->setWordWrap(true);
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(3);
    for (QPushButton* b : {add, delete_}) buttons->addWidget(b);
    buttons->addStretch();
    for (QPushButton* b : {export_, import}) buttons->addWidget(b);
    auto* layout = stacked_in(this, 3);
    layout->addWidget(sets_, 2);
    layout->addLayout(buttons);
    pinned_only_ = new QCheckBox("Pinned &only");
    pinned_only_->setToolTip("Hides the fields that the chosen set leaves to inherit");
    pins_->allow_sorting(false);
    auto* head = new QHBoxLayout;
    head->addWidget(used_, 1);
    head->addWidget(pinned_only_);
    layout->addLayout(head);
    layout->addWidget(pins_, 4);
    sets_->give_files([this](int row) -> std::filesystem::path {
        const std::vector<PinSet>& sets = view_.parts().baselines().draft().sets;
        if (row < 0 || row >= static_cast<int>(sets.size())) return {};
        PackingList list;
        list.sets = {sets[row].name};
        return view_.parts().sharing().packed_to_drag(list, sets[row].name);
    });
    connect(sets_, &Table::chosen_changed, this, &SetsPanel::refresh_pins);
    connect(sets_, &Table::cell_edited, this, &SetsPanel::edit_set);
    connect(pins_, &Table::cell_edited, this, [this](int row, int, const QString& text) { edit_pin(row, text); });
    connect(pinned_only_, &QCheckBox::toggled, this, &SetsPanel::refresh_pins);
    connect(add, &QPushButton::clicked, this, &SetsPanel::add_set);
    connect(delete_, &QPushButton::clicked, this, &SetsPanel::delete_set);
    connect(export_, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getSaveFileName(this, "Export sets", "sets.json", "JSON (*.json)");
        if (!path.isEmpty())
            view_.parts().attempt([&] {
                write_output(path.toStdString(), json_output(), Existing::replace_ours,
                             sets_to_json(view_.parts().baselines().draft().sets));
            });
    });
    connect(import, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, "Import sets", "", "JSON (*.json)");
        if (!path.isEmpty()) import_from(path);
    });
    connect(&view_, &DraftView::draft_changed, this, &SetsPanel::refresh);
    refresh();
}

const PinSet* SetsPanel::chosen() const {
    const int row = sets_->chosen();
    return row >= 0 && row < static_cast<int>(view_.parts().baselines().draft().sets.size())
               ? &view_.parts().baselines().draft().sets[row]
               : nullptr;
}

void SetsPanel::refresh() {
    const Revision& draft = view_.parts().baselines().draft();
    sets_->show_records(draft.sets);
    if (sets_->chosen() < 0) sets_->choose(0);
    export_->setEnabled(!draft.sets.empty());
    refresh_pins();
}

void SetsPanel::refresh_pins() {
    const PinSet* s = chosen();
    delete_->setEnabled(s != nullptr);
    std::vector<Row> rows;
    if (!s) {
        used_->setText(
            "A set is a named list of pins that several tiers can use, or start from. Make one here, or from a frame's "
            "sheet in Inspect.");
    } else {
        QStringList users;
        const std::vector<Tier>& tiers = view_.parts().baselines().draft().tiers;
        for (const std::string& u : users_of_set(view_.parts().baselines().draft(), s->name)) {
            const auto tier = std::find_if(tiers.begin(), tiers.end(), [&](const Tier& t) { return t.name == u; });
            users << (tier == tiers.end() ? q(u) : view_.name_of(*tier));
        }
        used_->setText(users.isEmpty() ? QString("No tier uses it yet; name it in the Sets line of a tier.")
                                       : "Used by: " + users.join(", "));
        for (const FieldInfo& f : all_fields()) {
            const auto pin = s->pins.find(f.field);
            rows.push_back({Cell(q(f.label), Cell::Tone::plain, q(f.meaning)),
                            pin == s->pins.end()
                                ? Cell("inherits", Cell::Tone::faint, q(f.meaning))
                                : Cell(q(describe(f.field, pin->second)), Cell::Tone::mark, q(f.meaning))});
        }
    }
    pins_->set_rows(std::move(rows));
    for (int row = 0; row < pins_->row_count(); ++row)
        pins_->setRowHidden(row, pinned_only_->isChecked() && s->pins.count(all_fields()[row].field) == 0);
}

void SetsPanel::edit_set(int row, int column, const QString& text) {
    const DraftView::Parts& parts = view_.parts();
    if (row < 0 || row >= static_cast<int>(parts.baselines().draft().sets.size())) return;
    parts.attempt([&] {
        Revision after = parts.baselines().draft();
        const std::string name = after.sets[row].name;
        if (column == 0)
            rename_set_to(after, name, text.toStdString());
        else
            build_set_on(after, name, text.toStdString());
        parts.baselines().edit(column == 0 ? "rename a set" : "change what a set builds on", after);
    });
}

void SetsPanel::edit_pin(int row, const QString& text) {
    if (!chosen()) return;
    const DraftView::Parts& parts = view_.parts();
    parts.attempt([&] {
        Revision after = parts.baselines().draft();
        const Field f = all_fields()[row].field;
        const std::optional<Pin> pin = typed_pin(f, text.toStdString(), parts.profiles().references(), after);
        if (!pin && chosen()->pins.count(f) == 0) return;
        pin_in_set(after, chosen()->name, f, pin);
        parts.baselines().edit("change a pin of a set", after);
    });
}

void SetsPanel::add_set() {
    Revision after = view_.parts().baselines().draft();
    optrel::add_set(after);
    view_.parts().baselines().edit("add a set", after);
    sets_->choose(static_cast<int>(view_.parts().baselines().draft().sets.size()) - 1);
}

void SetsPanel::delete_set() {
    const PinSet* s = chosen();
    if (!s) return;
    const std::string name = s->name;
    view_.parts().attempt([&] {
        Revision after = view_.parts().baselines().draft();
        optrel::delete_set(after, name);
        view_.parts().baselines().edit("delete a set", after);
    });
}

void SetsPanel::offer(const QString& path) {
    view_.parts().attempt([&] {
        const Revision& before = view_.parts().baselines().draft();
        Revision after = before;
        const std::vector<PinSet> sets = sets_from_json(read_file(path.toStdString()), path.toStdString());
        take_in_sets(after, sets, TakeIn::replace);  // throws when they are invalid
        constexpr std::size_t most = 15;
        QStringList lines;
        for (const PinSet& s : sets) {
            const PinSet* there = before.set(s.name);
            if (there && *there == s) continue;
            lines << q(s.name) + QString(": %1 pin%2, %3")
                                     .arg(s.pins.size())
                                     .arg(s.pins.size() == 1 ? "" : "s")
                                     .arg(there ? "in place of the draft's" : "new");
        }
        if (lines.isEmpty()) return view_.parts().tell("The draft has these very sets already.");
        if (lines.size() > static_cast<qsizetype>(most)) lines = lines.mid(0, most) << "…";
        const auto answer = QMessageBox::question(this, "Sets from a file", "Into the draft:\n" + lines.join("\n"),
                                                  QMessageBox::Ok | QMessageBox::Cancel);
        if (answer == QMessageBox::Ok) import_from(path);
    });
}

void SetsPanel::import_from(const QString& path) {
    view_.parts().attempt([&] {
        Revision after = view_.parts().baselines().draft();
        const std::vector<PinSet> sets = sets_from_json(read_file(path.toStdString()), path.toStdString());
        const std::vector<std::string> replaced = take_in_sets(after, sets, TakeIn::replace);
        view_.parts().baselines().edit("import sets", after);
        QStringList names;
        for (const std::string& name : replaced) names << q(name);
        view_.parts().tell(QString("%1 sets imported into the draft%2.")
                               .arg(sets.size())
                               .arg(names.isEmpty() ? QString() : "; replaced: " + names.join(", ")));
    });
}

}  // namespace optrel

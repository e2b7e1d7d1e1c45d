// SPDX-License-Identifier: GPL-3.0-or-later
#include "intake/card_panel.h"

#include <QFormLayout>

#include "base/choose.h"
#include "base/station.h"
#include "jobs.h"
#include "studio/fleet/claim.h"
#include "studio/intake/intake.h"
#include "widgets/place.h"

namespace optrel {
namespace {

QLineEdit* line(const char* name, const char* placeholder) {
    auto* out = new QLineEdit;
    out->setAccessibleName(name);
    out->setPlaceholderText(placeholder);
    return out;
}

Cell became_cell(const ImportedFile& f) {
    switch (f.what) {
        case ImportedFile::What::there: return {"there already", Cell::Tone::faint};
        case ImportedFile::What::failed: return {"✕ " + q(f.why), Cell::Tone::serious, q(f.why)};
        default: return {q(f.out.string()), f.note.empty() ? Cell::Tone::plain : Cell::Tone::warning, q(f.note)};
    }
}

}  // namespace

CardPanel::CardPanel(const Parts& parts) : parts_(parts) {
    auto* layout = stacked_in(this);
    layout->setContentsMargins(8, 8, 8, 8);
    layout->addLayout(build_form());
    preview_ = button("&Preview", "Shows names and doubles; nothing is copied");
    copy_ = button("Copy &card",
                   "Copies what is not there yet; each copy is read back and compared, the card stays as it is");
    connect(preview_, &QPushButton::clicked, this, &CardPanel::preview);
    connect(copy_, &QPushButton::clicked, this, &CardPanel::copy);
    auto* bar = row_of({preview_, copy_});
    layout->addLayout(bar);
    summary_ = new QLabel("Choose the folder of a card and where its frames are to go.");
    summary_->setWordWrap(true);
    summary_->setAccessibleDescription("Card in short");
    layout->addWidget(summary_);
    files_ = new TableOf<ImportedFile>(
        "Files of the card", {{text_column("On the card", 110),
                               [](const ImportedFile& f) {
                                   return Cell(q(f.from.filename().string()), Cell::Tone::plain, q(f.from.string()));
                               }},
                              {text_column("Copy, or what is in the way"), became_cell}});
    files_->allow_sorting(false);
    layout->addWidget(files_, 1);
}

QLayout* CardPanel::build_form() {
    card_ = line("Card", "folder of the card");
    to_ = line("To", "folder of the shoot");
    second_ = line("Second copy", "none");
    name_ = line("Names", "");
    name_->setText("{name}");
    name_->setToolTip("Tokens: {name} {date} {body} {counter} and others of file names; a / makes folders");
    baseline_ = new QCheckBox("give the copies their baseline");
    baseline_->setChecked(true);
    auto* form = new QFormLayout;
    form->setContentsMargins(0, 0, 0, 0);
    form->addRow("Card", folder_row(card_, "Folder of the card"));
    form->addRow("To", folder_row(to_, "Folder of the shoot"));
    form->addRow("Second copy", folder_row(second_, "Folder of the second copy"));
    form->addRow("Names", name_);
    form->addRow("", baseline_);
    return form;
}

void CardPanel::set_folders(const QString& card, const QString& to) {
    card_->setText(card);
    to_->setText(to);
}

ImportOrder CardPanel::order() const {
    const auto path = [](const QLineEdit* l) { return std::filesystem::path(l->text().trimmed().toStdString()); };
    return {path(card_), path(to_), path(second_), name_->text().toStdString()};
}

void CardPanel::preview() {
    auto found = std::make_shared<std::vector<ImportedFile>>();
    parts_.jobs().run(
        "Looking at the card",
        [found, order = order(), fleet = parts_.entries().fleet()](Progress& progress) {
            *found = import_preview(order, fleet.get(), progress);
        },
        [this, found] { show_files(*found, false); });
}

void CardPanel::copy() {
    auto found = std::make_shared<std::vector<ImportedFile>>();
    parts_.jobs().run(
        "Copying the card",
        [found, order = order(), fleet = parts_.entries().fleet(), baseline = baseline_->isChecked(),
         source = parts_.intake().source(), author = current_author()](Progress& progress) {
            *found = import_card(order, fleet.get(), progress);
            IntakeOrder how;
            how.only_index = !baseline;
            how.author = author;
            Store store = source.open_for_writing();
            take_in_copies(store, *found, how, progress);
        },
        [this, found] {
            show_files(*found, true);
            parts_.intake().tell_of_arrivals();
        });
}

void CardPanel::show_files(const std::vector<ImportedFile>& files, bool done) {
    int copied = 0, there = 0, failed = 0;
    for (const ImportedFile& f : files) {
        copied += f.what == ImportedFile::What::copied;
        there += f.what == ImportedFile::What::there;
        failed += f.what == ImportedFile::What::failed;
    }
    QString text = done ? QString("%1 copied and compared").arg(copied) : QString("%1 would be copied").arg(copied);
    if (there > 0) text += QString(", %1 there already").arg(there);
    if (failed > 0) text += QString(done ? ", ✕ %1 failed" : ", ✕ %1 cannot be").arg(failed);
    if (files.empty()) text = "There is no frame and no film on the card";
    summary_->setText(text + ".");
    files_->show_records(files);
}

}  // namespace optrel

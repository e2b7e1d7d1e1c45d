// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/measurers_dialog.h"

#include "base/words.h"
#include "sharing/measurer_dialog.h"
#include "sharing/signing.h"
#include "widgets/place.h"

namespace optrel {
namespace {

TableOf<Measurer>* new_keys_table() {
    return new TableOf<Measurer>(
        "Keys that this studio knows",
        {{text_column("Owner", 200), [](const Measurer& m) { return Cell(q(m.name)); }},
         {text_column("Standing", 150),
          [](const Measurer& m) {
              if (!m.withdrawn.empty()) return Cell("! withdrawn " + q(m.withdrawn.substr(0, 10)), Cell::Tone::serious);
              return m.trusted ? Cell(QString::fromUtf8("✓ trusted"), Cell::Tone::mark) : Cell("? not trusted");
          }},
         {text_column("Key"),
          [](const Measurer& m) { return Cell(q(key_words(m.key)) + " …", Cell::Tone::plain, q(m.key)); }},
         {text_column("Said by", 110), [](const Measurer& m) { return Cell(q(m.author)); }},
         {text_column("On", 90), [](const Measurer& m) { return day_cell(m.time); }}});
}

}  // namespace

MeasurersDialog::MeasurersDialog(const Parts& parts, QWidget* parent) : QDialog(parent), parts_(parts) {
    setWindowTitle("Whose measurements count");
    auto* layout = new QVBoxLayout(this);
    auto* own = new QLabel;
    own->setAccessibleDescription("Your own key");
    own->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    own->setWordWrap(true);
    parts_.attempt([&] {
        own->setText("Your own key, which signs your bundles; give it to whom shall trust you:\n" +
                     q(SigningKey::load_or_make(own_key_path()).public_key()));
    });
    layout->addWidget(own);
    list_ = new_keys_table();
    layout->addWidget(list_, 1);
    none_ = new QLabel(
        "No key is known yet. What comes from elsewhere is a stand-in, taken only where a person assigns it, until you "
        "trust the key that signed it: add the key here, or trust the measurer of a profile that a search finds.");
    none_->setWordWrap(true);
    none_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    layout->addWidget(none_, 1);
    said_ = new QLabel;
    said_->setAccessibleDescription("What was found out");
    said_->setTextFormat(Qt::PlainText);
    said_->setWordWrap(true);
    layout->addWidget(said_);
    // The dialog hides the main window's message.
    connect(&parts_.messages(), &Messages::told, said_,
            [this](const QString& message, bool) { said_->setText(message); });
    layout->addLayout(button_row());
    connect(list_, &Table::chosen_changed, this, [this] {
        edit_->setEnabled(chosen() != nullptr);
        forget_->setEnabled(chosen() != nullptr);
    });
    connect(&parts_.sharing(), &SharingService::taken, this, &MeasurersDialog::refresh);
    refresh();
    resize(820, 420);
}

QHBoxLayout* MeasurersDialog::button_row() {
    auto* add = button("&Add…", "A key that somebody gave you");
    edit_ = button("&Change…", "Its name, and whether it is trusted");
    forget_ = button("&Forget", "Forgets the key; its signatures then count as unknown");
    auto* check =
        button("Ask for &withdrawn keys", "Asks the exchange which of the keys that this studio met were taken back");
    auto* close = button("Close", "Leaves");
    check->setEnabled(!parts_.sharing().exchange().empty());
    connect(add, &QPushButton::clicked, this, [this] { edit({}); });
    connect(edit_, &QPushButton::clicked, this, [this] {
        if (const Measurer* m = chosen()) edit(*m);
    });
    connect(forget_, &QPushButton::clicked, this, &MeasurersDialog::forget);
    connect(check, &QPushButton::clicked, this, [this] { parts_.sharing().check_keys(); });
    connect(close, &QPushButton::clicked, this, &QDialog::reject);
    auto* row = row_of({add, edit_, forget_, check});
    row->addStretch(1);
    row->addWidget(close);
    return row;
}

const Measurer* MeasurersDialog::chosen() const {
    const int row = list_->chosen();
    return row >= 0 && row < static_cast<int>(measurers_.size()) ? &measurers_[row] : nullptr;
}

void MeasurersDialog::refresh() {
    parts_.attempt([this] { measurers_ = parts_.sharing().measurers(); });
    list_->show_records(measurers_);
    list_->setVisible(!measurers_.empty());
    none_->setVisible(measurers_.empty());
    edit_->setEnabled(chosen() != nullptr);
    forget_->setEnabled(chosen() != nullptr);
}

void MeasurersDialog::edit(Measurer measurer) {
    MeasurerDialog dialog(measurer, this);
    if (dialog.exec() == QDialog::Accepted) parts_.attempt([&] { parts_.sharing().put_measurer(dialog.measurer()); });
}

void MeasurersDialog::forget() {
    if (const Measurer* m = chosen()) parts_.attempt([&, key = m->key] { parts_.sharing().forget_measurer(key); });
}

}  // namespace optrel

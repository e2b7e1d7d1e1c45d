// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/pack_dialog.h"

#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QLineEdit>
#include <QMessageBox>

#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

PackDialog::PackDialog(const QString& what, const QString& title, const QString& folder, QWidget* parent)
    : QDialog(parent) {
    setWindowTitle("Pack a bundle");
    auto* layout = new QVBoxLayout(this);
    auto* about =
        new QLabel(QString("Into one file go: %1. What that needs goes along: the sets that a set builds on, "
                           "pinned profiles and colour files, and of bodies their models, claims and measurements.")
                       .arg(what));
    about->setTextFormat(Qt::PlainText);
    about->setWordWrap(true);
    layout->addWidget(about);
    title_ = new QLineEdit(title);
    note_ = new QLineEdit;
    note_->setPlaceholderText("for who gets it");
    sender_ = new QLineEdit;
    sender_->setPlaceholderText("how you, or your studio, want to be called in it");
    sign_ = new QCheckBox("&Sign it with your key, so that others know who made it and that nothing was changed");
    sign_->setChecked(true);
    auto* form = new QFormLayout;
    const auto row = [&](const char* name, QLineEdit* line) {
        auto* label = new QLabel(name);
        label->setBuddy(line);
        line->setAccessibleName(QString(name).remove('&'));
        form->addRow(label, line);
    };
    row("&Title", title_);
    row("&Note", note_);
    row("S&ender", sender_);
    file_ = new QLineEdit(QDir(folder).filePath(QString(title).replace('/', '-') + bundle_ending));
    auto* choose = button("&Choose…", "Another place or name for the file");
    connect(choose, &QPushButton::clicked, this, &PackDialog::choose_file);
    auto* place = new QHBoxLayout;
    place->addWidget(file_, 1);
    place->addWidget(choose);
    auto* label = new QLabel("&File");
    label->setBuddy(file_);
    file_->setAccessibleName("File");
    form->addRow(label, place);
    layout->addLayout(form);
    layout->addWidget(sign_);
    layout->addStretch(1);
    layout->addWidget(answer_buttons(*this, "&Pack", [this] { return may_write(); }));
    resize(620, 320);
}

void PackDialog::choose_file() {
    const QString path = QFileDialog::getSaveFileName(this, "Pack a bundle", file_->text(), "Bundle (*.optrel.zip)",
                                                      nullptr, QFileDialog::DontConfirmOverwrite);
    if (!path.isEmpty()) file_->setText(path);
}

bool PackDialog::may_write() {
    QString path = file_->text().trimmed();
    if (path.isEmpty()) return false;
    if (!named_as_bundle(path.toStdString())) file_->setText(path += bundle_ending);
    return !QFileInfo::exists(path) ||
           QMessageBox::question(this, "Pack a bundle", path + " is there already. Replace it, if it is a bundle?") ==
               QMessageBox::Yes;
}

BundleLabel PackDialog::label() const {
    return {title_->text().trimmed().toStdString(), note_->text().trimmed().toStdString(),
            sender_->text().trimmed().toStdString()};
}

bool PackDialog::sign() const { return sign_->isChecked(); }
std::filesystem::path PackDialog::file() const { return file_->text().trimmed().toStdString(); }

}  // namespace optrel

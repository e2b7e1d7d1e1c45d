// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/sharing_actions.h"

#include <QDir>
#include <QFileDialog>
#include <QMessageBox>
#include <QPointer>
#include <QPushButton>

#include "base/words.h"
#include "sharing/bundle.h"
#include "sharing/bundle_dialog.h"
#include "sharing/exchange_dialog.h"
#include "sharing/measurers_dialog.h"
#include "sharing/offer_dialog.h"
#include "sharing/pack_dialog.h"

namespace optrel {

void ask_for_bundle(const SharingParts& parts, QWidget* window) {
    const QString path = QFileDialog::getOpenFileName(window, "Take in a bundle", "", "Bundle (*.optrel.zip)");
    if (!path.isEmpty()) open_bundle(parts, window, path.toStdString());
}

namespace {

/// A small file may unpack to more than the available memory, so a large one is opened only on request.
bool wants_large(QWidget* window, const std::filesystem::path& file, std::uint64_t bytes) {
    QMessageBox ask(QMessageBox::Question, "Take in a bundle",
                    QString("%1 unpacks to %2 MB, more than the %3 MB that are taken unasked. Open it only when you "
                            "expect that from whoever sent it.")
                        .arg(QString::fromStdString(printable(file.filename().string())))
                        .arg(1 + (bytes >> 20))
                        .arg(ordinary_bundle >> 20),
                    QMessageBox::Cancel, window);
    QPushButton* open = ask.addButton("&Open it", QMessageBox::AcceptRole);
    ask.setDefaultButton(QMessageBox::Cancel);
    ask.exec();
    return ask.clickedButton() == open;
}

void open_bundle_up_to(std::uint64_t most, const SharingParts& parts, QPointer<QWidget> window,
                       const std::filesystem::path& file, bool lies_in_folder) {
    const auto show = [=](const BundleView& view) {
        if (!window) return;
        BundleDialog dialog(view, lies_in_folder, window);
        if (dialog.exec() != QDialog::Accepted) return;
        if (dialog.put_aside())
            parts.attempt([&] { parts.sharing().put_aside(file); });
        else
            parts.sharing().take(view, dialog.choice(), file);
    };
    parts.sharing().look_at(file, most, show, [=](std::uint64_t bytes) {
        if (window && wants_large(window, file, bytes)) open_bundle_up_to(bytes, parts, window, file, lies_in_folder);
    });
}

}  // namespace

void open_bundle(const SharingParts& parts, QWidget* window, const std::filesystem::path& file, bool lies_in_folder) {
    open_bundle_up_to(ordinary_bundle, parts, window, file, lies_in_folder);
}

void pack_bundle(const SharingParts& parts, QWidget* window, const PackingList& list, const QString& what,
                 const QString& title, const QString& folder) {
    PackDialog dialog(what, title, folder.isEmpty() ? QDir::homePath() : folder, window);
    if (dialog.exec() == QDialog::Accepted) parts.sharing().pack(list, dialog.label(), dialog.sign(), dialog.file());
}

void search_exchange(const SharingParts& parts, QWidget* window, const ExchangeQuestion& question) {
    ExchangeDialog(parts, question, window).exec();
}

void offer_profile(const SharingParts& parts, QWidget* window, const Profile& profile) {
    parts.attempt([&] { OfferDialog(parts, profile, window).exec(); });
}

void show_measurers(const SharingParts& parts, QWidget* window) { MeasurersDialog(parts, window).exec(); }

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "travel/travel_actions.h"

#include <QDir>
#include <QFileDialog>
#include <QPointer>

#include "travel/bundle_dialog.h"
#include "travel/exchange_dialog.h"
#include "travel/measurers_dialog.h"
#include "travel/offer_dialog.h"
#include "travel/pack_dialog.h"

namespace optrel {

void ask_for_bundle(const TravelParts& parts, QWidget* window) {
    const QString path = QFileDialog::getOpenFileName(window, "Take in a bundle", "", "Bundle (*.optrel.zip)");
    if (!path.isEmpty()) open_bundle(parts, window, path.toStdString());
}

void open_bundle(const TravelParts& parts, QWidget* window, const std::filesystem::path& file, bool lies_in_folder) {
    parts.travel().look_at(file, [=, window = QPointer(window)](const BundleView& view) {
        if (!window) return;
        BundleDialog dialog(view, lies_in_folder, window);
        if (dialog.exec() != QDialog::Accepted) return;
        if (dialog.put_aside())
            parts.attempt([&] { parts.travel().put_aside(file); });
        else
            parts.travel().take(view, dialog.choice(), file);
    });
}

void pack_bundle(const TravelParts& parts, QWidget* window, const PackingList& list, const QString& what,
                 const QString& title, const QString& folder) {
    PackDialog dialog(what, title, folder.isEmpty() ? QDir::homePath() : folder, window);
    if (dialog.exec() == QDialog::Accepted) parts.travel().pack(list, dialog.label(), dialog.sign(), dialog.file());
}

void search_exchange(const TravelParts& parts, QWidget* window, const ExchangeQuestion& question) {
    ExchangeDialog(parts, question, window).exec();
}

void offer_profile(const TravelParts& parts, QWidget* window, const Profile& profile) {
    parts.attempt([&] { OfferDialog(parts, profile, window).exec(); });
}

void show_measurers(const TravelParts& parts, QWidget* window) { MeasurersDialog(parts, window).exec(); }

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// What every place offers of what travels, once: taking a bundle in, packing one, looking for a lens at the exchange,
// giving a profile to it, and whose keys count.
#pragma once

#include <QMenu>
#include <QPushButton>

#include "session/parts.h"

namespace optrel {

using SharingParts = SomeOf<SharingService, Messages>;

/// Asks for a bundle by name, and shows it.
void ask_for_bundle(const SharingParts& parts, QWidget* window);
/// Shows the bundle of a file, to be taken in; one that lies in a folder of frames may be put aside as well.
void open_bundle(const SharingParts& parts, QWidget* window, const std::filesystem::path& file,
                 bool lies_in_folder = false);
/// Asks what a bundle is called and where it lies, and packs it. `what`: "the set Fronds".
void pack_bundle(const SharingParts& parts, QWidget* window, const PackingList& list, const QString& what,
                 const QString& title, const QString& folder = {});
void search_exchange(const SharingParts& parts, QWidget* window, const ExchangeQuestion& question);
void offer_profile(const SharingParts& parts, QWidget* window, const Profile& profile);
void show_measurers(const SharingParts& parts, QWidget* window);

}  // namespace optrel

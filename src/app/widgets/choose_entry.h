// SPDX-License-Identifier: GPL-3.0-or-later
// Choosing one of several entries by name.
#pragma once

#include <QString>
#include <utility>
#include <vector>

class QWidget;

namespace optrel {

/// Asks for one of the entries, each an id and its label; of entries with one label the ids are shown as well. Empty
/// when there are none, or none was chosen.
QString choose_entry(QWidget* parent, const QString& title, const QString& question,
                     const std::vector<std::pair<QString, QString>>& entries);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/choose_entry.h"

#include <QInputDialog>

namespace optrel {

QString choose_entry(QWidget* parent, const QString& title, const QString& question,
                     const std::vector<std::pair<QString, QString>>& entries) {
    if (entries.empty()) return {};
    QStringList names, labels;
    for (const auto& [id, label] : entries) names << label;
    for (const auto& [id, label] : entries) labels << (names.count(label) > 1 ? label + "  (" + id + ")" : label);
    bool ok = false;
    const QString chosen = QInputDialog::getItem(parent, title, question, labels, 0, false, &ok);
    const auto at = static_cast<std::size_t>(labels.indexOf(chosen));
    return ok && at < entries.size() ? entries[at].first : QString();
}

}  // namespace optrel

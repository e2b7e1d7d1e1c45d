// SPDX-License-Identifier: GPL-3.0-or-later
// Settings that belong to a person on one computer, not to a store.
#pragma once

#include <QStandardPaths>
#include <QString>

namespace optrel {

/// Path of a settings file among the person's configuration.
inline QString settings_file(const QString& name) {
    return QStandardPaths::writableLocation(QStandardPaths::GenericConfigLocation) + "/optrel/" + name;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "view_settings.h"

#include <QSettings>

#include "settings_file.h"

namespace optrel {

QVariant view_setting(const QString& key, const QVariant& otherwise) {
    return QSettings(settings_file("views.ini"), QSettings::IniFormat).value(key, otherwise);
}

void set_view_setting(const QString& key, const QVariant& value) {
    QSettings file(settings_file("views.ini"), QSettings::IniFormat);
    file.setValue(key, value);
}

void remember_splitter(QSplitter* splitter, const QString& key) {
    splitter->restoreState(view_setting("splitter/" + key).toByteArray());
    // restoreState() takes these from the file, too.
    splitter->setChildrenCollapsible(true);
    QObject::connect(splitter, &QSplitter::splitterMoved, splitter,
                     [splitter, key] { set_view_setting("splitter/" + key, splitter->saveState()); });
}

}  // namespace optrel

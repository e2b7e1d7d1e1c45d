// SPDX-License-Identifier: GPL-3.0-or-later
#include "view_settings.h"

#include <QCoreApplication>
#include <QPointer>
#include <QSettings>

#include "settings_file.h"

namespace optrel {

namespace {

/// One object for the application: each new one would read the file again, and write it when it ends.
QSettings& settings() {
    static QPointer<QSettings> file;
    if (!file) file = new QSettings(settings_file("views.ini"), QSettings::IniFormat, QCoreApplication::instance());
    return *file;
}

QString splitter_key(const QString& key) { return "splitter/" + key; }

}  // namespace

QVariant view_setting(const QString& key, const QVariant& otherwise) { return settings().value(key, otherwise); }

void set_view_setting(const QString& key, const QVariant& value) { settings().setValue(key, value); }

void restore_splitter(QSplitter* splitter, const QString& key) {
    splitter->restoreState(view_setting(splitter_key(key)).toByteArray());
}

void remember_splitter(QSplitter* splitter, std::function<QString()> key) {
    restore_splitter(splitter, key());
    QObject::connect(splitter, &QSplitter::splitterMoved, splitter, [splitter, key = std::move(key)] {
        set_view_setting(splitter_key(key()), splitter->saveState());
    });
}

void remember_splitter(QSplitter* splitter, const QString& key) {
    remember_splitter(splitter, [key] { return key; });
}

}  // namespace optrel

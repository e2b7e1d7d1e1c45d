// SPDX-License-Identifier: GPL-3.0-or-later
// How a person likes places to look on one computer: splitters, columns, sorting, tables or pictures.
#pragma once

#include <QSplitter>
#include <QString>
#include <QVariant>
#include <functional>

namespace optrel {

/// A remembered value; `otherwise` when there is none.
QVariant view_setting(const QString& key, const QVariant& otherwise = {});
/// Remembers a value. A settings file that cannot be written is no error: the view is as it is until the end.
void set_view_setting(const QString& key, const QVariant& value);

/// Gives a splitter the sizes that it had last, and remembers the next ones. `key` names it, as in "inspect/side"; a
/// splitter with several layouts says which one is shown.
void remember_splitter(QSplitter* splitter, const QString& key);
void remember_splitter(QSplitter* splitter, std::function<QString()> key);
/// Gives a splitter the sizes that it had last under this name, if any.
void restore_splitter(QSplitter* splitter, const QString& key);

}  // namespace optrel

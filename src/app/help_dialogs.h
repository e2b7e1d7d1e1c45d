// SPDX-License-Identifier: GPL-3.0-or-later
// Help in the window: the part of the guide that belongs to a place, all keys, and what Optrel is.
#pragma once

#include <QDialog>
#include <QListWidget>
#include <QTextBrowser>

#include "theme.h"

namespace optrel {

/// The guide, part by part.
class GuideDialog : public QDialog {
    Q_OBJECT
public:
    explicit GuideDialog(QWidget* parent = nullptr);
    /// Opens the part of a place; the first one when the guide has none of it.
    void show_part_of(theme::Place place);
    QString shown_part() const { return parts_->currentItem() ? parts_->currentItem()->text() : QString(); }
    QString shown_text() const { return text_->toPlainText(); }

private:
    QListWidget* parts_;
    QTextBrowser* text_;
    QStringList texts_;
};

/// A key of the window and what it does.
struct KeyHelp {
    QString key, does;
};
/// All of them, those of the whole window first.
QList<KeyHelp> all_keys();

class KeysDialog : public QDialog {
    Q_OBJECT
public:
    explicit KeysDialog(QWidget* parent = nullptr);
};

class AboutDialog : public QDialog {
    Q_OBJECT
public:
    explicit AboutDialog(QWidget* parent = nullptr);
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Help: the part of the guide for a place, all shortcuts, and information about Optrel.
#pragma once

#include <QDialog>
#include <QListWidget>
#include <QTextBrowser>

#include "theme.h"

namespace optrel {

/// The guide, by parts.
class GuideDialog : public QDialog {
    Q_OBJECT
public:
    explicit GuideDialog(QWidget* parent = nullptr);
    /// Opens the part for a place; the first part when there is none.
    void show_part_of(theme::Place place);
    QString shown_part() const { return parts_->currentItem() ? parts_->currentItem()->text() : QString(); }
    QString shown_text() const { return text_->toPlainText(); }

private:
    QListWidget* parts_;
    QTextBrowser* text_;
    QStringList texts_;
};

/// A shortcut and its effect.
struct KeyHelp {
    QString key, does;
};
/// All shortcuts, those of the whole window first.
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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "focus_keeper.h"

#include <QAbstractButton>
#include <QApplication>
#include <QTimer>

namespace optrel {

FocusKeeper::FocusKeeper(QObject* parent) : QObject(parent) {
    connect(qobject_cast<QApplication*>(QCoreApplication::instance()), &QApplication::focusChanged, this,
            &FocusKeeper::moved);
}

void FocusKeeper::moved(QWidget* from, QWidget* to) {
    const auto* button = qobject_cast<QAbstractButton*>(from);
    if (button && !button->isEnabled() && button->isVisible()) {
        QWidget* back = last_ && last_->window() == from->window() && last_->isVisible() && last_->isEnabled()
                            ? last_.data()
                            : from->parentWidget();
        // Qt is moving the focus just now.
        QTimer::singleShot(0, back, [back] { back->setFocus(Qt::OtherFocusReason); });
        return;
    }
    if (to && !qobject_cast<QAbstractButton*>(to)) last_ = to;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Working on modal dialogs in tests.
#pragma once

#include <QApplication>
#include <QDialog>
#include <QDialogButtonBox>
#include <QPushButton>
#include <QTest>
#include <QTimer>
#include <catch2/catch.hpp>
#include <functional>

namespace optrel::test {

/// Works on the next modal dialog as soon as it is there; one that is there already is not meant.
inline void on_dialog(const std::function<void(QDialog&)>& work) {
    auto* timer = new QTimer;
    QObject::connect(timer, &QTimer::timeout, [timer, work, now = QApplication::activeModalWidget()] {
        auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
        if (!dialog || dialog == now) return;
        timer->stop();
        timer->deleteLater();
        work(*dialog);
    });
    timer->start(10);
}

/// How a widget is found: by the name that a screen reader says; a label by what it is said to be, because its name is
/// its text.
inline QString known_as(const QWidget& w) {
    if (!w.accessibleName().isEmpty()) return w.accessibleName();
    if (const auto* b = qobject_cast<const QAbstractButton*>(&w)) return QString(b->text()).remove('&');
    return qobject_cast<const QLabel*>(&w) ? w.accessibleDescription() : QString();
}

template <class T>
T& child(QDialog& dialog, const QString& name) {
    for (T* w : dialog.findChildren<T*>())
        if (known_as(*w) == name) return *w;
    std::string there;
    for (T* w : dialog.findChildren<T*>()) there += " \"" + known_as(*w).toStdString() + "\"";
    FAIL("The dialog " << dialog.windowTitle().toStdString() << " has no " << name.toStdString() << ", but" << there);
    std::abort();
}

/// Does what a dialog is for, once it may be done: what it would change has been looked at by then.
inline void go_on(QDialog& dialog) {
    auto* boxes = dialog.findChild<QDialogButtonBox*>();
    REQUIRE(boxes);
    QPushButton* yes = boxes->button(QDialogButtonBox::Ok);
    for (int i = 0; i < 2000 && !yes->isEnabled(); ++i) QTest::qWait(10);
    REQUIRE(yes->isEnabled());
    QTest::mouseClick(yes, Qt::LeftButton);
}

}  // namespace optrel::test

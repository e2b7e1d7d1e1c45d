// SPDX-License-Identifier: GPL-3.0-or-later
// Returns the keyboard focus to the widget that had it before, when a button disables itself. Qt would give the focus
// to the next button, and another press of the space bar would press that one.
#pragma once

#include <QObject>
#include <QPointer>
#include <QWidget>

namespace optrel {

class FocusKeeper : public QObject {
    Q_OBJECT
public:
    explicit FocusKeeper(QObject* parent);

private:
    void moved(QWidget* from, QWidget* to);

    QPointer<QWidget> last_;  ///< last widget with the focus that is no button
};

}  // namespace optrel

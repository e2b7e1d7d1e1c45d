// SPDX-License-Identifier: GPL-3.0-or-later
// A button that disables itself gives the focus back to where the person was before, and not to the next button, which
// another press of the space bar would push.
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

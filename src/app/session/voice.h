// SPDX-License-Identifier: GPL-3.0-or-later
// How the parts of the window speak to the person, and send them on to another place. Belongs to the window's thread.
#pragma once

#include <QObject>
#include <functional>

namespace optrel {

class Voice : public QObject {
    Q_OBJECT
public:
    void tell(const QString& message, bool serious = false) { emit told(message, serious); }
    /// Runs something that may throw, and tells the sentence when it does. True when it went well.
    bool attempt(const std::function<void()>& work);

signals:
    void told(const QString& message, bool serious);
    /// Somebody should look at a place, for instance by an action of Attention; at a view of it where one is named.
    void go_to(int place, const QString& view = {});
    void inspect_frame(const QString& path);
};

}  // namespace optrel

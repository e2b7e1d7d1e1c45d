// SPDX-License-Identifier: GPL-3.0-or-later
// Messages of the window to the user, and requests to open another place. Belongs to the window's thread.
#pragma once

#include <QObject>
#include <functional>

namespace optrel {

class Messages : public QObject {
    Q_OBJECT
public:
    void tell(const QString& message, bool serious = false) { emit told(message, serious); }
    /// Runs a function; shows the text of its exception. Returns true on success.
    bool attempt(const std::function<void()>& work);

signals:
    void told(const QString& message, bool serious);
    /// Requests to open a place, optionally at one of its views.
    void go_to(int place, const QString& view = {});
    void inspect_frame(const QString& path);
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The Qt application object: locale-independent numbers, and errors of event handlers do not end the program.
#pragma once

#include <QApplication>
#include <functional>

namespace optrel {

class Application : public QApplication {
public:
    Application(int& argc, char** argv);
    /// Delivers an event. Exceptions of its handlers are reported and do not end the program.
    bool notify(QObject* receiver, QEvent* event) override;

    /// Receives the text of such an exception; without it, the text goes to standard error.
    std::function<void(const QString&)> on_error;
};

}  // namespace optrel

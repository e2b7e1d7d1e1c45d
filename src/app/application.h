// SPDX-License-Identifier: GPL-3.0-or-later
// The Qt application of the window: figures with a point whatever the locale, and no error that ends the program.
#pragma once

#include <QApplication>
#include <functional>

namespace optrel {

class Application : public QApplication {
public:
    Application(int& argc, char** argv);
    /// Delivers an event; what its handlers throw is told instead of ending the program.
    bool notify(QObject* receiver, QEvent* event) override;

    /// Who tells a person what was thrown; standard error when nobody does.
    std::function<void(const QString&)> on_error;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "application.h"
#include "window_words.h"

#include <clocale>
#include <cstdio>
#include <exception>

namespace optrel {

Application::Application(int& argc, char** argv) : QApplication(argc, argv) {
    std::setlocale(LC_NUMERIC, "C");  // Qt has set the user's locale
    QLocale::setDefault(QLocale::c());
}

bool Application::notify(QObject* receiver, QEvent* event) {
    try {
        return QApplication::notify(receiver, event);
    } catch (const std::exception& error) {
        const QString why = q(error.what());
        if (on_error)
            on_error(why);
        else
            std::fprintf(stderr, "optrel: %s\n", qPrintable(why));
        return true;
    }
}

}  // namespace optrel

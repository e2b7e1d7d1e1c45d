// SPDX-License-Identifier: GPL-3.0-or-later
#define CATCH_CONFIG_RUNNER
#include <QCoreApplication>
#include <QTemporaryDir>
#include <catch2/catch.hpp>
#include <memory>

/// The window's tests put a QApplication here; all others do with the plain one.
std::unique_ptr<QCoreApplication> (*make_application)(int&, char**) = nullptr;

int main(int argc, char** argv) {
    // What programs remember for their user is none of the user's who runs the tests.
    const QTemporaryDir home;
    qputenv("XDG_DATA_HOME", home.filePath("data").toUtf8());
    qputenv("XDG_CONFIG_HOME", home.filePath("config").toUtf8());
    qputenv("XDG_CACHE_HOME", home.filePath("cache").toUtf8());
    const std::unique_ptr<QCoreApplication> app =
        make_application ? make_application(argc, argv) : std::make_unique<QCoreApplication>(argc, argv);
    return Catch::Session().run(argc, argv);
}

// SPDX-License-Identifier: GPL-3.0-or-later
// optrel: the window.
//
//   optrel [--store DIR] [--shots DIR] [PROFILE]
#include <cstring>

#include <QBuffer>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QMessageBox>
#include <QThread>
#include <QTimer>
#include <cstdio>
#include <memory>

#include "application.h"
#include "base/heap.h"
#include "base/output.h"
#include "base/paths.h"
#include "jobs.h"
#include "main_window.h"
#include "pictures/picture_loader.h"
#include "store/outdated.h"
#include "studio/stations/history_check.h"
#include "widgets/place.h"

namespace {

/// Replaces only pictures that Optrel wrote.
bool save_picture(QImage picture, const QString& path) {
    picture.setText("Software", "Optrel " OPTREL_VERSION);
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!picture.save(&buffer, "PNG")) return false;
    optrel::write_output(path.toStdString(), optrel::png_output(), optrel::Existing::replace_ours, bytes.toStdString());
    return true;
}

/// Processes events until no work is running, or the time is over.
void settle(optrel::Session& session, int most_ms) {
    QElapsedTimer timer;
    timer.start();
    int calm = 0;
    while (timer.elapsed() < most_ms && calm < 5) {
        QApplication::processEvents(QEventLoop::AllEvents, 30);
        QThread::msleep(20);
        calm = session.jobs().active() || optrel::PictureLoader::here().reading() ? 0 : calm + 1;
    }
}

int take_shots(optrel::Session& session, optrel::MainWindow& window, const QString& folder) {
    using namespace optrel;
    QDir().mkpath(folder);
    window.resize(1280, 800);  // whatever the screen is
    settle(session, 60000);
    for (int i = 0; i < theme::place_count; ++i) {
        const auto place = static_cast<theme::Place>(i);
        window.go_to(place);
        window.place(place)->show_something();
        settle(session, 60000);
        const QStringList views = QStringList{""} + window.place(place)->more_views();
        for (const QString& view : views) {
            if (!view.isEmpty()) window.place(place)->show_view(view);
            settle(session, 60000);
            const QString path = QString("%1/%2-%3%4.png")
                                     .arg(folder)
                                     .arg(i + 1)
                                     .arg(theme::place_name(place).toLower(), view.isEmpty() ? "" : "-" + view);
            if (!save_picture(window.grab().toImage(), path)) {
                std::fprintf(stderr, "optrel: Cannot write %s; choose another folder.\n", qPrintable(path));
                return 1;
            }
            std::printf("%s\n", qPrintable(path));
        }
    }
    return 0;
}

/// Writes the icon in the sizes of icon themes: SIZExSIZE/apps/optrel.png.
int save_icons(const QString& folder) {
    for (const int size : {16, 24, 32, 48, 64, 128, 256}) {
        const QString below = QString("%1/%2x%2/apps").arg(folder).arg(size);
        QDir().mkpath(below);
        if (save_picture(optrel::theme::app_icon().pixmap(size, size).toImage(), below + "/optrel.png")) continue;
        std::fprintf(stderr, "optrel: Cannot write to %s; choose another folder.\n", qPrintable(below));
        return 1;
    }
    return 0;
}

/// The manual page in groff_man(7) macros, from --help.
QString man_page(const QList<QCommandLineOption>& options) {
    QString out =
        ".TH OPTREL 1 \"\" \"Optrel " OPTREL_VERSION
        "\"\n.SH NAME\noptrel \\- lens calibration, baselines and rollout for raw frames\n.SH SYNOPSIS\n.B "
        "optrel\n.RI [ OPTIONS ]\n.SH DESCRIPTION\nOpens the window on a store, by default the one in the user's data "
        "directory. F1 opens the guide.\n.SH OPTIONS\n";
    for (const QCommandLineOption& o : options) {
        const QString value = o.valueName().isEmpty() ? QString() : " " + o.valueName();
        out += QString(".TP\n.B \\-\\-%1%2\n%3\n").arg(o.names().first(), value, o.description());
    }
    return out + ".SH SEE ALSO\n.BR optrel-cli (1)\n";
}

/// Opens the store; an older one is upgraded when the user agrees.
std::unique_ptr<optrel::Session> opened(const std::string& address, optrel::Access access) {
    using namespace optrel;
    try {
        return std::make_unique<Session>(address, access);
    } catch (const OutdatedStore& outdated) {
        if (QGuiApplication::platformName() == "offscreen") throw;
        const auto answer = QMessageBox::question(
            nullptr, "Optrel",
            q(outdated.what()) + "\n\nBring it up to date now? Earlier versions cannot open it any more then.",
            QMessageBox::Yes | QMessageBox::No, QMessageBox::No);
        if (answer != QMessageBox::Yes) throw;
        return std::make_unique<Session>(address, Access::upgrade);
    }
}

/// Asks the user; without a display the answer is no.
bool may_begin(const std::string& address) {
    if (QGuiApplication::platformName() == "offscreen") return false;
    return QMessageBox::question(
               nullptr, "Optrel",
               QString("There is no store in %1. Begin one there?").arg(QString::fromStdString(address))) ==
           QMessageBox::Yes;
}

}  // namespace

int main(int argc, char** argv) {
    using namespace optrel;
    share_heap();
    remember_changes();
    // What is only printed needs no display.
    for (int i = 1; i < argc; ++i)
        for (const char* printed : {"-h", "--help", "--help-all", "-v", "--version", "--man"})
            if (std::strcmp(argv[i], printed) == 0) qputenv("QT_QPA_PLATFORM", "offscreen");
    Application app(argc, argv);
    QApplication::setApplicationName("optrel");
    QApplication::setApplicationVersion(OPTREL_VERSION);
    QGuiApplication::setDesktopFileName("org.optrel.Optrel");
    QCommandLineParser parser;
    parser.setApplicationDescription("Lens calibration, baselines and rollout for a studio's raw frames.");
    parser.addHelpOption();
    parser.addVersionOption();
    const QCommandLineOption store_option(
        "store",
        "Folder of the store, or postgresql://USER@HOST/NAME (default: in the user's data "
        "directory)",
        "store");
    const QCommandLineOption shots_option("shots", "Save a picture of every place into a folder and end", "folder");
    const QCommandLineOption begin_option("begin", "Begin a store in that folder when there is none");
    const QCommandLineOption man_option("man", "Print the manual page and end");
    parser.addPositionalArgument("file", "A lens profile to look at", "[file]");
    const QCommandLineOption icons_option("icons", "Save the icon in all sizes into a folder and end", "folder");
    const QCommandLineOption camera_option("camera", "A folder that stands for a camera on a cable", "folder");
    const QList<QCommandLineOption> options{store_option, camera_option, shots_option,
                                            begin_option, man_option,    icons_option};
    parser.addOptions(options);
    if (!parser.parse(QApplication::arguments())) {
        std::fprintf(stderr, "optrel: %s; see 'optrel --help'.\n", qPrintable(parser.errorText()));
        return 2;
    }
    parser.process(app);
    if (parser.positionalArguments().size() > 1) {
        std::fprintf(stderr, "optrel: One profile is looked at at a time; name one file. See 'optrel --help'.\n");
        return 2;
    }
    if (parser.isSet(man_option)) {
        std::fputs(man_page(options).toUtf8().constData(), stdout);
        return 0;
    }
    theme::apply(app);
    try {
        if (parser.isSet(icons_option)) return save_icons(parser.value(icons_option));
        const bool named = parser.isSet(store_option);
        const std::string address = named ? parser.value(store_option).toStdString() : default_store_address();
        // The default store is created automatically; a missing named store may be a typing error.
        const bool begin = parser.isSet(begin_option) || !named || store_exists(address) ||
                           (!is_server_address(address) && may_begin(address));
        const std::unique_ptr<Session> session_of_window = opened(address, begin ? Access::begin : Access::write);
        Session& session = *session_of_window;
        MainWindow window(session);
        app.on_error = [&](const QString& why) { session.messages().tell(why, true); };
        window.show();
        for (const QString& folder : parser.values(camera_option))
            session.cameras().add_folder(plain_path(folder.toStdString()));
        if (const QStringList files = parser.positionalArguments(); !files.isEmpty())
            QTimer::singleShot(0, &window, [&window, file = files.first()] { window.open_profile(file); });
        if (parser.isSet(shots_option)) return take_shots(session, window, parser.value(shots_option));
        return QApplication::exec();
    } catch (const Error& error) {
        std::fprintf(stderr, "optrel: %s\n", error.what());
        if (QGuiApplication::platformName() != "offscreen") QMessageBox::critical(nullptr, "Optrel", q(error.what()));
        return 1;
    }
}

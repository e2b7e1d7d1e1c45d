// optrel: the window.
//
//   optrel [--store DIR] [--shots DIR]
#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QMessageBox>
#include <QThread>
#include <cstdio>

#include "jobs.h"
#include "main_window.h"
#include "widgets/place.h"

namespace {

/// Lets the application work until nothing is under way, or the time is over.
void settle(optrel::Session& session, int most_ms) {
    QElapsedTimer timer;
    timer.start();
    int calm = 0;
    while (timer.elapsed() < most_ms && calm < 5) {
        QApplication::processEvents(QEventLoop::AllEvents, 30);
        QThread::msleep(20);
        calm = session.jobs().active() ? 0 : calm + 1;
    }
}

int take_shots(optrel::Session& session, optrel::MainWindow& window, const QString& folder) {
    using namespace optrel;
    QDir().mkpath(folder);
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
            const QString path = QString("%1/%2-%3%4.png").arg(folder).arg(i + 1).arg(theme::place_name(place).toLower(), view.isEmpty() ? "" : "-" + view);
            if (!window.grab().save(path)) {
                std::fprintf(stderr, "optrel: Cannot write %s; choose another folder.\n", qPrintable(path));
                return 1;
            }
            std::printf("%s\n", qPrintable(path));
        }
    }
    return 0;
}

}  // namespace

int main(int argc, char** argv) {
    using namespace optrel;
    QApplication app(argc, argv);
    QApplication::setApplicationName("optrel");
    QApplication::setApplicationVersion(OPTREL_VERSION);
    QCommandLineParser parser;
    parser.setApplicationDescription("Lens calibration, baselines and rollout for a studio's raw frames.");
    parser.addHelpOption();
    parser.addVersionOption();
    const QCommandLineOption store_option("store", "Folder of the store (default: in the user's data directory)", "folder");
    const QCommandLineOption shots_option("shots", "Save a picture of every place into a folder and end", "folder");
    parser.addOptions({store_option, shots_option});
    if (!parser.parse(QApplication::arguments())) {
        std::fprintf(stderr, "optrel: %s; see 'optrel --help'.\n", qPrintable(parser.errorText()));
        return 2;
    }
    parser.process(app);
    theme::apply(app);
    try {
        Session session(parser.isSet(store_option) ? std::filesystem::path(parser.value(store_option).toStdString()) : default_store_folder());
        MainWindow window(session);
        window.show();
        if (parser.isSet(shots_option)) return take_shots(session, window, parser.value(shots_option));
        return QApplication::exec();
    } catch (const Error& error) {
        std::fprintf(stderr, "optrel: %s\n", error.what());
        if (QGuiApplication::platformName() != "offscreen") QMessageBox::critical(nullptr, "Optrel", QString::fromUtf8(error.what()));
        return 1;
    }
}

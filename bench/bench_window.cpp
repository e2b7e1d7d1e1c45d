// SPDX-License-Identifier: GPL-3.0-or-later
// The window on a large studio: how soon it stands, how long it ever stops, how fast the matrix redraws.
//
//   optrel-bench-window [--bodies N]
//
// Beside each figure stands a reference of the same run: an empty window, and a plain table of ready texts of the same
// size.
#include <QApplication>
#include <QComboBox>
#include <QElapsedTimer>
#include <QStandardItemModel>
#include <QTableView>
#include <QThread>
#include <cstdio>

#include "baselines/baselines_place.h"
#include "baselines/matrix_panel.h"
#include "jobs.h"
#include "large_studio.h"
#include "main_window.h"
#include "theme.h"

namespace {

using namespace optrel;

/// Lets the application work until nothing is under way; the longest time that one turn of the loop took, in ms.
double longest_stop(Session& session) {
    double longest = 0;
    int calm = 0;
    QElapsedTimer turn;
    while (calm < 20) {
        turn.start();
        QApplication::processEvents(QEventLoop::AllEvents, 1);
        longest = std::max(longest, turn.nsecsElapsed() / 1e6);
        QThread::msleep(2);
        calm = session.jobs().active() ? 0 : calm + 1;
    }
    return longest;
}

double redraw_ms(QWidget& widget, int times) {
    QElapsedTimer timer;
    timer.start();
    for (int i = 0; i < times; ++i) widget.grab();
    return timer.nsecsElapsed() / 1e6 / times;
}

}  // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    theme::apply(app);
    const std::filesystem::path folder = std::filesystem::temp_directory_path() / "optrel-bench-studio";
    bench::write_store(bench::large_studio(), folder);
    std::filesystem::create_directories(folder / "empty");

    const auto start = [](const std::filesystem::path& store, std::unique_ptr<Session>& session,
                          std::unique_ptr<MainWindow>& window) {
        QElapsedTimer timer;
        timer.start();
        session = std::make_unique<Session>(store.string(), Access::begin);
        window = std::make_unique<MainWindow>(*session);
        window->show();
        QApplication::processEvents();
        window->grab();
        return timer.nsecsElapsed() / 1e6;
    };
    std::unique_ptr<Session> empty_session, session;
    std::unique_ptr<MainWindow> empty_window, window;
    const double empty_start = start(folder / "empty", empty_session, empty_window);
    const double large_start = start(folder, session, window);
    QElapsedTimer load;
    load.start();
    const double stop = longest_stop(*session);
    std::printf("start to first picture          %7.0f ms   (empty store %.0f ms, ratio %.1f)\n", large_start,
                empty_start, large_start / empty_start);
    std::printf("frames read and worked out      %7.0f ms   longest stop of the window meanwhile %.0f ms\n",
                load.nsecsElapsed() / 1e6, stop);

    window->go_to(theme::Place::baselines);
    QApplication::processEvents();
    auto& place = *static_cast<BaselinesPlace*>(window->place(theme::Place::baselines));
    for (QCheckBox* box : place.findChildren<QCheckBox*>())
        if (box->accessibleName() == "Third stops") box->setChecked(true);
    const double matrix = redraw_ms(place.matrix(), 20);
    QStandardItemModel plain(500, 31);
    for (int r = 0; r < 500; ++r)
        for (int c = 0; c < 31; ++c) plain.setItem(r, c, new QStandardItem(QString("%1 m").arg(r + c)));
    QTableView view;
    view.setModel(&plain);
    view.resize(place.matrix().size());
    const double reference = redraw_ms(view, 20);
    std::printf("matrix redrawn                  %7.1f ms   (a plain table of ready texts %.1f ms, ratio %.1f)\n",
                matrix, reference, matrix / reference);
    QElapsedTimer field;
    field.start();
    place.choose_field(Field::exposure);
    place.matrix().grab();
    std::printf("another field in the matrix     %7.1f ms\n", field.nsecsElapsed() / 1e6);

    Revision changed = session->baselines().draft();
    changed.tiers[3].pins[Field::luminance_noise] = Pin::constant({33, ""});
    QElapsedTimer edit;
    edit.start();
    session->baselines().edit("bench", changed);
    const double written = edit.nsecsElapsed() / 1e6;
    const double after = longest_stop(*session);
    std::printf(
        "a pin changed and written       %7.1f ms   reach and lint worked out after %.0f ms, longest stop %.0f ms\n",
        written, edit.nsecsElapsed() / 1e6, after);
    session->undo().undo();
    longest_stop(*session);
    const auto show_inspect = [](MainWindow& w) {
        QElapsedTimer timer;
        timer.start();
        w.go_to(theme::Place::inspect);
        QApplication::processEvents();
        w.grab();
        return timer.nsecsElapsed() / 1e6;
    };
    const double empty_inspect = show_inspect(*empty_window), large_inspect = show_inspect(*window);
    std::printf("Inspect with all frames shown   %7.1f ms   (empty store %.1f ms, ratio %.1f)\n", large_inspect,
                empty_inspect, large_inspect / empty_inspect);
    return 0;
}

// SPDX-License-Identifier: GPL-3.0-or-later
// The window while very many frames are rehearsed and rolled out: how long it ever stops, and the most memory of the
// whole program.
//
//   optrel-bench-window-rollout [FRAMES [opened]]      opened: it ends when all frames are there
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QApplication>
#include <QElapsedTimer>
#include <QThread>
#include <QTimer>

#include "base/heap.h"
#include "jobs.h"
#include "large_studio.h"
#include "main_window.h"
#include "measures.h"
#include "rollout/rollout_place.h"
#include "theme.h"

namespace {

using namespace optrel;

/// Turns of the loop until nothing is under way: all of them, how many were longer than 50 ms, and the longest.
struct Turns {
    double seconds = 0, longest_ms = 0;
    int all = 0, long_ones = 0;
};

Turns until_idle(Session& session) {
    Turns out;
    QElapsedTimer whole, turn;
    whole.start();
    for (int calm = 0; calm < 20;) {
        turn.start();
        QApplication::processEvents(QEventLoop::AllEvents, 1);
        const double ms = static_cast<double>(turn.nsecsElapsed()) / 1e6;
        out.longest_ms = std::max(out.longest_ms, ms);
        out.long_ones += ms > 50;
        ++out.all;
        QThread::msleep(2);
        calm = session.jobs().active() ? 0 : calm + 1;
    }
    out.seconds = static_cast<double>(whole.elapsed()) / 1000;
    return out;
}

void print(const char* what, const Turns& t) {
    fmt::print(
        "{:22} {:7.1f} s, longest stop of the window {:5.0f} ms, {} of {} turns over 50 ms; most memory {:.0f} MB\n",
        what, t.seconds, t.longest_ms, t.long_ones, t.all, bench::memory_mb("VmHWM"));
    std::fflush(stdout);
}

/// By a program of its own: what making the studio takes is not the window's memory.
bool made_elsewhere(int frames, const std::filesystem::path& folder, int argc, char** argv) {
    const pid_t child = ::fork();
    if (child == 0) {
        const QCoreApplication qt(argc, argv);
        bench::LargeStudio studio = bench::large_studio(500, 2000, frames);
        studio.revision.tiers.resize(400);  // those behind meet one another in ways that cannot be published
        bench::make_files(studio, folder / "frames");
        bench::write_store(studio, folder / "store");
        Store((folder / "store").string(), Access::write).baselines().publish("bench", "");
        std::fflush(stdout);
        ::_exit(0);
    }
    int status = 1;
    return child > 0 && ::waitpid(child, &status, 0) == child && status == 0;
}

}  // namespace

int main(int argc, char** argv) {
    share_heap();  // as the window does
    const int frames = argc > 1 ? std::max(100, std::atoi(argv[1])) : 200000;
    const std::filesystem::path folder = std::filesystem::temp_directory_path() / "optrel-bench-window-rollout";
    std::filesystem::remove_all(folder);
    if (!made_elsewhere(frames, folder, argc, argv)) return 1;
    QApplication app(argc, argv);
    theme::apply(app);
    QElapsedTimer since;
    since.start();
    const auto tell = [&](const char* what) {
        fmt::print("{:22} after {:5.1f} s\n", what, static_cast<double>(since.elapsed()) / 1000);
    };
    Session session((folder / "store").string());
    QObject::connect(&session.frames(), &FrameModel::changed, [&] { tell("frames are listed"); });
    QObject::connect(&session.frames(), &FrameModel::knowledge_changed, [&] { tell("what they are of"); });
    QObject::connect(&session.sheets(), &SheetModel::changed, [&] { tell("their sheets"); });
    MainWindow window(session);
    window.resize(1280, 800);
    window.show();
    QApplication::processEvents();
    tell("the window is there");
    print("opened", until_idle(session));
    if (argc > 2) {
        std::filesystem::remove_all(folder);
        return 0;
    }
    window.go_to(theme::Place::rollout);
    auto& place = *static_cast<RolloutPlace*>(window.place(theme::Place::rollout));
    print("Rollout shown", until_idle(session));
    place.rehearse_now();
    print("rehearsed", until_idle(session));
    place.roll_out_now();
    print("rolled out", until_idle(session));
    std::filesystem::remove_all(folder);
}

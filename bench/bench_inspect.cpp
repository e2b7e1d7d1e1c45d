// SPDX-License-Identifier: GPL-3.0-or-later
// Inspect on raw frames of 24 megapixels: how soon a chosen frame is seen at fit, sharp at 100 percent, and after a
// field has changed; and how long the window ever stops meanwhile.
//
//   optrel-bench-inspect
//
// Beside each figure stands a reference of the same run: reading the frame's raw samples, and nothing else.
#include <QApplication>
#include <QDoubleSpinBox>
#include <QElapsedTimer>
#include <QThread>
#include <cstdio>
#include <nlohmann/json.hpp>

#include "inspect/inspect_place.h"
#include "inspect/preview_service.h"
#include "jobs.h"
#include "main_window.h"
#include "rig/scenario.h"
#include "theme.h"

namespace {

using namespace optrel;
using nlohmann::json;

constexpr int width = 6000, height = 4000, frames = 4;

/// Specimens of the demo on a body of 24 megapixels.
void make_frames(const std::filesystem::path& folder) {
    json scenario = json::parse(rig::demo_scenario());
    json shots = json::array();
    for (json shot : scenario["shots"]) {
        if (shot["folder"] != "specimens" || static_cast<int>(shots.size()) == frames) continue;
        shot["body"] = "brimholt-a";
        shots.push_back(shot);
    }
    for (json& body : scenario["bodies"])
        if (body["id"] == "brimholt-a") body.update({{"width", width}, {"height", height}, {"pitch_um", 3.86}});
    scenario["shots"] = shots;
    Progress progress;
    rig::make_frames(scenario.dump(), folder, progress);
}

/// From now until something has been told, ms, and the longest that one turn of the loop took meanwhile.
struct Waited {
    double ms = 0, longest_stop = 0;
};
class Wait {
public:
    template <class Signal>
    Wait(PreviewService& desk, Signal signal) {
        timer_.start();
        connection_ = QObject::connect(&desk, signal, [this] { told_ = true; });
    }
    ~Wait() { QObject::disconnect(connection_); }
    /// Waits, and lets everything else that is under way end.
    Waited until_told(Session& session) {
        Waited out;
        QElapsedTimer turn;
        for (int calm = 0; calm < 20;) {
            turn.start();
            QApplication::processEvents(QEventLoop::AllEvents, 1);
            out.longest_stop = std::max(out.longest_stop, turn.nsecsElapsed() / 1e6);
            if (told_ && out.ms == 0) out.ms = timer_.nsecsElapsed() / 1e6;
            QThread::msleep(1);
            calm = session.jobs().active() || !told_ ? 0 : calm + 1;
            if (timer_.elapsed() > 60000) break;
        }
        return out;
    }

private:
    QElapsedTimer timer_;
    QMetaObject::Connection connection_;
    bool told_ = false;
};

void print(const char* what, const Waited& waited, double reference_ms) {
    std::printf("%-48s %6.0f ms   ratio %5.2f   longest stop of the window %4.0f ms\n", what, waited.ms,
                waited.ms / reference_ms, waited.longest_stop);
}

}  // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    theme::apply(app);
    const std::filesystem::path folder = std::filesystem::temp_directory_path() / "optrel-bench-inspect";
    make_frames(folder / "frames");
    std::filesystem::remove_all(folder / "store");
    Session session((folder / "store").string(), Access::begin);
    MainWindow window(session);
    window.resize(1280, 800);
    window.show();
    session.frames().add_folder(QString::fromStdString((folder / "frames" / "specimens").string()));
    window.go_to(theme::Place::inspect);
    auto& place = *static_cast<InspectPlace*>(window.place(theme::Place::inspect));
    QElapsedTimer settled;
    settled.start();
    while (settled.elapsed() < 500 || session.jobs().active()) QApplication::processEvents(QEventLoop::AllEvents, 5);
    if (place.frames().row_count() < frames) {
        std::fprintf(stderr, "The frames were not found.\n");
        return 1;
    }
    QElapsedTimer reading;
    reading.start();
    const MeasuringPicture samples = read_for_measuring(session.frames().all().front().path);
    const double reference = reading.nsecsElapsed() / 1e6;
    std::printf("%-48s %6.0f ms\n", "reading the raw samples of 24 megapixels", reference);

    auto& desk = *place.findChild<PreviewService*>();
    const auto choose = [&](const char* what, int row) {
        Wait wait(desk, &PreviewService::whole_ready);
        place.frames().choose(row);
        print(what, wait.until_told(session), reference);
    };
    choose("a frame chosen, seen at fit", 0);
    choose("its neighbour, read ahead", 1);
    {
        Wait wait(desk, &PreviewService::part_ready);
        place.view().set_zoom(1);
        print("sharp at 100 percent", wait.until_told(session), reference);
    }
    place.view().set_zoom(0);
    while (session.jobs().active()) QApplication::processEvents(QEventLoop::AllEvents, 5);
    for (const auto& [what, field, value] :
         {std::tuple("corner's light changed by hand, seen at fit", Field::corner_light, 0.5),
          std::tuple("distortion changed by hand, seen at fit", Field::hand_distortion, -2.0)}) {
        Wait wait(desk, &PreviewService::whole_ready);
        place.hand().number(field).setValue(value);
        print(what, wait.until_told(session), reference);
    }
    return 0;
}

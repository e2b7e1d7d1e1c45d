// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/bench_place.h"

#include <QComboBox>
#include <QFile>
#include <QTabWidget>
#include <nlohmann/json.hpp>

#include "app_fixture.h"
#include "base/files.h"
#include "bench/chart_dialog.h"
#include "dialogs.h"
#include "lenses/lenses_place.h"
#include "support/rig_run.h"
#include "widgets/bars_view.h"
#include "widgets/setting_chart.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A run that was measured before, in the store that the window opens: quicker than measuring it again.
class MeasuredStore {
public:
    MeasuredStore() {
        run_.name = "measured";
        run_.chart = "checker:15x10:30";
        run_.frames = measured_rig();
    }
    RunRecord& run() { return run_; }
    void put(AppFixture& app) {
        app.store().runs().put(run_);
        emit app.session().runs().changed();
        app.settle();
    }

private:
    RunRecord run_;
};

QString calibration_folder() { return QString::fromStdString(rig_frame("CH0001").parent_path().string()); }

BenchPlace& measured_bench(AppFixture& app) {
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    MeasuredStore().put(app);
    REQUIRE(bench.solution());
    return bench;
}

/// Publishes the solution by way of the dialog that says what it would change. `decide` settles what is open there.
void publish(AppFixture& app, const std::function<void(QDialog&)>& decide = {}) {
    app.click_and_go_on("Publish profile", decide);
}

}  // namespace

TEST_CASE("a folder becomes a run, is measured, solved and published", "[app][bench]") {
    AppFixture app;
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.new_runs_from(calibration_folder());
    app.settle();
    REQUIRE(bench.run());
    CHECK(bench.run()->frames.size() == 17);
    CHECK(QString::fromStdString(bench.run()->name).contains("Lumenfold"));
    auto& frames = app.find<Table>("Frames of the run");
    CHECK(AppFixture::text(frames, 0, 5) == "to measure");
    CHECK_FALSE(app.find<QAbstractButton>("Publish profile").isEnabled());

    app.click("Measure and solve");
    app.settle();
    REQUIRE(bench.solution());
    CHECK(bench.solution()->profile.nodes.front().quality.frames_used == 13);
    for (int row = 0; row < 17; ++row) CHECK(AppFixture::text(frames, row, 5).contains("used"));
    CHECK(AppFixture::text(frames, 0, 1) == "chart");
    CHECK(AppFixture::text(frames, 16, 1) == "flat");
    CHECK(AppFixture::text(app.find<Table>("Findings"), 0, 0).contains("Nothing to object"));

    app.click_cell(frames, 6, 0);
    app.settle();
    CHECK(app.find<FrameView>("Frame with corners and residuals").corner_count() > 60);

    publish(app);
    CHECK(app.session().profiles().current().size() == 1);
    CHECK(app.window().message().contains("version 1"));
    app.at<LensesPlace>(theme::Place::lenses);
    CHECK(AppFixture::text(app.find<Table>("Profiles"), 0, 0) == "Lumenfold 35mm f/2.8");
    CHECK(app.find<Table>("Figures of the profile").rows_model().rows().size() > 15);
}

TEST_CASE("dropping a frame solves again, and can be undone by key", "[app][bench]") {
    AppFixture app;
    BenchPlace& bench = measured_bench(app);
    auto& frames = app.find<Table>("Frames of the run");
    app.click_cell(frames, 2, 0);
    app.click("Drop frame");
    app.settle();
    REQUIRE(bench.solution());
    CHECK(bench.solution()->profile.nodes.front().quality.frames_used == 12);
    CHECK(AppFixture::text(frames, 2, 5).contains("dropped"));
    CHECK(app.find<QAbstractButton>("Restore frame").isEnabled());
    app.press(Qt::Key_Z, Qt::ControlModifier);
    app.settle();
    CHECK(bench.solution()->profile.nodes.front().quality.frames_used == 13);
    app.click("Redo");
    app.settle();
    CHECK(bench.solution()->profile.nodes.front().quality.frames_used == 12);
    CHECK(app.store().runs().all()[0].frames[2].dropped);
}

TEST_CASE("a run is there again after the program was closed", "[app][bench]") {
    TemporaryFolder folder;
    {
        Session session(folder / "s", Access::begin);
        RunRecord run;
        run.name = "kept";
        run.chart = "checker:15x10:30";
        run.frames = measured_rig();
        Store(session.source().address()).runs().put(run);
    }
    Session session(folder / "s");
    MainWindow window(session);
    window.show();
    auto* bench = static_cast<BenchPlace*>(window.place(theme::Place::bench));
    while (session.jobs().active()) QApplication::processEvents(QEventLoop::AllEvents, 20);
    REQUIRE(bench->solution());
    CHECK(bench->solution()->profile.nodes.front().quality.frames_used == 13);
}

TEST_CASE("measuring can be cancelled from the footer", "[app][bench][threads]") {
    AppFixture app;
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    fs::create_directory(app.path("few"));
    for (const char* name : {"CH0001", "CH0010", "CH0012", "CH0006"})
        fs::copy_file(rig_frame(name), app.path("few") / (std::string(name) + ".dng"));
    bench.new_runs_from(QString::fromStdString(app.path("few").string()));
    app.settle();
    app.click("Measure and solve");
    app.click("Cancel");
    app.settle();
    CHECK_FALSE(bench.solution());
    CHECK(app.window().message().contains("cancelled"));
    app.click("Measure and solve");
    app.settle();
    CHECK(bench.solution());
}

TEST_CASE("mistakes on the bench are told in the window, and nothing is lost", "[app][bench]") {
    AppFixture app;
    BenchPlace& bench = measured_bench(app);
    // A folder without pictures.
    const TemporaryFolder empty;
    bench.new_runs_from(QString::fromStdString(empty.path().string()));
    app.settle();
    CHECK(app.window().message().contains("holds no picture"));
    CHECK(bench.solution());
    // A chart that is no chart.
    auto& chart = app.find<QLineEdit>("Chart");
    chart.selectAll();
    QTest::keyClicks(&chart, "board:9");
    app.click("Solve again");
    app.settle();
    CHECK(app.window().message().contains("checker:ACROSSxDOWN:MM"));
    CHECK(bench.solution());
    // The wrong square count.
    chart.selectAll();
    QTest::keyClicks(&chart, "checker:12x8:30");
    app.click("Solve again");
    app.settle();
    CHECK_FALSE(bench.solution());
    CHECK(AppFixture::text(app.find<Table>("Findings"), 0, 0).contains("15 x 10"));
    CHECK(bench.run()->frames[0].detection.found());
}

TEST_CASE("frames of two bodies make two runs, two lens settings one", "[app][bench]") {
    AppFixture app;
    fs::create_directory(app.path("mixed"));
    for (const char* name : {"CH0001", "SP0001", "SP0007"})
        fs::copy_file(rig_frame(name), app.path("mixed") / (std::string(name) + ".dng"));
    write_bytes(app.path("mixed") / "broken.dng", "");
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.new_runs_from(QString::fromStdString(app.path("mixed").string()));
    app.settle();
    CHECK(app.store().runs().all().size() == 2);
    CHECK(app.window().message().contains("could not be read"));
}

TEST_CASE("a corner is chosen, magnified, dropped and taken back by key", "[app][bench]") {
    AppFixture app;
    MeasuredStore().put(app);
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    REQUIRE(bench.solution());
    app.settle();
    auto& view = app.find<FrameView>("Frame with corners and residuals");
    const Vec2 place = bench.run()->frames[0].detection.corners[40].green().position;
    QTest::mouseClick(&view, Qt::LeftButton, {}, view.on_screen({place.x(), place.y()}));
    app.settle();
    CHECK(view.chosen_corner() == 40);
    CHECK(app.find<QLabel>("Figures of the corner").text().contains("residual"));
    QTest::keyClick(&view, Qt::Key_Right);
    app.settle();
    CHECK(view.chosen_corner() == 41);
    const int corners = bench.solution()->profile.nodes[0].quality.corners;
    QTest::keyClick(&view, Qt::Key_Delete);
    app.settle();
    CHECK(bench.run()->frames[0].dropped_corners.size() == 1);
    CHECK(bench.solution()->profile.nodes[0].quality.corners == corners - 1);
    CHECK(app.find<QAbstractButton>("Restore corner").isEnabled());
    app.press(Qt::Key_Z, Qt::ControlModifier);
    app.settle();
    CHECK(bench.run()->frames[0].dropped_corners.empty());
    CHECK(bench.solution()->profile.nodes[0].quality.corners == corners);
    CHECK(app.store().runs().all()[0].frames[0].dropped_corners.empty());
}

TEST_CASE("residuals of all frames lead to the frame of a bar", "[app][bench]") {
    AppFixture app;
    MeasuredStore().put(app);
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    auto& tabs = app.find<QTabWidget>("Views of the run");
    app.open_tab("Views of the run", "Residuals");
    auto& bars = app.find<BarsView>("RMS of each frame");
    CHECK(bars.count() == 13);
    CHECK(app.find<FrameView>("Residuals of all frames").corner_count() ==
          bench.solution()->profile.nodes[0].quality.corners);
    QTest::mouseClick(&bars, Qt::LeftButton, {}, bars.middle_of(8));
    app.settle();
    CHECK(tabs.currentIndex() == 0);
    CHECK(app.find<Table>("Frames of the run").chosen() == 8);
}

TEST_CASE("the shot plan says what is missing and ticks itself off", "[app][bench]") {
    AppFixture app;
    MeasuredStore store;
    for (const int i : {5, 14, 15}) store.run().frames[i].dropped = true;
    store.put(app);
    app.at<BenchPlace>(theme::Place::bench);
    app.open_tab("Views of the run", "Shot plan");
    QApplication::processEvents();
    const QString before = app.find<QLabel>("What to shoot next").text();
    CHECK(before.contains("12 of 13"));
    CHECK(before.contains("Next: "));
    auto& plan = app.find<Table>("Shot plan");
    CHECK(plan.rows_model().rows().size() == 17);
    app.find<Table>("Frames of the run").choose(5);
    app.click("Restore frame");
    app.settle();
    CHECK(app.find<QLabel>("What to shoot next").text().contains("13 of 13"));
}

TEST_CASE("the model can be overruled, and what was tried is listed", "[app][bench]") {
    AppFixture app;
    MeasuredStore().put(app);
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    app.open_tab("Views of the run", "Models");
    QApplication::processEvents();
    CHECK(app.find<Table>("Models that were tried").rows_model().rows().size() >= 3);
    auto& choice = app.find<QComboBox>("Lens model");
    choice.setFocus();
    QTest::keyClick(&choice, Qt::Key_Down);
    QTest::keyClick(&choice, Qt::Key_Down);
    emit choice.activated(choice.currentIndex());
    app.settle();
    REQUIRE(bench.solution());
    CHECK(bench.solution()->profile.nodes[0].model.kind() == LensModelKind::rational);
    app.press(Qt::Key_Z, Qt::ControlModifier);
    app.settle();
    CHECK(choice.currentIndex() == 1);  // one step back of the two that the keys took
    app.click("Redo");
    app.settle();
    CHECK(choice.currentIndex() == 2);
}

TEST_CASE("a finding leads to its frame", "[app][bench]") {
    AppFixture app;
    MeasuredStore store;
    store.run().frames[7].detection.blur_px = 9;
    store.put(app);
    app.at<BenchPlace>(theme::Place::bench);
    auto& findings = app.find<Table>("Findings");
    REQUIRE(AppFixture::text(findings, 0, 0).contains("CH0008.dng is out of focus or shaken"));
    app.click_cell(findings, 0, 0);
    app.settle();
    CHECK(app.find<Table>("Frames of the run").chosen() == 7);
}

TEST_CASE("measuring goes on where it was stopped", "[app][bench]") {
    AppFixture app;
    MeasuredStore store;
    for (const std::size_t i : {4, 9, 15}) {
        RunFrame fresh;
        fresh.path = store.run().frames[i].path;
        store.run().frames[i] = fresh;
    }
    store.run().frames[0].detection.blur_px = 7;  // would be lost by measuring again
    store.put(app);
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    app.click("Measure and solve");
    app.settle();
    REQUIRE(bench.solution());
    CHECK(bench.run()->frames[0].detection.blur_px == 7);
    const RunRecord kept = app.store().runs().all()[0];
    for (const RunFrame& f : kept.frames) CHECK(f.measured());
}

TEST_CASE("frames are measured as they land in a watched folder", "[app][bench]") {
    AppFixture app;
    fs::create_directory(app.path("landing"));
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.watch(QString::fromStdString(app.path("landing").string()));
    app.settle();
    REQUIRE(bench.watching());
    REQUIRE(bench.run());
    CHECK(bench.run()->frames.empty());
    for (const char* name : {"CH0001", "CH0010", "CH0012", "CH0006"})
        fs::copy_file(rig_frame(name), app.path("landing") / (std::string(name) + ".dng"));
    for (int look = 0; look < 2; ++look) {  // a file counts once its size stays the same
        bench.look_for_frames();
        app.settle();
    }
    CHECK(bench.run()->frames.size() == 4);
    REQUIRE(bench.solution());
    CHECK(bench.solution()->profile.nodes[0].quality.frames_used == 4);
    bench.stop_watching();
    CHECK_FALSE(bench.watching());
    // A folder that goes away is told, and no longer watched.
    bench.watch(QString::fromStdString(app.path("landing").string()));
    app.settle();
    fs::remove_all(app.path("landing"));
    bench.look_for_frames();
    app.settle();
    CHECK_FALSE(bench.watching());
}

TEST_CASE("a report is written as PDF and as JSON", "[app][bench][x]") {
    AppFixture app;
    MeasuredStore().put(app);
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.write_report_to(QString::fromStdString(app.path("r.pdf").string()));
    app.settle();
    CHECK(read_file(app.path("r.pdf")).substr(0, 5) == "%PDF-");
    CHECK(fs::file_size(app.path("r.pdf")) > 50000);
    bench.write_report_to(QString::fromStdString(app.path("r.json").string()));
    app.settle();
    const auto j = nlohmann::json::parse(read_file(app.path("r.json")));
    CHECK(j.at("frames_used") == 13);
    CHECK(j.at("provenance").at("frames").size() == 17);
    bench.write_report_to("/nowhere/at/all/r.pdf");
    app.settle();
    CHECK(app.window().message().contains("/nowhere"));
}

TEST_CASE("the chart dialog draws, measures and gives the run its chart", "[app][bench]") {
    AppFixture app;
    app.at<BenchPlace>(theme::Place::bench);
    app.click("Chart…");
    auto* dialog = app.window().findChild<ChartDialog*>();
    REQUIRE(dialog);
    const auto box = [&](const char* name) {
        for (QDoubleSpinBox* b : dialog->findChildren<QDoubleSpinBox*>())
            if (known_as(*b) == name) return b;
        return static_cast<QDoubleSpinBox*>(nullptr);
    };
    CHECK(dialog->chart().text() == "checker:15x10:30");
    box("Ruler across as measured")->setValue(401);
    CHECK(dialog->chart().square_mm == Approx(30.075));
    const QString pdf = QString::fromStdString(app.path("c.pdf").string());
    CHECK(dialog->write(pdf));
    CHECK(read_file(app.path("c.pdf")).substr(0, 5) == "%PDF-");
    box("Square")->setValue(900);
    bool told = false;
    for (QLabel* l : dialog->findChildren<QLabel*>()) told = told || l->text().contains("squares of at most");
    CHECK(told);
    box("Square")->setValue(30);
    box("Ruler across as measured")->setValue(401);
    for (QAbstractButton* b : dialog->findChildren<QAbstractButton*>())
        if (b->text().contains("Use this chart")) QTest::mouseClick(b, Qt::LeftButton);
    QApplication::processEvents();
    // Without a run the line is not on the screen, but the next run takes its chart from it.
    const auto line = [&] {
        for (QLineEdit* l : app.window().findChildren<QLineEdit*>())
            if (known_as(*l) == "Chart") return l->text();
        return QString();
    };
    CHECK(line() == "checker:15x10:30.075x30");
    app.press(Qt::Key_Z, Qt::ControlModifier);
    CHECK(line() == "checker:15x10:30");
}

TEST_CASE("a repeat measurement is set against the published version, and two versions are compared", "[app][bench]") {
    AppFixture app;
    MeasuredStore().put(app);
    app.at<BenchPlace>(theme::Place::bench);
    publish(app);
    CHECK(AppFixture::text(app.find<Table>("Findings"), 0, 0).contains("Against version 1: Agrees"));
    publish(app);
    app.at<LensesPlace>(theme::Place::lenses);
    CHECK(app.find<Table>("Profiles").rows_model().rows().size() == 2);
    app.open_tab("Views of the profile", "Difference");
    QApplication::processEvents();
    CHECK(app.find<QComboBox>("Compare with").currentText().contains("version"));
    CHECK(app.find<QLabel>("Comparison").text().contains("px"));
    app.open_tab("Views of the profile", "Resolution");
    auto& zones = app.find<Table>("Resolution by zone");
    REQUIRE(zones.row_count() == 6);
    CHECK(AppFixture::text(zones, 0, 2).toDouble() == Approx(0.3).margin(0.02));
    CHECK(AppFixture::text(zones, 0, 4) == "+0.0 %");
    auto& chart = app.find<SettingChart>("Lens settings by focal length and aperture");
    QTest::mouseClick(&chart, Qt::LeftButton, {}, chart.place_of(0));
    CHECK(app.find<Table>("Figures of the profile").rows_model().rows().size() > 20);
}

TEST_CASE("a run with serious findings is published only with a tick and a reason for each", "[app][bench]") {
    AppFixture app;
    BenchPlace& bench = measured_bench(app);
    // Without its tilted frames the focal length cannot be told.
    for (int row = 0; row < static_cast<int>(bench.run()->frames.size()); ++row)
        if (const FrameOutcome& o = bench.solution()->outcomes[static_cast<std::size_t>(row)];
            o.used && !o.view.points.empty() && o.view.tilt_degrees() > 10)
            bench.set_dropped(row, true);
    app.settle();
    REQUIRE(bench.solution());
    REQUIRE_FALSE(bench.solution()->profile.findings.empty());
    publish(app, [&](QDialog& dialog) {
        auto& yes = child<QPushButton>(dialog, "Publish");
        for (const SeriousFinding& f : bench.solution()->profile.findings) {
            CHECK_FALSE(yes.isEnabled());
            child<QCheckBox>(dialog, "Accept " + q(f.name)).setChecked(true);
            CHECK_FALSE(yes.isEnabled());
            QTest::keyClicks(&child<QLineEdit>(dialog, "Reason for " + q(f.name)), "the stand is fixed");
        }
    });
    REQUIRE(app.session().profiles().current().size() == 1);
    for (const SeriousFinding& f : app.session().profiles().current().front().findings) {
        CHECK(f.accepted());
        CHECK(f.reason == "the stand is fixed");
    }
}

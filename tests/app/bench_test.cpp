#include "bench/bench_place.h"

#include <QFile>

#include "app_fixture.h"
#include "lenses/lenses_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

QString calibration_folder() { return QString::fromStdString(rig_frame("CH0001").parent_path().string()); }

BenchPlace& measured_bench(AppFixture& app) {
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.new_runs_from(calibration_folder());
    app.settle();
    app.click("Measure and solve");
    app.settle();
    REQUIRE(bench.solution());
    return bench;
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

    app.click("Publish profile");
    CHECK(app.session().profiles().size() == 1);
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
    CHECK(app.find<QAbstractButton>("Drop frame").text().contains("Restore"));
    app.press(Qt::Key_Z, Qt::ControlModifier);
    app.settle();
    CHECK(bench.solution()->profile.nodes.front().quality.frames_used == 13);
    app.click("Redo");
    app.settle();
    CHECK(bench.solution()->profile.nodes.front().quality.frames_used == 12);
    CHECK(app.session().store().runs()[0].frames[2].dropped);
}

TEST_CASE("a run is there again after the program was closed", "[app][bench]") {
    TemporaryFolder folder;
    {
        Session session(folder / "s");
        RunRecord run;
        run.name = "kept";
        run.chart = "checker:15x10:30";
        Progress progress;
        run.frames = measure_frames(rig_frames("CH"), MeasureAs::automatic, ChartSpec::parse("checker:15x10:30"), progress);
        session.store().put_run(run);
    }
    Session session(folder / "s");
    MainWindow window(session);
    window.show();
    auto* bench = static_cast<BenchPlace*>(window.place(theme::Place::bench));
    while (session.jobs().active()) QApplication::processEvents(QEventLoop::AllEvents, 20);
    REQUIRE(bench->solution());
    CHECK(bench->solution()->profile.nodes.front().quality.frames_used == 13);
}

TEST_CASE("measuring can be cancelled from the footer", "[app][bench]") {
    AppFixture app;
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.new_runs_from(calibration_folder());
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
    auto& chart = app.find<QLineEdit>("Chart");
    SECTION("a chart that is no chart") {
        chart.selectAll();
        QTest::keyClicks(&chart, "board:9");
        app.click("Solve again");
        app.settle();
        CHECK(app.window().message().contains("checker:ACROSSxDOWN:MM"));
        CHECK(bench.solution());
    }
    SECTION("the wrong square count") {
        chart.selectAll();
        QTest::keyClicks(&chart, "checker:12x8:30");
        app.click("Solve again");
        app.settle();
        CHECK_FALSE(bench.solution());
        CHECK(AppFixture::text(app.find<Table>("Findings"), 0, 0).contains("15 x 10"));
        CHECK(bench.run()->frames[0].detection.found());
    }
    SECTION("a folder without pictures") {
        const TemporaryFolder empty;
        bench.new_runs_from(QString::fromStdString(empty.path().string()));
        app.settle();
        CHECK(app.window().message().contains("holds no picture"));
        CHECK(bench.solution());
    }
}

TEST_CASE("frames of two settings make two runs", "[app][bench]") {
    AppFixture app;
    fs::create_directory(app.path("mixed"));
    for (const char* name : {"CH0001", "SP0001", "SP0007"}) fs::copy_file(rig_frame(name), app.path("mixed") / (std::string(name) + ".dng"));
    write_bytes(app.path("mixed") / "broken.dng", "");
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.new_runs_from(QString::fromStdString(app.path("mixed").string()));
    app.settle();
    CHECK(app.session().store().runs().size() == 3);
    CHECK(app.window().message().contains("could not be read"));
}

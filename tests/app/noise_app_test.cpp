// SPDX-License-Identifier: GPL-3.0-or-later
// Measured bodies in the window: measuring, publishing, curves, derived noise reduction, frames known by fingerprint.
#include <QLineEdit>

#include <nlohmann/json.hpp>

#include "app_fixture.h"
#include "base/files.h"
#include "bench/bench_place.h"
#include "bench/noise_page.h"
#include "bench/noise_plan_view.h"
#include "fleet/fingerprint_dialog.h"
#include "fleet/noise_panel.h"
#include "fleet/noise_ramp_dialog.h"
#include "frames/dng_writer.h"
#include "sensor/noise_kind.h"
#include "sensor/simulated_sensor.h"
#include "studio/fleet/fingerprints.h"
#include "widgets/log_plot.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Metadata shot_by(const char* serial, int iso, int taken) {
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = serial;
    m.iso = iso;
    m.time = fmt::format("2026:12:01 10:{:02}:{:02}", taken / 60, taken % 60);
    return m;
}

/// Pairs and dark frames of one body at two ISO settings.
std::vector<fs::path> noise_frames(const fs::path& folder) {
    fs::create_directories(folder);
    std::vector<fs::path> out;
    int taken = 0;
    for (const int iso : {100, 3200}) {
        SensorTruth truth;
        truth.gain = 250.0 / iso;
        SimulatedSensor sensor(truth, 1);
        for (const double level : {0.03, 0.1, 0.3, 0.6, 0.0})
            for (int i = 0; i < 2; ++i) {
                out.push_back(folder / fmt::format("N{:03}.dng", taken));
                write_dng(out.back(), sensor.shot(level), shot_by("B2-0117", iso, taken++));
            }
    }
    return out;
}

template <class T>
T& dialog_of(QWidget& parent) {
    for (int i = 0; i < 200; ++i) {
        for (T* d : parent.findChildren<T*>())
            if (d->isVisible()) return *d;
        QTest::qWait(10);
    }
    FAIL("The dialog did not open");
    std::abort();
}

/// Measures frames in a noise run on the Bench, and publishes it with all its findings accepted.
void measure_and_publish(AppFixture& app, const std::vector<fs::path>& frames) {
    NoisePage& measuring = app.at<BenchPlace>(theme::Place::bench).noise();
    measuring.add_frames(frames);
    app.settle();
    REQUIRE(measuring.measured());
    app.answer([&] { measuring.publish(); },
               [](QDialog& dialog) {
                   // Serious findings, if any, are accepted one by one.
                   for (QCheckBox* tick : dialog.findChildren<QCheckBox*>())
                       if (tick->text().startsWith("Accept")) tick->click();
                   for (QLineEdit* reason : dialog.findChildren<QLineEdit*>())
                       if (reason->accessibleName().startsWith("Reason")) QTest::keyClicks(reason, "A test");
               });
    app.settle();
}

}  // namespace

TEST_CASE("the noise of a body is measured, published, looked at and turned into noise reduction", "[app][noise]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("noise");
    QApplication::processEvents();
    NoisePanel& panel = fleet.noise();
    CHECK(panel.list().row_count() == 0);
    CHECK_FALSE(panel.derive_button().isEnabled());

    app.click("Measure noise…");
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    NoisePage& measuring = bench.noise();
    REQUIRE(measuring.run());
    CHECK(measuring.said().contains("cap on"));
    const std::vector<fs::path> frames = noise_frames(app.path("noise"));
    measure_and_publish(app, frames);
    CHECK(measuring.frames().row_count() == static_cast<int>(frames.size()));
    CHECK(AppFixture::text(measuring.frames(), 0, 3) == "✓ used");
    CHECK_FALSE(measuring.plan().next().isEmpty());
    app.settle();
    app.at<FleetPlace>(theme::Place::fleet);
    QApplication::processEvents();
    REQUIRE(panel.list().row_count() == 1);
    CHECK(AppFixture::text(panel.list(), 0, 0).contains("B2-0117"));
    CHECK(AppFixture::text(panel.list(), 0, 1) == "● 1");
    REQUIRE(panel.figures().row_count() == 2);
    // 2.5 electrons per count at ISO 100, 3 electrons of read noise.
    CHECK(AppFixture::text(panel.figures(), 0, 1).startsWith("2.5"));
    CHECK(AppFixture::text(panel.figures(), 0, 2).toDouble() == 0);  // with its sigma, so no plain number
    CHECK(AppFixture::text(panel.figures(), 0, 2).startsWith("3."));
    auto& read_noise = app.find<LogPlot>("Read noise over ISO");
    CHECK(read_noise.as_csv().count('\n') >= 3);  // two ISO settings, and a title
    app.open_tab("Curves of the noise", "Over light");
    CHECK(app.find<LogPlot>("Photon transfer").as_csv().contains("reading"));

    app.click("Noise reduction…");
    auto& ramp = dialog_of<NoiseRampDialog>(panel);
    app.settle();
    REQUIRE(ramp.derived());
    ramp.take_over();
    app.settle();
    const Revision& draft = app.session().baselines().draft();
    const auto tier = std::find_if(draft.tiers.begin(), draft.tiers.end(),
                                   [](const Tier& t) { return t.pins.count(Field::luminance_noise) > 0; });
    REQUIRE(tier != draft.tiers.end());
    REQUIRE(tier->pins.at(Field::luminance_noise).measured);
    CHECK(tier->pins.at(Field::luminance_noise).measured->version == 1);
    app.click("Undo");
    app.settle();
    CHECK(app.session().baselines().draft().tiers.empty());

    // Taken back, and made current again.
    app.click_and_go_on("Withdraw…", [](QDialog& dialog) {
        for (QLineEdit* line : dialog.findChildren<QLineEdit*>()) QTest::keyClicks(line, "The lamp flickered");
    });
    CHECK(AppFixture::text(panel.list(), 0, 1) == "× 1");
    app.click_and_go_on("Make current…");
    CHECK(AppFixture::text(panel.list(), 0, 1) == "● 1");
}

TEST_CASE("a damaged noise measurement hides none that can be read", "[app][noise]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.begin_noise_run();
    measure_and_publish(app, noise_frames(app.path("noise")));
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("noise");
    QApplication::processEvents();
    NoisePanel& panel = fleet.noise();
    const std::vector<Measurement> all = app.store().measurements().current(noise_kind());
    REQUIRE(all.size() == 1);
    auto other = nlohmann::json::parse(noise_kind().numbered(all[0].document, "", 0));
    other["serial"] = "B2-0999";
    other["iso"]["100"]["green"]["row_noise_e"] = "much";
    app.store().measurements().publish(noise_kind(), other.dump(), OtherSettings::drop);
    app.session().profiles().reload();
    app.settle();
    CHECK(panel.list().row_count() == 1);
}

TEST_CASE("a noise run stays on the Bench with its frames, its dropped frames and its result", "[app][noise]") {
    AppFixture app;
    auto& bench = app.at<BenchPlace>(theme::Place::bench);
    bench.new_noise_runs_from(QString::fromStdString(noise_frames(app.path("noise")).front().parent_path().string()));
    app.settle();
    NoisePage& measuring = bench.noise();
    REQUIRE(measuring.run());
    CHECK_FALSE(measuring.measured());
    measuring.measure();
    app.settle();
    REQUIRE(measuring.measured());
    // The run was saved, and is open again after another one was looked at. A dropped frame stays so.
    measuring.frames().choose(0);
    app.click("Drop frame");
    app.settle();
    CHECK(AppFixture::text(measuring.frames(), 0, 3) == "dropped");
    REQUIRE(app.store().body_runs().all().size() == 1);
    CHECK(app.store().body_runs().all()[0].frames[0].dropped);
    CHECK(app.store().body_runs().all()[0].name.find("B2-0117") != std::string::npos);
    app.click("Undo");
    app.settle();
    CHECK_FALSE(app.store().body_runs().all()[0].frames[0].dropped);
    bench.show_view("noise");
    REQUIRE(measuring.measured());
    app.settle();
    CHECK(AppFixture::text(measuring.frames(), 0, 3) == "✓ used");
    CHECK(app.find<QComboBox>("Run").currentText().contains("B2-0117"));
}

TEST_CASE("frames that tell nothing are refused, and nothing can be published", "[app][noise]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("noise");
    QApplication::processEvents();
    app.click("Measure noise…");
    NoisePage& measuring = app.at<BenchPlace>(theme::Place::bench).noise();
    measuring.add_frames({rig_frame("SP0001"), rig_frame("SP0004")});
    measuring.add_frames({rig_frame("SP0001")});
    app.settle();
    CHECK(measuring.frames().row_count() == 2);
    CHECK_FALSE(measuring.measured());
    for (QPushButton* b : measuring.bar()->findChildren<QPushButton*>())
        if (b->text() == "&Publish noise…") CHECK_FALSE(b->isEnabled());
    CHECK(app.find<Table>("Findings of the noise run").as_csv().contains("one body at a time"));
}

TEST_CASE("frames without a number are claimed by their fingerprint in the window, and undo takes it back",
          "[app][noise]") {
    AppFixture app;
    SensorTruth truth;
    truth.width = 768;
    truth.height = 640;
    SimulatedSensor sensor(truth, 1);
    fs::create_directories(app.path("flats"));
    fs::create_directories(app.path("frames"));
    std::vector<fs::path> flats;
    for (int i = 0; i < 4; ++i) {
        flats.push_back(app.path("flats") / fmt::format("F{}.dng", i));
        write_dng(flats.back(), sensor.shot(0.5), shot_by("B2-0117", 100, i));
    }
    write_dng(app.path("frames") / "P1.dng", sensor.shot(0.3), shot_by("", 100, 10));
    for (const char* folder : {"flats", "frames"}) {
        app.session().frames().add_folder(QString::fromStdString(app.path(folder).string()));
        app.settle();
    }
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("identities");
    fleet.identities().accept_all();
    app.settle();
    Progress progress;
    learn_fingerprint(app.store(), app.session().entries().bodies().front().id, flats, OtherSensor::refuse, progress);
    app.click("By fingerprint…");
    app.settle();
    auto& dialog = dialog_of<FingerprintDialog>(fleet.identities());
    REQUIRE(dialog.proposals().row_count() == 1);
    CHECK(AppFixture::text(dialog.proposals(), 0, 1) == "1");
    app.answer([&] { dialog.claim_chosen(); });
    CHECK(app.session().entries().fleet()->claims().size() == 1);
    app.click("Undo");
    app.settle();
    CHECK(app.session().entries().fleet()->claims().empty());
}

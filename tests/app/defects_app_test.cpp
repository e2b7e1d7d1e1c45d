// SPDX-License-Identifier: GPL-3.0-or-later
// Defects of sensors in the window: found, drawn, published, saved as text, withdrawn.
#include <QLineEdit>

#include <cmath>

#include "app_fixture.h"
#include "base/files.h"
#include "fleet/defects_dialog.h"
#include "fleet/defects_panel.h"
#include "frames/dng_writer.h"
#include "rig/camera.h"
#include "widgets/sensor_view.h"

using namespace optrel;
using namespace optrel::test;

namespace {

rig::Body body_with_defects() {
    rig::Body body;
    body.width = 600;
    body.height = 400;
    body.maker = "Brimholt";
    body.model = "Brimholt B2";
    body.serial = "B2-0117";
    body.xyz_to_camera = cv::Matx33d::eye();
    body.sensor.seed = 4;
    body.sensor.hot_per_million = 60;
    body.sensor.dead_per_million = 40;
    body.sensor.bad_columns = 1;
    body.sensor.dust_specks = 2;
    return body;
}

std::vector<fs::path> frames_of(const rig::Body& body, const fs::path& folder) {
    fs::create_directories(folder);
    std::vector<fs::path> out;
    for (int i = 0; i < 8; ++i) {
        rig::Exposure exposure;
        exposure.iso = 400;
        exposure.level = i < 4 ? 0 : 0.6;
        exposure.seconds = 1;
        exposure.seed = static_cast<std::uint64_t>(50 + i);
        Metadata m;
        m.maker = body.maker;
        m.model = body.model;
        m.body_serial = body.serial;
        m.iso = 400;
        m.exposure_s = 1;
        out.push_back(folder / fmt::format("F{}.dng", i));
        write_dng(out.back(), rig::photograph_flat(body, rig::Lens(), exposure, Progress()), m, Existing::replace_ours);
    }
    return out;
}

/// The dialog that the panel opened.
DefectsDialog& dialog_in(QWidget& panel) {
    for (int i = 0; i < 200; ++i) {
        for (auto* d : panel.findChildren<DefectsDialog*>())
            if (d->isVisible()) return *d;
        QTest::qWait(10);
    }
    FAIL("The dialog did not open");
    std::abort();
}

}  // namespace

TEST_CASE("defects are found, drawn, published, saved and withdrawn in the window", "[app][defects]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("defects");
    QApplication::processEvents();
    DefectsPanel& panel = fleet.defects();
    CHECK(panel.list().row_count() == 0);

    app.click("Find defects…");
    DefectsDialog& dialog = dialog_in(panel);
    const rig::Body body = body_with_defects();
    dialog.add_frames(frames_of(body, app.path("defects")));
    dialog.look();
    app.settle();
    REQUIRE(dialog.found());
    CHECK(dialog.said().contains("B2-0117: 8 frames used"));
    CHECK(dialog.said().contains("clean the sensor"));
    const rig::DeadPixel dead = rig::dead_pixels(body.sensor, body.width, body.height).front();
    CHECK(dialog.view()
              .hint_at(dialog.view().place_of(dead.column + 0.5, dead.row + 0.5))
              .startsWith(QString("dead, row %1, column %2").arg(dead.row).arg(dead.column)));
    const rig::DustSpeck dust = rig::dust_specks(body.sensor, body.width, body.height).front();
    CHECK(dialog.view().hint_at(dialog.view().place_of(dust.place[0], dust.place[1])).startsWith("dust"));
    const rig::BadColumn bad = rig::bad_columns(body.sensor, body.width, body.height).front();
    CHECK(dialog.view()
              .hint_at(dialog.view().place_of(bad.column, body.height - 3))
              .startsWith(QString("column %1").arg(bad.column)));

    app.answer([&] { dialog.publish(); });
    app.settle();
    REQUIRE(panel.list().row_count() == 1);
    CHECK(AppFixture::text(panel.list(), 0, 1) == "● 1");
    // 60 hot pixels in a million of 240,000; those in the bad column are told with it.
    const int hot = AppFixture::text(panel.list(), 0, 3).toInt();
    CHECK(hot >= 12);
    CHECK(hot <= 14);
    panel.save_text(q(app.path("list.csv").string()));
    CHECK(read_file(app.path("list.csv")).find("column,") != std::string::npos);

    app.click_and_go_on("Withdraw…", [](QDialog& asked) {
        for (QLineEdit* line : asked.findChildren<QLineEdit*>()) QTest::keyClicks(line, "Another body");
    });
    CHECK(AppFixture::text(panel.list(), 0, 1) == "× 1");
    app.click_and_go_on("Make current…");
    CHECK(AppFixture::text(panel.list(), 0, 1) == "● 1");
}

TEST_CASE("frames that show no defects to look for are refused in the dialog", "[app][defects]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("defects");
    QApplication::processEvents();
    app.click("Find defects…");
    DefectsDialog& dialog = dialog_in(fleet.defects());
    write_bytes(app.path("no.dng"), "nothing");
    dialog.add_frames({app.path("no.dng")});
    dialog.look();
    app.settle();
    CHECK_FALSE(dialog.found());
    CHECK_FALSE(dialog.said().isEmpty());
}

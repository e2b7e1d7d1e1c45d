// SPDX-License-Identifier: GPL-3.0-or-later
// The check of sidecars in the window.
#include <QTabWidget>

#include "app_fixture.h"
#include "rollout/rollout_place.h"
#include "rollout/sheet.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("sidecars that are gone and frames that were moved are found by a check, and settled", "[app][drift]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002", "SP0007"});
    app.publish_baseline();
    app.at<RolloutPlace>(theme::Place::rollout);
    app.click("Rehearse");
    app.settle();
    app.click("Roll out");
    app.settle();
    app.find<QTabWidget>("Below").setCurrentIndex(2);
    const auto said = [&] { return app.find<QLabel>("Check in short").text(); };
    app.click("Check all sidecars");
    app.settle();
    CHECK(said() == "3 frames looked at: all as the rollouts left them.");
    CHECK_FALSE(app.find<QPushButton>("Settle").isEnabled());

    const fs::path gone = app.path("frames") / "SP0001.dng", from = app.path("frames") / "SP0002.dng",
                   to = app.path("frames") / "Renamed.dng";
    fs::remove(sidecar_path(gone));
    fs::rename(from, to);
    app.click("Check all sidecars");
    app.settle();
    auto& table = app.find<Table>("Findings of the check");
    REQUIRE(table.row_count() == 2);
    CHECK(said().startsWith("3 frames looked at: 1 "));
    app.click("Settle");
    app.settle();
    CHECK(said() == "3 frames looked at: all as the rollouts left them.");
    CHECK(read_sheet(gone).baseline.at(Field::sharpening_amount).number == 30);
    CHECK(read_sheet(to).baseline.at(Field::sharpening_amount).number == 30);
    CHECK_FALSE(fs::exists(sidecar_path(from)));
    const auto& all = app.session().frames().all();
    CHECK(std::any_of(all.begin(), all.end(), [&](const FrameRecord& f) { return f.path == to; }));
}

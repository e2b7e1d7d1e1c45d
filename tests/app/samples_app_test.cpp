// SPDX-License-Identifier: GPL-3.0-or-later
// Samples of a rehearsal in the window.
#include <QTabWidget>

#include "app_fixture.h"
#include "rollout/rollout_place.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a rehearsal shows the frames that change most, before and after", "[app][samples]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0007"});
    app.publish_baseline();
    auto& place = app.at<RolloutPlace>(theme::Place::rollout);
    app.find<QTabWidget>("Below").setCurrentIndex(1);
    CHECK(app.find<Table>("Samples").row_count() == 0);
    app.click("Rehearse");
    QElapsedTimer timer;
    timer.start();
    while ((place.samples().samples().empty() || place.samples().looking()) && timer.elapsed() < 60000)
        QTest::qWait(20);
    app.settle();
    auto& table = app.find<Table>("Samples");
    REQUIRE(table.row_count() == 1);
    CHECK(AppFixture::text(table, 0, 1) == QString::fromStdString(info(Field::sharpening_amount).label));
    CHECK(AppFixture::text(table, 0, 2).toDouble() > 0);
    auto& board = app.find<SampleBoard>("Patches before and after");
    REQUIRE_FALSE(board.before(4).isNull());
    CHECK(board.before(4) != board.after(4));
    QTest::mouseClick(table.viewport(), Qt::LeftButton, {}, table.middle_of(0, 0));
    QTest::mouseDClick(table.viewport(), Qt::LeftButton, {}, table.middle_of(0, 0));
    app.settle();
    CHECK(app.find<QListWidget>("Places").currentRow() == static_cast<int>(theme::Place::inspect));
    // What is rehearsed anew is looked at anew; what is rolled out leaves nothing.
    app.at<RolloutPlace>(theme::Place::rollout);
    app.click("Roll out");
    app.settle();
    CHECK(place.samples().samples().empty());
}

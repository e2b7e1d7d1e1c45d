// SPDX-License-Identifier: GPL-3.0-or-later
// Pausing a rollout in the window, and going on.
#include "app_fixture.h"
#include "base/fault_point.h"
#include "base/station.h"
#include "rollout/rollout_place.h"
#include "rollout/sheet.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a rollout is paused between two sidecars and gone on with", "[app][rollout]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002", "SP0004", "SP0007"});
    app.publish_baseline();
    auto& place = app.at<RolloutPlace>(theme::Place::rollout);
    const auto written = [&] {
        int out = 0;
        for (const FrameRecord& f : app.session().frames().all()) out += read_sidecar(f.path).has_value();
        return out;
    };
    CHECK_FALSE(app.find<QPushButton>("Pause").isEnabled());
    app.click("Rehearse");
    app.settle();
    // Somebody presses the button while the first sidecar is being written.
    fault_point = [&](const char*) {
        if (written() > 0) app.session().rollouts().pause();
        return 0;
    };
    app.click("Roll out");
    CHECK(app.find<QPushButton>("Pause").isEnabled());
    app.settle();
    fault_point = nullptr;
    const int paused_at = written();
    CHECK(paused_at >= 1);
    CHECK(paused_at < 4);
    CHECK(app.session().rollouts().list().front().status == RolloutStatus::writing);
    CHECK_FALSE(app.find<QPushButton>("Pause").isEnabled());
    CHECK(app.find<QLabel>("Message").text().contains("It is paused; Go on writes the rest."));
    auto& history = app.find<Table>("History");
    const auto status = [&] { return AppFixture::text(history, 0, 6); };
    CHECK(status() == "! stopped writing");
    history.choose(0);
    CHECK(app.find<QPushButton>("Go on").isEnabled());
    {
        // Another station goes on with it meanwhile.
        Store other(app.session().rollouts().source().open_for_writing());
        const RolloutRecord r = other.rollouts().list().front();
        std::vector<std::filesystem::path> frames;
        for (const RolloutEntry& e : other.rollouts().entries(r)) frames.push_back(e.frame);
        const auto lease = other.rollouts().lease(frames, "A rollout of Kim at north-2");
        lease->is_for(r.number);
        CHECK(QTest::qWaitFor([&] { return status() == "running at " + q(this_station()); }, 20000));
        CHECK_FALSE(app.find<QPushButton>("Go on").isEnabled());
        CHECK_FALSE(app.find<QPushButton>("Roll back").isEnabled());
    }
    CHECK(QTest::qWaitFor([&] { return status() == "! stopped writing"; }, 20000));
    app.click("Go on");
    app.settle();
    CHECK(written() == 4);
    CHECK(app.session().rollouts().list().front().status == RolloutStatus::done);
    CHECK_FALSE(place.rehearsal());
}

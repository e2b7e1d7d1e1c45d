// SPDX-License-Identifier: GPL-3.0-or-later
// Windows of two stations on one server: what one does the other shows, and a server that goes and comes back.
#include <QElapsedTimer>
#include <QTimer>
#include <QtTest/QTest>
#include <atomic>
#include <catch2/catch.hpp>
#include <thread>

#include "app_fixture.h"
#include "main_window.h"
#include "session/session.h"
#include "store/stored_things.h"
#include "support/signed_as.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

bool within(int ms, const std::function<bool()>& holds) {
    QElapsedTimer timer;
    timer.start();
    while (!holds() && timer.elapsed() < ms) QTest::qWait(10);
    return holds();
}

/// Nobody new is let in, and those who are in are shown out; or everybody again.
void server_goes(const StorePlace& place, bool away) {
    on_test_server("postgres",
                   "ALTER DATABASE " + place.database() + " ALLOW_CONNECTIONS " + (away ? "false" : "true"));
    if (away)
        on_test_server("postgres", "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '" +
                                       place.database() + "'");
}

}  // namespace

TEST_CASE("what one window changes another one shows", "[app][shared]") {
    const StorePlace place("server");
    Session one(place.address(), Access::begin), two(place.address());
    MainWindow window(two);
    window.show();
    QTest::qWait(100);
    put_draft(*std::make_unique<Store>(place.address()), draft_with(0.5));
    CHECK(within(10000, [&] { return two.baselines().draft().tiers.size() == 1; }));
    CHECK(within(10000, [&] { return one.baselines().draft().tiers.size() == 1; }));
    CHECK(window.message().contains("another station"));
    Revision next = one.baselines().draft();
    next.tiers[0].pins[Field::tint] = Pin::constant({4, ""});
    one.baselines().edit("pin", next);
    CHECK(within(10000, [&] { return two.baselines().draft().tiers[0].pins.count(Field::tint) == 1; }));
}

TEST_CASE("a window that is at long work shows what others change meanwhile", "[app][shared]") {
    const StorePlace place(GENERATE("folder", "server"));
    Session session(place.address(), Access::begin);
    MainWindow window(session);
    window.show();
    std::atomic<bool> go_on{false};
    bool ended = false;
    session.jobs().run(
        "Long work",
        [&](Progress&) {
            while (!go_on) std::this_thread::sleep_for(std::chrono::milliseconds(5));
        },
        [&] { ended = true; });
    QTest::qWait(100);
    {
        const SignedAs kim("Kim");
        put_draft(*std::make_unique<Store>(place.address()), draft_with(0.5));
    }
    CHECK(within(15000, [&] { return session.baselines().draft().tiers.size() == 1; }));
    CHECK(window.message().contains("Kim"));
    CHECK_FALSE(ended);
    go_on = true;
    CHECK(within(10000, [&] { return ended; }));
}

TEST_CASE("a server that goes is told once, edits are refused, and all goes on when it is back", "[app][shared]") {
    const StorePlace place("server");
    Session session(place.address(), Access::begin);
    MainWindow window(session);
    window.show();
    QStringList told;
    QObject::connect(&session.messages(), &Messages::told, &window, [&](const QString& words) { told << words; });
    QTest::qWait(100);
    server_goes(place, true);
    CHECK(within(20000, [&] { return !told.filter("until it is back").isEmpty(); }));
    const Revision before = session.baselines().draft();
    Revision mine = before;
    mine.tiers = draft_with(1).tiers;
    QElapsedTimer timer;
    timer.start();
    session.baselines().edit("pin", mine);
    CHECK(session.baselines().draft().tiers.size() == before.tiers.size());
    QTest::qWait(2500);
    CHECK(told.filter("until it is back").size() == 1);
    server_goes(place, false);
    CHECK(within(20000, [&] { return !told.filter("reached again").isEmpty(); }));
    session.baselines().edit("pin", mine);
    CHECK(session.baselines().draft().tiers.size() == 1);
    CHECK(Store(place.address()).baselines().draft().tiers.size() == 1);
}

TEST_CASE("a root that has no folder here stands in Attention, and is placed from there", "[app][shared]") {
    AppFixture app;
    FrameRecord f;
    f.path = "shoots:/2026/a.dng";
    app.store().frames().put({f});
    app.session().look_for_changes();
    app.settle();
    app.at<PlaceWidget>(theme::Place::attention);
    auto& table = app.find<Table>("What needs attention");
    QStringList what;
    for (int row = 0; row < table.row_count(); ++row) what << table.rows_model().cell(row, 0).text;
    CHECK(what.filter("The root shoots has no folder here").size() == 1);
    fs::create_directories(app.path("mnt/2026"));
    app.session().frames().place_root("shoots", app.path("mnt"));
    app.settle();
    CHECK(app.session().frames().all().at(0).path == app.path("mnt/2026/a.dng"));
    CHECK(app.session().frames().knowledge().missing_roots.empty());
}

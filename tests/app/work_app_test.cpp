// SPDX-License-Identifier: GPL-3.0-or-later
// Shared work in the window: put in, done by this station or another, looked at, cancelled; and who has what open.
#include <QCheckBox>
#include <QDialogButtonBox>
#include <QInputDialog>
#include <QListWidget>
#include <QMenu>
#include <QSpinBox>

#include "app_fixture.h"
#include "dialogs.h"
#include "exports/exports_place.h"
#include "inspect/inspect_place.h"
#include "store/stored_things.h"
#include "studio/queue/queue_work.h"
#include "work/work_dialog.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Settings of the station of a test's own.
class OwnSettings {
public:
    OwnSettings() : before_(qgetenv("XDG_CONFIG_HOME")) { qputenv("XDG_CONFIG_HOME", folder_.path().c_str()); }
    ~OwnSettings() { before_.isEmpty() ? qunsetenv("XDG_CONFIG_HOME") : qputenv("XDG_CONFIG_HOME", before_); }

private:
    TemporaryFolder folder_;
    QByteArray before_;
};

void choose_in_menu(AppFixture& app, const QString& button, const QString& entry) {
    for (QAction* a : app.find<QPushButton>(button).menu()->actions())
        if (a->text().remove('&').startsWith(entry)) return a->trigger();
    FAIL("There is no " << entry.toStdString());
}

QStringList result(AppFixture& app) {
    auto& list = app.find<QListWidget>("What came of the job");
    QStringList out;
    for (int i = 0; i < list.count(); ++i) out << list.item(i)->text();
    return out;
}

/// Until the shared work says so, as it is heard of.
bool until(AppFixture& app, const std::function<bool()>& holds) {
    QElapsedTimer timer;
    timer.start();
    while (!holds() && timer.elapsed() < 60000) {
        QTest::qWait(20);
        app.session().look_for_changes();
    }
    app.settle();
    return holds();
}

/// Puts a name on the button of the menu, which has none of its own.
void open_work(AppFixture& app) {
    app.click("Shared work");
    app.settle();
}

}  // namespace

TEST_CASE("work is put in, done by this station, and its result is told", "[app][work]") {
    const OwnSettings settings;
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    app.publish_baseline();
    open_work(app);
    CHECK(result(app).at(0).contains("Nothing was put in yet"));
    choose_in_menu(app, "Put in", "Rehearse all frames");
    app.settle();
    auto& jobs = app.find<Table>("Jobs");
    REQUIRE(jobs.row_count() == 1);
    CHECK(AppFixture::text(jobs, 0, 1) == "rehearsals");
    CHECK(AppFixture::text(jobs, 0, 5) == "waits");
    CHECK(result(app) == QStringList{"Nothing yet."});
    QTest::mouseClick(&app.find<QCheckBox>("This station helps"), Qt::LeftButton, {}, {6, 8});
    REQUIRE(app.session().work().help().on);
    REQUIRE(until(app, [&] { return AppFixture::text(jobs, 0, 4) == "1 of 1"; }));
    CHECK(AppFixture::text(jobs, 0, 5).contains("done"));
    CHECK(result(app).at(0).startsWith("2 of 2 sidecars would be written"));
    CHECK(app.session().work().portions_done() == 1);
    choose_in_menu(app, "Put in", "Check all sidecars");
    REQUIRE(until(app, [&] { return jobs.row_count() == 2 && AppFixture::text(jobs, 0, 4) == "2 of 2"; }));
    app.click("Settle in Rollout");
    app.settle();
    CHECK(app.find<QLabel>("Check in short").text().startsWith("2 frames looked at: all as"));
    open_work(app);
    // Kept for the next window of this station.
    CHECK(Session(app.address()).work().help().on);
    QTest::mouseClick(&app.find<QCheckBox>("This station helps"), Qt::LeftButton, {}, {6, 8});
    CHECK_FALSE(Session(app.address()).work().help().on);
}

TEST_CASE("a station that does not help leaves the work to others, and a job can be cancelled", "[app][work]") {
    const OwnSettings settings;
    AppFixture app;
    app.add_frames({"SP0001"});
    app.publish_baseline();
    open_work(app);
    choose_in_menu(app, "Put in", "Rehearse all frames");
    app.settle();
    choose_in_menu(app, "Put in", "Rehearse all frames");
    app.settle();
    auto& jobs = app.find<Table>("Jobs");
    REQUIRE(jobs.row_count() == 2);
    CHECK(app.find<QPushButton>("Shared work").text() == "Shared work: 2");
    app.click_cell(jobs, 0, 2);
    app.click("Cancel job");
    app.settle();
    CHECK(AppFixture::text(jobs, 0, 5) == "cancelled");
    Progress progress;
    QueueWorker(app.store().source(), {}, "south/1").step(progress);
    REQUIRE(until(app, [&] { return AppFixture::text(jobs, 1, 4) == "1 of 1"; }));
    CHECK(app.find<QPushButton>("Shared work").text() == "Shared work");
    // Hours that are none are told, and nothing is changed.
    auto& hours = app.find<QLineEdit>("Hours of help");
    hours.setFocus();
    QTest::keyClicks(&hours, "from nine");
    QTest::keyClick(&hours, Qt::Key_Return);
    CHECK(app.session().work().help().hours.whole_day());
    CHECK_FALSE(app.find<QLabel>("What was done").text().isEmpty());
}

TEST_CASE("a run and an open rollout are chosen among those there are", "[app][work]") {
    const OwnSettings settings;
    AppFixture app;
    open_work(app);
    choose_in_menu(app, "Put in", "Measure a run");
    CHECK(app.find<QLabel>("What was done").text().contains("There is no run"));
    choose_in_menu(app, "Put in", "Write an open rollout");
    CHECK(app.find<QLabel>("What was done").text().contains("No rollout is open"));
    RunFrame f;
    f.path = rig_frame("CH0001");
    app.store().runs().put({0, "Stand 1", "checker:15x10:30", "/f", {f}});
    on_dialog([](QDialog& dialog) {
        auto* ask = qobject_cast<QInputDialog*>(&dialog);
        REQUIRE(ask);
        CHECK(ask->comboBoxItems() == QStringList{"Run 1: Stand 1"});
        dialog.accept();
    });
    choose_in_menu(app, "Put in", "Measure a run");
    app.settle();
    CHECK(app.store().queue().jobs().at(0).kind == "measure");
}

TEST_CASE("exports go into the shared work when any station may do them", "[app][work]") {
    const OwnSettings settings;
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& place = app.at<ExportsPlace>(theme::Place::exports);
    app.settle();
    place.set_folder(QString::fromStdString(app.path("frames/out").string()));
    app.store().roots().put({"work", this_station(), app.path("frames")});
    app.session().look_for_changes();
    app.settle();
    app.find<Table>("Frames").choose(0);
    QTest::mouseClick(&app.find<QCheckBox>("By any station"), Qt::LeftButton, {}, {6, 8});
    app.click("Queue chosen");
    app.settle();
    CHECK(app.session().exports().queue().empty());
    REQUIRE(app.store().queue().jobs().size() == 1);
    Progress progress;
    CHECK(QueueWorker(app.store().source(), {}, "south/1").step(progress)->state == PortionState::done);
    CHECK(fs::exists(app.path("frames/out")));
}

TEST_CASE("who else has a tier open is told, and forgotten when they leave", "[app][presence]") {
    const OwnSettings settings;
    AppFixture app;
    app.publish_baseline();
    app.at<PlaceWidget>(theme::Place::baselines);
    app.settle();
    app.find<Table>("Tiers").choose(0);
    app.settle();
    const auto here = app.store().stations().others("");
    REQUIRE(here.size() == 1);
    CHECK(here[0].kind == "tier");
    CHECK(here[0].subject == "studio");
    app.store().stations().at({"w2", "Bo", "south", "tier", "studio"});
    app.session().look_for_changes();
    app.settle();
    CHECK(app.find<QLabel>("Who else is here").text() == "Also at this tier: Bo at south.");
    app.store().stations().at({"w2", "Bo", "south", "draft", ""});
    app.session().look_for_changes();
    app.settle();
    CHECK(app.find<QLabel>("Who else is here").text() == "Bo at south has the draft open.");
    app.store().stations().leave("w2");
    app.session().look_for_changes();
    app.settle();
    for (QLabel* label : app.window().findChildren<QLabel*>())
        if (known_as(*label) == "Who else is here") CHECK_FALSE(label->isVisible());
    // In another place nothing of the draft is open.
    app.at<PlaceWidget>(theme::Place::fleet);
    app.settle();
    CHECK(app.store().stations().others("").empty());
}

TEST_CASE("a frame whose name is no UTF-8 is worked on in the window", "[app][paths]") {
    AppFixture app;
    fs::create_directories(app.path("frames"));
    const fs::path odd = app.path("frames") / "caf\xe9.dng";
    fs::copy_file(rig_frame("SP0001"), odd);
    app.session().frames().add_folder(QString::fromStdString(app.path("frames").string()));
    app.settle();
    REQUIRE(app.session().frames().all().size() == 1);
    CHECK(app.session().frames().all()[0].path == odd);
    app.publish_baseline();
    app.at<InspectPlace>(theme::Place::inspect).choose_frame(q(odd.string()));
    app.settle();
    CHECK(app.find<Table>("Frames").chosen() == 0);
    Sheet sheet;
    sheet.hand[Field::exposure] = {0.5, ""};
    app.session().sheets().write({{odd, sheet}});
    app.settle();
    CHECK(read_sheet(odd).hand.size() == 1);
    REQUIRE(app.session().sheets().find(odd));
    CHECK(app.session().sheets().find(odd)->hand.size() == 1);
}

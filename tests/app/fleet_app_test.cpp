// SPDX-License-Identifier: GPL-3.0-or-later
#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QPushButton>

#include "app_fixture.h"
#include "base/files.h"
#include "dialogs.h"
#include "fleet/grid_panel.h"
#include "inspect/inspect_place.h"
#include "studio/frames/knowledge.h"
#include "studio/rollout/frames_reached.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A published profile of the demo's lens, without a run on the Bench.
void publish_profile(AppFixture& app, const char* lens_serial, double focal = 35,
                     const char* lens = "Lumenfold 35mm f/2.8") {
    Profile p;
    p.id = std::string("p-") + lens_serial;
    p.lens = p.name = lens;
    p.lens_serial = lens_serial;
    p.camera = "Brimholt B2";
    p.geometry = {2464, 1640, 9.4};
    p.provenance.time = "2026-03-02T10:00:00Z";
    ProfileNode n;
    n.focal_mm = focal;
    n.setting = {focal, 4, 0.69};
    n.largest_radius_mm = 13.9;
    p.nodes = {n};
    app.store().profiles().publish(p);
    app.session().profiles().reload();
    app.settle();
}

}  // namespace

TEST_CASE("what files report waits to be claimed, accepting it registers, and undo makes it wait again",
          "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004", "SP0007"}, false);
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    CHECK(app.session().entries().bodies().empty());
    fleet.show_view("identities");
    QApplication::processEvents();
    Table& table = fleet.identities().table();
    CHECK(table.row_count() == 4);  // three bodies, one lens
    CHECK(AppFixture::text(table, 0, 3).contains("unclaimed"));
    app.click_cell(table, 0, 0);
    app.click("Accept proposal");
    app.settle();
    CHECK(app.session().entries().lenses().size() + app.session().entries().bodies().size() == 1);
    app.click("Accept all proposals");
    app.settle();
    CHECK(app.session().entries().bodies().size() == 3);
    CHECK(app.session().entries().fleet()->entries().models.size() == 2);
    for (int r = 0; r < table.row_count(); ++r) CHECK(AppFixture::text(table, r, 3).contains("claimed"));
    CHECK_FALSE(app.find<QAbstractButton>("Accept all proposals").isEnabled());
    app.click("Undo");
    app.settle();
    CHECK(app.session().entries().bodies().size() <= 1);
    app.click("Redo");
    app.settle();
    CHECK(app.session().entries().bodies().size() == 3);
}

TEST_CASE("a number is claimed for another body, which splits its frames off, and taking it back joins them again",
          "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("identities");
    QApplication::processEvents();
    Table& table = fleet.identities().table();
    const int row = AppFixture::row_of(table, "Brimholt B2, number B2-0117");
    REQUIRE(row >= 0);
    app.click_cell(table, row, 0);
    on_dialog([](QDialog& d) {
        auto& target = child<QComboBox>(d, "Body");
        target.setCurrentIndex(1);  // the other one
        CHECK(child<QLineEdit>(d, "Body number as reported").text() == "B2-0117");
        auto& from = child<QLineEdit>(d, "From");
        QTest::keyClicks(&from, "2027-01-01");
        QTest::keyClicks(&child<QLineEdit>(d, "To"), "2026:01:01");
        go_on(d);
        CHECK(d.isVisible());  // ends before it begins
        from.clear();
        child<QLineEdit>(d, "To").clear();
        // The number is another body's: its frames leave it only when that is ticked.
        auto& over = child<QCheckBox>(d, "Take them from the register's numbers");
        for (int i = 0; i < 2000 && over.isHidden(); ++i) QTest::qWait(10);
        CHECK(over.text().contains("1 frame from"));
        CHECK(child<QLabel>(d, "What would change").text().contains("1 gets another body"));
        CHECK_FALSE(child<QPushButton>(d, "Claim").isEnabled());
        over.setChecked(true);
        go_on(d);
    });
    app.click("Claim for…");
    app.settle();
    REQUIRE(app.session().entries().fleet()->claims().size() == 1);
    CHECK(app.session().frames().knowledge().frames_of_body.at("Brimholt B2/B2-0231") == 2);
    app.click_cell(table, AppFixture::row_of(table, "Brimholt B2, number B2-0117"), 0);
    app.click_and_go_on("Take back…");
    CHECK(app.session().frames().knowledge().frames_of_body.at("Brimholt B2/B2-0231") == 1);
}

TEST_CASE("what is not alike is merged only on demand, and very many frames are claimed after a question",
          "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0007"}, false);
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("identities");
    QApplication::processEvents();
    put_frames_without_asking(app.store(), 0);
    on_dialog([](QDialog& d) { d.reject(); });
    app.click("Accept all proposals");
    while (QApplication::activeModalWidget()) QApplication::processEvents(QEventLoop::AllEvents, 20);
    app.settle();
    CHECK(app.session().entries().bodies().empty());
    app.click_and_go_on("Accept all proposals");
    REQUIRE(app.session().entries().bodies().size() == 2);
    fleet.show_view("bodies");
    app.click_cell(fleet.bodies(), 0, 2);
    on_dialog([](QDialog& d) {
        on_dialog([](QDialog& asked) {
            for (int i = 0; i < 30; ++i) QTest::qWait(10);
            CHECK_FALSE(child<QPushButton>(asked, "Merge").isEnabled());
            child<QCheckBox>(asked, "Do it all the same").setChecked(true);
            go_on(asked);
        });
        QTest::keyClick(&d, Qt::Key_Return);
    });
    app.click("Merge into…");
    while (QApplication::activeModalWidget()) QApplication::processEvents(QEventLoop::AllEvents, 20);
    app.settle();
    CHECK(app.session().entries().bodies().size() == 1);
}

TEST_CASE("an edit that another station was quicker with is not told as done", "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    app.click_cell(fleet.bodies(), 0, 2);
    const std::size_t tiers = app.session().baselines().draft().tiers.size();
    on_dialog([&app](QDialog& d) {
        on_dialog([&app](QDialog& asked) {
            FleetEdit elsewhere;
            for (const Body& b : app.session().entries().bodies()) {
                Body moved = b;
                moved.room = "Loft";
                elsewhere.bodies.push_back({b, moved});
            }
            elsewhere.what = "edit room";
            app.store().source().open_for_writing().registry().edit(elsewhere, "Ora");
            go_on(asked);
        });
        QTest::keyClick(&d, Qt::Key_Return);
    });
    app.click("Merge into…");
    while (QApplication::activeModalWidget()) QApplication::processEvents(QEventLoop::AllEvents, 20);
    app.settle();
    CHECK(app.session().entries().bodies().size() == 2);
    CHECK_FALSE(app.window().message().contains("is merged"));
    CHECK(app.session().baselines().draft().tiers.size() == tiers);
}

TEST_CASE("a version is withdrawn and made current in the window, after what changes was told", "[app][lenses]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    publish_profile(app, "LF35-00482");
    publish_profile(app, "LF35-00482");
    app.session().profiles().reload();
    app.at<PlaceWidget>(theme::Place::lenses);
    auto& list = app.find<Table>("Profiles");
    REQUIRE(list.row_count() == 2);
    CHECK(AppFixture::text(list, 0, 2) == "● 2");
    app.click_cell(list, 0, 0);
    CHECK_FALSE(app.find<QAbstractButton>("Make current…").isEnabled());
    app.click_and_go_on("Withdraw…", [](QDialog& d) {
        for (int i = 0; i < 30; ++i) QTest::qWait(10);
        CHECK_FALSE(child<QPushButton>(d, "Withdraw").isEnabled());  // without a reason
        QTest::keyClicks(&child<QLineEdit>(d, "Reason"), "the stand moved");
    });
    CHECK(AppFixture::text(list, 0, 2) == "× 2");
    CHECK(AppFixture::text(list, 1, 2) == "● 1");
    CHECK(app.window().message().contains("is withdrawn"));
    app.click_cell(list, 0, 0);
    CHECK_FALSE(app.find<QAbstractButton>("Withdraw…").isEnabled());
    app.click_and_go_on("Make current…");
    CHECK(AppFixture::text(list, 0, 2) == "● 2");
}

TEST_CASE("two entries of one body are merged, with a history, and undone", "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    app.click_cell(fleet.bodies(), 0, 2);
    on_dialog([](QDialog& d) {
        on_dialog([](QDialog& asked) {
            go_on(asked);  // of the same model: nothing is in doubt
        });
        QTest::keyClick(&d, Qt::Key_Return);
    });
    app.click("Merge into…");
    while (QApplication::activeModalWidget()) QApplication::processEvents(QEventLoop::AllEvents, 20);
    app.settle();
    REQUIRE(app.session().entries().bodies().size() == 1);
    CHECK(app.session().frames().knowledge().frames_of_body.at(app.session().entries().bodies()[0].id) == 2);
    app.click("Undo");
    app.settle();
    CHECK(app.session().entries().bodies().size() == 2);
    app.click_cell(fleet.bodies(), 0, 2);
    CHECK(AppFixture::text(app.find<Table>("History of the body"), 0, 2).contains("merge"));
}

TEST_CASE("a register is imported and exported from the window, and a bad one changes nothing", "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    const fs::path csv = app.path("bodies.csv");
    write_bytes(
        csv, "maker,model,serial_number,room\nBrimholt,Brimholt B2,B2-0117,East\nBrimholt,Brimholt B2,B2-0999,West\n");
    app.answer([&] { fleet.import_from(QString::fromStdString(csv.string())); });
    CHECK(app.session().entries().bodies().size() == 2);
    CHECK(app.session().entries().bodies()[0].room == "East");
    CHECK(app.window().message().contains("1 added, 1 changed"));
    write_bytes(csv, "maker,model,serial_number,colour\nBrimholt,Brimholt B2,B2-0117,red\n");
    fleet.import_from(QString::fromStdString(csv.string()));
    CHECK(app.window().message().contains("colour"));
    fleet.export_to(QString::fromStdString(app.path("all.json").string()));
    CHECK(read_file(app.path("all.json")).find("B2-0999") != std::string::npos);
    app.click("Undo");
    app.settle();
    CHECK(app.session().entries().bodies().size() == 1);
}

TEST_CASE("two stations: the later edit is told, the earlier one is seen", "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    Store other(app.address());
    const Body body = other.registry().bodies()[0];
    Body renamed = body;
    renamed.name = "East stand";
    FleetEdit edit;
    edit.bodies.push_back({body, renamed});
    other.registry().edit(edit, "Jon");
    app.type_into(fleet.bodies(), 0, 0, "West stand");
    CHECK(app.window().message().contains("another station"));
    app.settle();
    CHECK(app.session().entries().bodies()[0].name == "East stand");
    CHECK_FALSE(app.session().undo().undoText().contains("edit name"));
    Revision theirs = other.baselines().draft();
    Tier t;
    t.id = t.name = "theirs";
    theirs.tiers.push_back(t);
    put_draft(other, theirs);
    app.session().look_for_changes();
    app.settle();
    CHECK(app.session().baselines().draft().tiers.size() == 1);
    CHECK(app.window().message().contains("another station"));
}

TEST_CASE("the grid tells the grade of each pair, its candidates and why, and pins one by hand", "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0007"});
    publish_profile(app, "LF35-00482");
    publish_profile(app, "AC-1", 60, "Aldercroft 60mm f/4");
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("grid");
    app.settle();
    Table& grid = fleet.grid().grid();
    REQUIRE(grid.row_count() == 2);
    CHECK(AppFixture::text(grid, 0, 1).contains("own"));
    CHECK(AppFixture::text(grid, 1, 1).contains("own"));
    app.click_cell(grid, 0, 1);
    Table& candidates = fleet.grid().candidates();
    REQUIRE(candidates.row_count() == 2);
    CHECK(AppFixture::text(candidates, 0, 1).contains("own"));
    CHECK(AppFixture::text(candidates, 1, 1).contains("refused"));
    QTest::keyClicks(&fleet.grid().search(), "aldercroft");
    REQUIRE(candidates.row_count() == 1);
    app.click_cell(candidates, 0, 0);
    app.click("Pin for this pair…");
    REQUIRE(app.session().baselines().draft().tiers.size() == 1);
    CHECK(app.session().baselines().draft().tiers[0].pins.at(Field::lens_profile).knots[0].second.text == "p-AC-1");
    CHECK(app.session().baselines().draft().tiers[0].lens_condition == LensCondition::copy);
    CHECK(app.window().message().contains("stand-in"));
}

TEST_CASE("a lens without contacts is assigned to chosen frames, which then find its profile", "[app][inspect]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    publish_profile(app, "AM-1", 60, "Aldercroft 60mm f/4");
    LensEntry manual;
    manual.lens = "Aldercroft 60mm f/4";
    manual.serial = "AM-1";
    manual.contacts = false;
    manual.focal_min_mm = manual.focal_max_mm = 60;
    manual.id = id_for(manual);
    FleetEdit edit;
    edit.lenses.push_back({std::nullopt, manual});
    app.session().entries().edit("add a lens", edit);
    app.settle();
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 1, 0);
    app.settle();
    on_dialog([](QDialog& d) {
        auto& lens = child<QComboBox>(d, "Lens");
        lens.setCurrentIndex(lens.findText("Aldercroft", Qt::MatchStartsWith));
        child<QDoubleSpinBox>(d, "Focal length").setValue(60);
        // The frame reports the number of a registered lens.
        auto& over = child<QCheckBox>(d, "Take them from the register's numbers");
        for (int i = 0; i < 2000 && over.isHidden(); ++i) QTest::qWait(10);
        over.setChecked(true);
        go_on(d);
    });
    app.click("Assign lens…");
    app.settle();
    REQUIRE(app.session().entries().fleet()->claims().size() == 1);
    CHECK(app.session().entries().fleet()->claims()[0].frames.size() == 1);
    const FrameRecord& f = app.session().frames().all()[1];
    CHECK(know(f.path, f.metadata, *app.session().entries().fleet()).metadata.lens == "Aldercroft 60mm f/4");
    CHECK(app.session().frames().knowledge().frames_of_lens.at(manual.id) == 1);
}

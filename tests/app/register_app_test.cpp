// SPDX-License-Identifier: GPL-3.0-or-later
// Editing the register in its tables, and frames of unknown bodies, as a person does.
#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

#include "app_fixture.h"
#include "base/files.h"
#include "baselines/baselines_place.h"
#include "baselines/matrix_panel.h"
#include "dialogs.h"
#include "inspect/inspect_place.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("every column of the register that can be edited is, and what cannot be is refused in words",
          "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004", "SP0007"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    Table& bodies = fleet.bodies();
    app.type_into(bodies, 0, 4, "East room");
    app.type_into(bodies, 0, 5, "infrared-converted");
    app.type_into(bodies, 0, 6, "no");
    app.type_into(bodies, 0, 7, "filter removed in 2025");
    app.settle();
    const Body b = app.session().entries().bodies()[0];
    CHECK(b.room == "East room");
    CHECK(b.condition == "infrared-converted");
    CHECK_FALSE(b.in_service);
    CHECK(b.notes == "filter removed in 2025");
    app.type_into(bodies, 0, 6, "perhaps");
    CHECK(app.window().message().contains("neither yes nor no"));
    app.type_into(bodies, 0, 3, "B2-0231");
    CHECK(app.window().message().contains("already that of"));
    CHECK(app.session().entries().bodies()[0].serial == "B2-0117");
    app.click_cell(bodies, 0, 0);
    Table& history = app.find<Table>("History of the body");
    CHECK(history.row_count() == 5);
    CHECK(AppFixture::text(history, 0, 2).contains("filter removed"));

    fleet.show_view("lenses");
    QApplication::processEvents();
    app.type_into(fleet.lenses(), 0, 6, "24-70");
    app.type_into(fleet.lenses(), 0, 7, "4-22");
    app.type_into(fleet.lenses(), 0, 5, "no");
    const LensEntry l = app.session().entries().lenses()[0];
    CHECK(l.zoom());
    CHECK(l.aperture_max == 22);
    CHECK_FALSE(l.contacts);
    app.type_into(fleet.lenses(), 0, 6, "70-24");
    CHECK(app.window().message().contains("cannot be"));
    app.type_into(fleet.lenses(), 0, 6, "wide");
    CHECK(app.window().message().contains("not understood"));
    CHECK(app.session().entries().lenses()[0].focal_max_mm == 70);

    fleet.show_view("models");
    QApplication::processEvents();
    app.type_into(fleet.models(), 1, 4, "Luminance NR = 100: 0, 6400: 45; sharpening_amount = 20");
    app.settle();
    CHECK(app.session().baselines().draft().recorded_adds.at("Tarnwick T7").size() == 2);
    CHECK(AppFixture::text(fleet.models(), 1, 4).contains("6400: 45"));
    app.type_into(fleet.models(), 1, 4, "glow = 7");
    CHECK(app.window().message().contains("not understood"));
    app.type_into(fleet.models(), 1, 1, "6000 x 4000");
    CHECK(app.session().entries().fleet()->entries().models[1].width == 6000);
    app.type_into(fleet.models(), 1, 1, "large");
    CHECK(app.window().message().contains("no sensor size"));
    app.type_into(fleet.models(), 1, 4, "nothing");
    CHECK(app.session().baselines().draft().recorded_adds.empty());
}

TEST_CASE("a start as recorded means different things on different bodies, and the matrix shows it",
          "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002", "SP0007", "SP0008"});
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    Revision r;
    Tier studio;
    studio.id = studio.name = "studio";
    studio.pins[Field::start] = Pin::constant({0, "as recorded"});
    r.tiers = {studio};
    app.session().baselines().edit("test", r);
    app.settle();
    baselines.choose_field(Field::sharpening_amount);
    // The Brimholt records no sharpness; the Tarnwick does, more at ISO 3200 than at ISO 100.
    const int brimholt = AppFixture::row_of(baselines.matrix(), "Brimholt B2/B2-0117"),
              tarnwick = AppFixture::row_of(baselines.matrix(), "Tarnwick T7/70031");
    CHECK(AppFixture::text(baselines.matrix(), brimholt, 1) == "0");
    CHECK(AppFixture::text(baselines.matrix(), tarnwick, 1) == "10 r");
    CHECK(AppFixture::text(baselines.matrix(), tarnwick, 6) == "60 r");
    baselines.choose_field(Field::rendering);
    CHECK(AppFixture::text(baselines.matrix(), brimholt, 1).startsWith("as recorded"));
    CHECK(AppFixture::text(baselines.matrix(), tarnwick, 1) == "neutral");
    baselines.choose_field(Field::contrast);
    app.click_cell(baselines.matrix(), tarnwick, 1);
    CHECK(AppFixture::text(baselines.trace(), 1, 0).contains("as recorded"));
    CHECK(AppFixture::text(baselines.trace(), 1, 2).contains("won"));
}

TEST_CASE("a frame of an unknown body gets no body tier until it is claimed, and then it does", "[app][inspect]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004"}, false);
    FleetEdit edit;
    Body stand;
    stand.maker = "Brimholt";
    stand.model = "Brimholt B2";
    stand.asset_tag = "HB-7";
    stand.id = id_for(stand);
    edit.bodies.push_back({std::nullopt, stand});
    app.session().entries().edit("add a body", edit);
    Revision r;
    Tier t;
    t.id = t.name = "stand";
    t.scope = Scope::body;
    t.target = stand.id;
    t.pins[Field::exposure] = Pin::constant({1, ""});
    r.tiers = {t};
    app.session().baselines().edit("test", r);
    static_cast<BaselinesPlace*>(app.window().place(theme::Place::baselines))->publish("one");
    app.settle();
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    app.settle();
    const auto row = [&] { return AppFixture::row_of(inspect.sheet(), "Exposure"); };
    CHECK(AppFixture::text(inspect.sheet(), row(), 5) == "0.00 EV");
    on_dialog([](QDialog& d) { go_on(d); });
    app.click("Claim body…");
    app.settle();
    CHECK(AppFixture::text(inspect.sheet(), row(), 5) == "1.00 EV");
    app.click_cell(inspect.sheet(), row(), 0);
    Table& trace = app.find<Table>("Trace of the frame");
    CHECK(AppFixture::text(trace, trace.row_count() - 1, 0).startsWith("stand"));
    app.click("Undo");
    app.settle();
    CHECK(AppFixture::text(inspect.sheet(), row(), 5) == "0.00 EV");
}

TEST_CASE("several frames go back to their baseline together, with the set if asked, and come back by one undo",
          "[app][inspect]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    for (const FrameRecord& f : app.session().frames().all()) {
        Sheet s;
        s.revision = 1;
        s.baseline[Field::exposure] = {0.5, ""};
        s.set[Field::exposure] = {0.75, ""};
        s.hand[Field::tint] = {3, ""};
        app.session().sheets().write({{f.path, s}});
    }
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    inspect.frames().selectAll();
    inspect.frames().choose(0);
    inspect.frames().selectAll();
    app.settle();
    app.click("Back to baseline");
    for (const FrameRecord& f : app.session().frames().all()) {
        CHECK(read_sheet(f.path).hand.empty());
        CHECK(read_sheet(f.path).set.size() == 1);
    }
    for (QCheckBox* box : inspect.findChildren<QCheckBox*>())
        if (box->text().contains("and the set")) box->setChecked(true);
    inspect.frames().selectAll();
    app.click("Back to baseline");
    for (const FrameRecord& f : app.session().frames().all()) CHECK(read_sheet(f.path).set.empty());
    app.click("Undo");
    app.click("Undo");
    for (const FrameRecord& f : app.session().frames().all()) CHECK(read_sheet(f.path).hand.size() == 1);
}

TEST_CASE("a body and a lens are added by hand, and taken out again", "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    on_dialog([](QDialog& d) {
        QTest::keyClick(&d, Qt::Key_Return);
        on_dialog([](QDialog& second) {
            QTest::keyClicks(second.findChild<QLineEdit*>(), "#HB-77");
            QTest::keyClick(&second, Qt::Key_Return);
        });
    });
    app.click("Add body…");
    app.settle();
    REQUIRE(app.session().entries().bodies().size() == 2);
    CHECK(app.session().entries().fleet()->body("Brimholt B2/HB-77"));
    CHECK(app.session().entries().fleet()->body("Brimholt B2/HB-77")->width == 2464);
    fleet.show_view("lenses");
    QApplication::processEvents();
    on_dialog([](QDialog& d) {
        QTest::keyClicks(d.findChild<QLineEdit*>(), "Aldercroft 24-70mm f/4");
        QTest::keyClick(&d, Qt::Key_Return);
        on_dialog([](QDialog& second) { QTest::keyClick(&second, Qt::Key_Return); });
    });
    app.click("Add lens…");
    app.settle();
    REQUIRE(app.session().entries().lenses().size() == 2);
    const int row = AppFixture::text(fleet.lenses(), 0, 2).startsWith("Alder") ? 0 : 1;
    CHECK(AppFixture::text(fleet.lenses(), row, 6) == "24-70");
    CHECK(AppFixture::text(fleet.lenses(), row, 5) == "no");
    app.click_cell(fleet.lenses(), row, 2);
    app.click_and_go_on("Take out…");
    CHECK(app.session().entries().lenses().size() == 1);
    app.click("Undo");
    app.settle();
    CHECK(app.session().entries().lenses().size() == 2);
}

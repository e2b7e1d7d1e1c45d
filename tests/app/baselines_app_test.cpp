// SPDX-License-Identifier: GPL-3.0-or-later
#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>

#include "app_fixture.h"
#include "base/files.h"
#include "baselines/baselines_place.h"
#include "baselines/lint_panel.h"
#include "baselines/matrix_panel.h"
#include "baselines/ramp_panel.h"
#include "baselines/revisions_panel.h"
#include "baselines/sets_panel.h"
#include "dialogs.h"
#include "inspect/inspect_place.h"
#include "support/sample_profile.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Tier draft_tier(const char* id, Scope scope = Scope::studio, const std::string& target = "") {
    Tier t;
    t.id = id;
    t.scope = scope;
    t.target = target;
    t.name = describe_conditions(t);
    return t;
}

Revision with(std::vector<Tier> tiers) {
    Revision r;
    r.tiers = std::move(tiers);
    return r;
}

QPushButton& ok_of(QDialog& d) { return *d.findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok); }

/// Waits inside a dialog until its counts are there.
void await_counts(QDialog& d) {
    for (int i = 0; i < 400 && !ok_of(d).isEnabled(); ++i) QTest::qWait(10);
}

}  // namespace

TEST_CASE("a value typed into a cell asks for the tier and tells what else changes before it is pinned",
          "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002", "SP0004", "SP0007"});
    Tier model = draft_tier("m", Scope::model, "Brimholt B2");
    model.pins[Field::luminance_noise] = pin_from_text(Field::luminance_noise, "100: 0, 800: 20");
    app.session().baselines().edit("test", with({model}));
    app.settle();
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    baselines.choose_field(Field::luminance_noise);
    QString places, sum;
    on_dialog([&](QDialog& d) {
        await_counts(d);
        Table& tiers = child<Table>(d, "Tier to pin in");
        for (int r = 0; r < tiers.row_count(); ++r)
            places += tiers.rows_model().cell(r, 0).text + "|" + tiers.rows_model().cell(r, 3).text + ";";
        tiers.choose(0);  // the model's tier: a knot of its ramp
        sum = child<Table>(d, "What else changes").as_csv();
        ok_of(d).click();
    });
    app.type_into(baselines.matrix(), 0, 4, "35");
    app.settle();
    CHECK(places.contains("new tier: Brimholt B2/B2-0117|2"));
    CHECK(places.contains("B2-0117, ISO 566-1124|1"));
    CHECK(places.contains("Brimholt B2|1;"));
    CHECK(sum.contains("20,35"));
    const Pin& pin = app.session().baselines().draft().tiers[0].pins.at(Field::luminance_noise);
    REQUIRE(pin.knots.size() == 2);
    CHECK(pin.at(Field::luminance_noise, 800).number == 35);
    CHECK(AppFixture::text(baselines.matrix(), 0, 4) == "35 m");
    // By itself the narrowest tier is offered: the body's.
    on_dialog([](QDialog& d) {
        await_counts(d);
        ok_of(d).click();
    });
    app.type_into(baselines.matrix(), 0, 4, "11");
    app.settle();
    CHECK(AppFixture::text(baselines.matrix(), 0, 4) == "11 b");
    CHECK(AppFixture::text(baselines.matrix(), 1, 4) == "35 m");
    app.type_into(baselines.matrix(), 0, 4, "999");
    CHECK(app.window().message().contains("out of range"));
}

TEST_CASE("the matrix shows differences to a revision and between bodies, third stops, and a filter",
          "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004", "SP0007"});
    Tier studio = draft_tier("s");
    studio.pins[Field::exposure] = Pin::constant({0.5, ""});
    app.session().baselines().edit("test", with({studio}));
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    baselines.choose_field(Field::exposure);
    baselines.publish("one");
    Revision next = app.session().baselines().draft();
    Tier body = draft_tier("b", Scope::body, "Brimholt B2/B2-0231");
    body.pins[Field::exposure] = Pin::constant({1, ""});
    next.tiers.push_back(body);
    app.session().baselines().edit("test", next);
    app.settle();
    auto& show = app.find<QComboBox>("What the cells show");
    show.setCurrentIndex(1);
    CHECK(AppFixture::text(baselines.matrix(), 0, 1) == "=");
    CHECK(AppFixture::text(baselines.matrix(), 1, 1) == "0.50→1");
    show.setCurrentIndex(2);
    auto& which = app.find<QComboBox>("Compared with");
    which.setCurrentIndex(1);
    CHECK(AppFixture::text(baselines.matrix(), 0, 1) == "1→0.50");
    show.setCurrentIndex(0);
    const auto columns = baselines.matrix().rows_model().columns().size();
    QTest::mouseClick(&app.find<QCheckBox>("Third stops"), Qt::LeftButton, {}, {10, 10});
    CHECK(baselines.matrix().rows_model().columns().size() > 2 * columns);
    QTest::keyClicks(&app.find<QLineEdit>("Filter bodies"), "tarnwick");
    CHECK(baselines.matrix().row_count() == 2);  // the body, and some Tarnwick T7
}

TEST_CASE("a ramp is dragged, gets a knot by a double click, and is edited as figures and by keys",
          "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    Tier model = draft_tier("m", Scope::model, "Brimholt B2");
    model.pins[Field::luminance_noise] = pin_from_text(Field::luminance_noise, "100: 0, 800: 20, 3200: 40");
    app.session().baselines().edit("test", with({model}));
    app.settle();
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    baselines.choose_field(Field::luminance_noise);
    app.click_cell(baselines.tiers(), 0, 0);
    RampEditor& ramp = baselines.ramp().editor();
    REQUIRE(ramp.knots().size() == 3);
    const auto knot = [&](int i) {
        return app.session().baselines().draft().tiers[0].pins.at(Field::luminance_noise).knots.at(i);
    };
    const auto drag = [&](QPointF from, QPointF to) { app.drag(ramp, from, to); };
    drag(ramp.place_of(800, 20), ramp.place_of(1600, 30));
    CHECK(knot(1).first == 1600);
    CHECK(knot(1).second.number == Approx(30).margin(1));
    app.press(Qt::Key_Z, Qt::ControlModifier);
    CHECK(knot(1).first == 800);
    QTest::mouseDClick(&ramp, Qt::LeftButton, {}, ramp.place_of(400, 10));
    CHECK(app.session().baselines().draft().tiers[0].pins.at(Field::luminance_noise).knots.size() == 4);
    CHECK(knot(1).first == 400);
    ramp.setFocus();
    QTest::mouseClick(&ramp, Qt::LeftButton, {}, ramp.place_of(400, knot(1).second.number));
    QTest::keyClick(&ramp, Qt::Key_Up);
    QTest::keyClick(&ramp, Qt::Key_Delete);
    CHECK(app.session().baselines().draft().tiers[0].pins.at(Field::luminance_noise).knots.size() == 3);
    Table& figures = baselines.ramp().knots();
    app.type_into(figures, 1, 1, "25");
    CHECK(knot(1).second.number == 25);
    app.type_into(figures, 3, 0, "6400");
    CHECK(knot(3).first == 6400);
    app.type_into(figures, 3, 0, "800");
    CHECK(app.window().message().contains("a knot at that ISO"));
    CHECK(knot(3).first == 6400);
}

TEST_CASE("lint is live, leads to the tier, and mends", "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    Tier model = draft_tier("m", Scope::model, "Brimholt B2");
    model.pins[Field::contrast] = Pin::constant({10, ""});
    app.session().baselines().edit("test", with({model}));
    app.settle();
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    baselines.show_view("lint");
    QApplication::processEvents();
    Table& findings = baselines.lint_panel().table();
    REQUIRE(findings.row_count() == 1);
    CHECK(AppFixture::text(findings, 0, 0).contains("look field"));
    app.click_cell(findings, 0, 0);
    app.settle();  // what the remedy would change is counted off the window's thread
    CHECK(baselines.view().tier()->id == "m");
    CHECK(baselines.view().field() == Field::contrast);
    app.click("Mend");
    app.settle();
    CHECK(app.session().baselines().draft().tiers[0].pins.empty());
    CHECK(findings.row_count() == 0);
    app.click("Undo");
    app.settle();
    CHECK(findings.row_count() == 1);
}

TEST_CASE("a deleted tier is restored, pins are copied to other bodies with the difference first", "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004"});
    Tier body = draft_tier("b", Scope::body, "Brimholt B2/B2-0117");
    body.pins[Field::exposure] = Pin::constant({1, ""});
    app.session().baselines().edit("test", with({body}));
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    baselines.publish("one");
    app.settle();
    app.click_cell(baselines.tiers(), 0, 0);
    app.click("Delete tier");
    app.settle();
    CHECK(app.session().baselines().draft().tiers.empty());
    CHECK(AppFixture::text(baselines.tiers(), 0, 0).startsWith("✕"));
    app.click_cell(baselines.tiers(), 0, 0);
    app.click("Restore");
    app.settle();
    REQUIRE(app.session().baselines().draft().tiers.size() == 1);
    app.click_cell(baselines.tiers(), 0, 0);
    on_dialog([](QDialog& d) {
        CHECK_FALSE(ok_of(d).isEnabled());
        child<QListWidget>(d, "Bodies to copy to").item(0)->setCheckState(Qt::Checked);
        CHECK(child<Table>(d, "Difference").as_csv().contains("1.00 EV"));
        ok_of(d).click();
    });
    app.click("Copy to…");
    app.settle();
    REQUIRE(app.session().baselines().draft().tiers.size() == 2);
    CHECK(app.session().baselines().draft().tiers[1].target == "Brimholt B2/B2-0231");
}

TEST_CASE("revisions are compared, and an earlier one is returned to as a new one", "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    for (const double ev : {0.5, 1.0}) {
        Tier studio = draft_tier("s");
        studio.pins[Field::exposure] = Pin::constant({ev, ""});
        app.session().baselines().edit("test", with({studio}));
        baselines.publish("exposure");
    }
    app.settle();
    baselines.show_view("revisions");
    QApplication::processEvents();
    RevisionsPanel& revisions = baselines.revisions();
    CHECK(revisions.list().row_count() == 2);
    app.click_cell(revisions.list(), 1, 3);
    CHECK(AppFixture::text(revisions.changes(), 0, 2) == "1.00 EV");
    app.click_and_go_on("Return to it…", [](QDialog& d) { QTest::keyClicks(d.findChild<QLineEdit*>(), "too bright"); });
    CHECK(app.session().baselines().current().number == 3);
    CHECK(app.session().baselines().current().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
}

TEST_CASE("a set is made from a frame by choosing fields, used by a tier, renamed, and put on top",
          "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    Sheet sheet;
    sheet.hand[Field::exposure] = {0.75, ""};
    sheet.hand[Field::tint] = {4, ""};
    app.session().sheets().write({{app.session().frames().all()[0].path, sheet}});
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    app.settle();
    on_dialog([](QDialog& d) {
        child<QComboBox>(d, "Name of the set").setCurrentText("Fronds");
        auto& fields = child<QTableWidget>(d, "Fields to take");
        CHECK(fields.item(0, 0)->checkState() == Qt::Unchecked);
        CHECK_FALSE(ok_of(d).isEnabled());
        for (int r = 0; r < 2; ++r)
            if (fields.item(r, 0)->text() == "Exposure") fields.item(r, 0)->setCheckState(Qt::Checked);
        ok_of(d).click();
    });
    app.click("Make a set…");
    REQUIRE(app.session().baselines().draft().sets.size() == 1);
    CHECK(app.session().baselines().draft().sets[0].pins.size() == 1);

    app.session().baselines().edit("test", [&] {
        Revision r = app.session().baselines().draft();
        r.tiers.push_back(draft_tier("s"));
        return r;
    }());
    app.settle();
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    app.click_cell(baselines.tiers(), 0, 0);
    app.type_into(baselines.pins(), 0, 1, "Fronds");
    CHECK(app.session().baselines().draft().tiers[0].sets == std::vector<std::string>{"Fronds"});
    baselines.choose_field(Field::exposure);
    CHECK(AppFixture::text(baselines.matrix(), 0, 1) == "0.75 s°");
    app.type_into(baselines.pins(), 0, 1, "Nothing like it");
    CHECK(app.window().message().contains("Nothing like it"));
    baselines.show_view("sets");
    QApplication::processEvents();
    Table& set_pins = baselines.set_panel().pins();
    auto* pinned_only = baselines.set_panel().findChild<QCheckBox*>();
    REQUIRE(pinned_only);
    for (const bool only : {true, false}) {
        QTest::mouseClick(pinned_only, Qt::LeftButton, {}, QPoint(8, pinned_only->height() / 2));
        int shown = 0;
        for (int row = 0; row < set_pins.row_count(); ++row) shown += !set_pins.isRowHidden(row);
        CHECK(shown == (only ? 1 : set_pins.row_count()));
    }
    app.type_into(baselines.set_panel().sets(), 0, 0, "Leaves");
    CHECK(app.session().baselines().draft().tiers[0].sets == std::vector<std::string>{"Leaves"});
    app.type_into(baselines.set_panel().sets(), 0, 1, "Leaves");
    CHECK(app.window().message().contains("comes round to itself"));
    app.click("Delete set");
    CHECK(app.window().message().contains("is used by"));

    app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 1, 0);
    on_dialog([](QDialog& d) { QTest::keyClick(&d, Qt::Key_Return); });
    app.click("Set on top…");
    app.settle();
    const fs::path second = app.session().frames().all()[1].path;
    CHECK(read_sheet(second).set.at(Field::exposure).number == 0.75);
    app.click_cell(inspect.sheet(), AppFixture::row_of(inspect.sheet(), "Exposure"), 0);
    Table& trace = app.find<Table>("Trace of the frame");
    CHECK(AppFixture::text(trace, trace.row_count() - 1, 0) == "set on top");
    CHECK(AppFixture::text(trace, trace.row_count() - 1, 2).contains("won"));
    app.click("Drop field");
    CHECK(read_sheet(second).set.empty());
}

TEST_CASE("two windows edit one draft at once: both edits stand, a clash is told, and undo takes back only one's own",
          "[app][baselines][threads]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004"});
    Tier studio = draft_tier("s");
    studio.pins[Field::exposure] = Pin::constant({0.5, ""});
    app.session().baselines().edit("test", with({studio}));
    Session other(app.address());
    QStringList told;
    QObject::connect(&other.messages(), &Messages::told, [&](const QString& message, bool) { told << message; });
    const auto pinned = [](Session& session, const char* id, Field field, double value) {
        Revision r = session.baselines().draft();
        if (!r.tier(id)) r.tiers.push_back(draft_tier(id, Scope::model, id));
        r.tier(id)->pins[field] = Pin::constant({value, ""});
        session.baselines().edit("pin", r);
    };
    pinned(app.session(), "s", Field::tint, 3);
    pinned(other, "Brimholt B2", Field::exposure, 1);
    CHECK(other.baselines().draft().tiers.size() == 2);
    CHECK(other.baselines().draft().tier("s")->pins.size() == 2);
    CHECK(told.isEmpty());
    pinned(app.session(), "s", Field::exposure, 2);
    pinned(other, "s", Field::exposure, 3);
    REQUIRE(told.size() == 1);
    CHECK(told[0].contains("another station"));
    CHECK(app.store().baselines().draft().tier("s")->pins.at(Field::exposure).knots[0].second.number == 2);
    app.session().look_for_changes();
    app.settle();
    CHECK(app.session().baselines().draft().tiers.size() == 2);
    app.session().undo().undo();
    CHECK(app.store().baselines().draft().tier("s")->pins.at(Field::exposure).knots[0].second.number == 0.5);
    CHECK(app.store().baselines().draft().tiers.size() == 2);
}

TEST_CASE("a revision that another station published is noticed, also when the draft was edited since",
          "[app][baselines]") {
    AppFixture app;
    Tier studio = draft_tier("s");
    studio.pins[Field::exposure] = Pin::constant({0.5, ""});
    app.session().baselines().edit("test", with({studio}));
    app.store().baselines().publish("Ora", "from the next room");
    Revision mine = app.session().baselines().draft();
    mine.tier("s")->pins[Field::tint] = Pin::constant({3, ""});
    app.session().baselines().edit("pin", mine);
    CHECK(app.session().baselines().current().number == 0);
    app.session().look_for_changes();
    CHECK(app.session().baselines().current().number == 1);
    CHECK(app.session().baselines().pending_changes() == 1);
}

TEST_CASE("what is typed for a pin is looked up as on the command line, and slips change nothing", "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    app.session().baselines().edit("test", with({draft_tier("s")}));
    app.settle();
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    app.click_cell(baselines.tiers(), 0, 0);
    const int profile = AppFixture::row_of(baselines.pins(), "Lens profile");
    app.type_into(baselines.pins(), profile, 1, "Lumenfold 85mm");
    CHECK(app.session().baselines().draft().tiers[0].pins.empty());
    CHECK(app.window().message().contains("Lumenfold 85mm"));
    const int exposure = AppFixture::row_of(baselines.pins(), "Exposure");
    app.type_into(baselines.pins(), exposure, 1, "0.5 EV");
    CHECK(app.session().baselines().draft().tiers[0].pins.count(Field::exposure) == 1);
    const int edits = app.session().undo().count();
    app.type_into(baselines.pins(), profile, 1, "inherits");  // it does already: nothing to undo
    CHECK(app.session().undo().count() == edits);
    app.type_into(baselines.pins(), exposure, 1, "inherits");
    CHECK(app.session().baselines().draft().tiers[0].pins.empty());
}

TEST_CASE("a part of the session says when it changed, and the others take their share", "[app][session]") {
    AppFixture app;
    Session& session = app.session();
    int frames = 0, knowledge = 0, registered = 0, profiles = 0;
    QObject::connect(&session.frames(), &FrameModel::changed, [&] { ++frames; });
    QObject::connect(&session.frames(), &FrameModel::knowledge_changed, [&] { ++knowledge; });
    QObject::connect(&session.entries(), &RegisterModel::changed, [&] { ++registered; });
    QObject::connect(&session.profiles(), &ProfileModel::changed, [&] { ++profiles; });
    app.add_frames({"SP0001", "SP0002"});
    CHECK(frames >= 1);
    CHECK(registered >= 1);
    CHECK(session.frames().any());
    CHECK(session.frames().knowledge().facts.size() == 2);
    CHECK(session.frames().knowledge().frames_of_body.at(session.entries().bodies()[0].id) == 2);
    const int known = knowledge;
    const Profile p = sample_profile("");
    const Profile published = session.profiles().publish(p, OtherSettings::drop);
    app.settle();
    CHECK(profiles == 1);
    CHECK(knowledge > known);  // which lens in use has a profile is worked out anew
    CHECK(session.profiles().name(published.id) == "Lumenfold 35mm f/2.8");
    CHECK(session.profiles().name("p-none") == "p-none");
}

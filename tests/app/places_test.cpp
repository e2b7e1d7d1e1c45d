// SPDX-License-Identifier: GPL-3.0-or-later
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QInputDialog>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>

#include "app_fixture.h"
#include "attention/attention_place.h"
#include "base/files.h"
#include "baselines/baselines_place.h"
#include "dialogs.h"
#include "fleet/fleet_place.h"
#include "inspect/inspect_place.h"
#include "rollout/rollout_place.h"
#include "support/sample_profile.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A studio tier with one pin, published as revision 1.
void publish_one(AppFixture& app, double sharpening = 30) {
    Revision r;
    Tier t;
    t.id = t.name = "studio";
    t.pins[Field::sharpening_amount] = Pin::constant({sharpening, ""});
    r.tiers = {t};
    app.session().baselines().edit("test", r);
    app.at<BaselinesPlace>(theme::Place::baselines).publish("test");
    REQUIRE(app.session().baselines().current().number >= 1);
}

}  // namespace

TEST_CASE("names are edited in place and undone", "[app][fleet]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004", "SP0007"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    CHECK(fleet.bodies().rows_model().rows().size() == 3);
    app.type_into(fleet.bodies(), 0, 0, "Stand 1");
    CHECK(app.session().entries().bodies()[0].name == "Stand 1");
    app.type_into(fleet.bodies(), 0, 1, "HB-014");
    CHECK(app.store().registry().bodies()[0].asset_tag == "HB-014");
    app.click("Undo");
    CHECK(app.session().entries().bodies()[0].asset_tag.empty());
    app.press(Qt::Key_Z, Qt::ControlModifier);
    CHECK(app.session().entries().bodies()[0].name.empty());
    app.click("Redo");
    CHECK(app.session().entries().bodies()[0].name == "Stand 1");
    fleet.show_view("lenses");
    QApplication::processEvents();
    auto& lenses = app.find<Table>("Lenses");
    app.type_into(lenses, 0, 0, "the sharp one");
    CHECK(app.session().entries().lenses()[0].name == "the sharp one");
    CHECK(AppFixture::text(lenses, 0, 4) == "none");
}

TEST_CASE("a tier is added by its dialog, pinned by typing, and seen in matrix and trace", "[app][baselines][x]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004", "SP0007"});
    auto& baselines = app.at<BaselinesPlace>(theme::Place::baselines);
    on_dialog([](QDialog& d) {
        QTest::keyClick(&child<QComboBox>(d, "Scope"), Qt::Key_Down);
        CHECK(child<QComboBox>(d, "Model or body").count() == 2);
        d.findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
    });
    app.click("Add tier…");
    REQUIRE(app.session().baselines().draft().tiers.size() == 1);
    CHECK(app.session().baselines().draft().tiers[0].scope == Scope::model);
    const int row = AppFixture::row_of(baselines.pins(), "Luminance NR");
    app.type_into(baselines.pins(), row, 1, "100: 0, 800: 20");
    CHECK(app.session().baselines().draft().tiers[0].pins.at(Field::luminance_noise).knots.size() == 2);
    baselines.choose_field(Field::luminance_noise);
    CHECK(AppFixture::text(baselines.matrix(), 0, 3) == "13.3 m");
    CHECK(AppFixture::text(baselines.matrix(), 0, 8) == "20 m");
    CHECK(AppFixture::text(baselines.matrix(), 2, 3) == "0");  // another model
    app.click_cell(baselines.matrix(), 0, 3);
    CHECK(AppFixture::text(baselines.trace(), 0, 0) == "start: neutral");
    CHECK(AppFixture::text(baselines.trace(), 1, 2).contains("won"));
    baselines.show_view("probe");
    QApplication::processEvents();
    auto& probe = app.find<Table>("Probe result");
    CHECK(AppFixture::text(probe, AppFixture::row_of(probe, "Luminance NR"), 1) == "13.3");

    app.type_into(baselines.pins(), row, 1, "999");
    CHECK(app.window().message().contains("out of range"));
    CHECK(app.session().baselines().draft().tiers[0].pins.at(Field::luminance_noise).knots.size() == 2);
    app.type_into(baselines.pins(), row, 1, "");
    CHECK(app.session().baselines().draft().tiers[0].pins.empty());
    app.press(Qt::Key_Z, Qt::ControlModifier);
    CHECK(app.session().baselines().draft().tiers[0].pins.size() == 1);

    app.click_and_go_on("Publish revision…",
                        [](QDialog& d) { QTest::keyClicks(d.findChild<QLineEdit*>(), "first try"); });
    CHECK(app.session().baselines().current().number == 1);
    CHECK(app.session().baselines().current().note == "first try");
    CHECK_FALSE(app.find<QAbstractButton>("Publish revision…").isEnabled());
    app.click("Delete tier");
    CHECK(app.session().baselines().draft().tiers.empty());
    CHECK(app.store().baselines().draft().tiers.empty());
    CHECK(app.session().baselines().current().tiers.size() == 1);
}

TEST_CASE("a tier dialog refuses a span that is none", "[app][baselines]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    app.at<BaselinesPlace>(theme::Place::baselines);
    on_dialog([&](QDialog& d) {
        QTest::keyClicks(&child<QLineEdit>(d, "ISO span"), "soon");
        d.findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
        CHECK(d.isVisible());
        CHECK(app.window().message().contains("is no span of"));
        auto& span = child<QLineEdit>(d, "ISO span");
        span.clear();
        QTest::keyClicks(&span, "1600-6400");
        d.findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
    });
    app.click("Add tier…");
    REQUIRE(app.session().baselines().draft().tiers.size() == 1);
    CHECK(app.session().baselines().draft().tiers[0].iso_span == std::pair(1600.0, 6400.0));
    on_dialog([](QDialog& d) {
        QTest::keyClicks(&child<QLineEdit>(d, "ISO span"), "1600-6400");
        d.findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
    });
    app.click("Add tier…");
    CHECK(app.session().baselines().draft().tiers.size() == 1);
    CHECK(app.window().message().contains("these very conditions"));
}

TEST_CASE("a rollout is rehearsed, written and taken back by clicks", "[app][rollout][x]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004", "SP0007"});
    publish_one(app);
    auto& rollout = app.at<RolloutPlace>(theme::Place::rollout);
    CHECK_FALSE(app.find<QAbstractButton>("Roll out").isEnabled());
    app.click("Rehearse");
    app.settle();
    REQUIRE(rollout.rehearsal());
    CHECK(AppFixture::text(app.find<Table>("Outcomes"), 0, 1) == "3");
    CHECK(AppFixture::text(app.find<Table>("By field"), 0, 1) == "inherits → 30");
    CHECK_FALSE(fs::exists(app.path("frames") / "SP0001.dng.optrel.xmp"));
    app.click("Roll out");
    app.settle();
    CHECK(fs::exists(app.path("frames") / "SP0001.dng.optrel.xmp"));
    CHECK(app.window().message().contains("3 sidecars written"));
    auto& history = app.find<Table>("History");
    REQUIRE(history.rows_model().rows().size() == 1);
    const std::string written = app.store().rollouts().list().front().time;
    CHECK(history.rows_model().columns()[5].title == "When, local");
    CHECK(AppFixture::text(history, 0, 5) == local_time(written));
    app.click_cell(history, 0, 0);
    app.click("Roll back");
    app.settle();
    CHECK_FALSE(fs::exists(app.path("frames") / "SP0001.dng.optrel.xmp"));
    CHECK(AppFixture::text(history, 0, 6).contains("rolled back"));
    // And that is taken back.
    app.click_cell(history, 0, 0);
    app.click("Roll out again");
    app.settle();
    CHECK(fs::exists(app.path("frames") / "SP0001.dng.optrel.xmp"));
    CHECK(AppFixture::text(history, 0, 6).contains("done"));
}

TEST_CASE("a rollout is over frames that a dialog asks for, kept by a name, and taken back in part",
          "[app][rollout][x]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004", "SP0007"});
    publish_one(app);
    app.at<RolloutPlace>(theme::Place::rollout);
    const auto answer = [](QDialog& d) {
        for (auto* b : d.findChildren<QAbstractButton*>())
            if (b->text() == "&Take" || b->text() == "Roll &back") QTest::mouseClick(b, Qt::LeftButton);
    };
    // What no frame has is told, and the dialog stays.
    on_dialog([&](QDialog& d) {
        child<QLineEdit>(d, "Job").setText("nowhere");
        on_dialog([](QDialog& told) { told.reject(); });
        answer(d);
        CHECK(d.isVisible());
        child<QLineEdit>(d, "Job").setText("frames");
        for (auto* box : d.findChildren<QCheckBox*>())
            if (box->text() == "untouched") box->setChecked(true);
        child<QLineEdit>(d, "Keep as").setText("New ones");
        answer(d);
    });
    app.click("Scope…");
    CHECK(app.store().selections().all().count("New ones") == 1);
    CHECK(app.find<QComboBox>("Scope").currentText() == "selection New ones");
    app.click("Rehearse");
    app.settle();
    app.click("Roll out");
    app.settle();
    CHECK(app.store().rollouts().list().front().scope == "job frames; state untouched");
    auto& history = app.find<Table>("History");
    app.click_cell(history, 0, 0);
    app.click("Difference");
    app.settle();
    CHECK(AppFixture::text(app.find<Table>("By field"), 0, 1) == "inherits → 30");
    const auto iso = [&](const char* name) {
        return app.store().frames().find(app.path("frames") / (std::string(name) + ".dng"))->metadata.iso;
    };
    on_dialog([&](QDialog& d) {
        child<QSpinBox>(d, "ISO from").setValue(iso("SP0007"));
        child<QSpinBox>(d, "ISO to").setValue(iso("SP0007"));
        answer(d);
    });
    app.click_cell(history, 0, 0);
    app.click("Roll back part…");
    app.settle();
    for (const char* name : {"SP0001", "SP0004", "SP0007"})
        CHECK(fs::exists(app.path("frames") / (std::string(name) + ".dng.optrel.xmp")) == (iso(name) != iso("SP0007")));
    CHECK(app.store().rollouts().list().front().takes_back == 1);
}

TEST_CASE("hours that are none are told before anything is written", "[app][rollout]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    publish_one(app);
    app.at<RolloutPlace>(theme::Place::rollout);
    app.click("Rehearse");
    app.settle();
    app.find<QLineEdit>("Hours").setText("22-6");
    app.click("Roll out");
    app.settle();
    CHECK(app.store().rollouts().list().empty());
    CHECK(app.window().message().contains("22:00-06:00"));
}

TEST_CASE("publishing makes a rehearsal stale", "[app][rollout]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    publish_one(app);
    auto& rollout = app.at<RolloutPlace>(theme::Place::rollout);
    app.click("Rehearse");
    app.settle();
    REQUIRE(rollout.rehearsal());
    publish_one(app, 60);
    CHECK_FALSE(rollout.rehearsal());
    app.at<RolloutPlace>(theme::Place::rollout);
    CHECK_FALSE(app.find<QAbstractButton>("Roll out").isEnabled());
}

TEST_CASE("a frame is seen before and after, at any scale, by a dragged split", "[app][inspect][x]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    publish_one(app);
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 1, 0);
    app.settle();
    CompareView& view = inspect.view();
    CHECK(view.mode() == CompareView::Mode::split);
    const int y = view.height() / 2;
    app.drag(view, QPointF(view.split_x(), y), QPointF(view.width() / 4, y));
    CHECK(view.split() == Approx(0.25).margin(0.02));
    for (const auto& [name, zoom] : {std::pair("100 %", 1.0), {"200 %", 2.0}, {"400 %", 4.0}, {"Fit", 0.0}}) {
        app.click(name);
        CHECK(view.zoom() == zoom);
        CHECK_FALSE(view.grab().isNull());
    }
    app.click("Before");
    CHECK(view.mode() == CompareView::Mode::before);
    const QImage before = view.grab().toImage();
    view.setFocus();
    QTest::keyClick(&view, Qt::Key_Space);
    CHECK(view.mode() == CompareView::Mode::after);
    CHECK(view.grab().toImage() != before);
    const QImage without_grid = view.grab().toImage();
    app.find<QSpinBox>("Grid").setValue(200);
    CHECK(view.grab().toImage() != without_grid);
}

TEST_CASE("a field set by hand is kept by the next rehearsal", "[app][inspect]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    publish_one(app);
    app.at<RolloutPlace>(theme::Place::rollout).rehearse_now();
    app.settle();
    static_cast<RolloutPlace*>(app.window().place(theme::Place::rollout))->roll_out_now();
    app.settle();
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    app.settle();
    const auto row = [&] { return AppFixture::row_of(inspect.sheet(), "Exposure"); };
    app.type_into(inspect.sheet(), row(), 4, "0.5");
    app.settle();
    const fs::path frame = app.path("frames") / "SP0001.dng";
    CHECK(read_sheet(frame).hand.at(Field::exposure).number == 0.5);
    CHECK(AppFixture::text(inspect.frames(), 0, 2).contains("hand-set"));
    CHECK(AppFixture::text(inspect.sheet(), row(), 5) == "0.50 EV");
    publish_one(app, 55);
    auto& rollout = app.at<RolloutPlace>(theme::Place::rollout);
    app.click("Rehearse");
    app.settle();
    CHECK(rollout.rehearsal()->by_outcome().at(Outcome::kept_hand_set) == 1);

    app.at<InspectPlace>(theme::Place::inspect);
    app.click("Back to baseline");
    CHECK(read_sheet(frame).hand.empty());
    CHECK(read_sheet(frame).revision == 1);
    app.click("Bare");
    CHECK(read_sheet(frame).exempt);
    CHECK(AppFixture::text(inspect.frames(), 0, 2).contains("exempt"));
    app.type_into(inspect.sheet(), row(), 4, "1");
    CHECK(app.window().message().contains("exempt"));
    app.click("Undo");
    app.click("Undo");
    CHECK(read_sheet(frame).hand.at(Field::exposure).number == 0.5);
}

TEST_CASE("a frame that is damaged is told where its picture would be", "[app][inspect]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    write_bytes(app.path("frames") / "SP0001.dng", read_file(rig_frame("SP0001")).substr(0, 3000));
    write_bytes(app.path("frames") / "SP0002.dng.optrel.xmp", "not ours");
    app.session().sheets().read_again();
    app.settle();
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    app.settle();
    CHECK_FALSE(inspect.developing());
    CHECK(AppFixture::text(inspect.frames(), 1, 2).contains("unreadable"));
    app.at<AttentionPlace>(theme::Place::attention);
    auto& attention = app.find<Table>("What needs attention");
    CHECK(AppFixture::row_of(attention, "! Sidecars that cannot be read") >= 0);
}

TEST_CASE("attention lists what needs a person and leads there", "[app][attention]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0007"});
    publish_one(app);
    app.at<AttentionPlace>(theme::Place::attention);
    auto& list = app.find<Table>("What needs attention");
    const int profile = AppFixture::row_of(list, "! No profile fits Lumenfold 35mm f/2.8");
    REQUIRE(profile >= 0);
    CHECK(AppFixture::text(list, profile, 1) == "2");
    // What takes long to find out fills the list again, and moves its rows.
    app.settle();
    const int behind = AppFixture::row_of(list, "· Frames behind revision 1");
    REQUIRE(behind >= 0);
    // The command line lists the same in the same order.
    Progress progress;
    const std::vector<AttentionItem> items = attention(app.store(), progress);
    REQUIRE(list.row_count() == static_cast<int>(items.size()));
    for (int row = 0; row < list.row_count(); ++row) {
        const AttentionItem& item = items[static_cast<std::size_t>(row)];
        CHECK(AppFixture::text(list, row, 0) == (item.serious ? "! " : "· ") + q(item.what));
        CHECK(AppFixture::text(list, row, 2) == q(item.why));
    }
    app.click_cell(list, behind, 0);
    app.click("Settle");
    CHECK(app.window().place(theme::Place::rollout)->isVisible());
    app.at<AttentionPlace>(theme::Place::attention);
    app.click_cell(list, profile, 0);
    app.click("Settle");
    CHECK(app.window().place(theme::Place::bench)->isVisible());
}

TEST_CASE("attention gathers what the fleet and the published revision leave open", "[app][attention]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0007"}, false);
    app.at<AttentionPlace>(theme::Place::attention);
    app.settle();
    auto& list = app.find<Table>("What needs attention");
    const int bodies = AppFixture::row_of(list, "! 2 bodies are unclaimed");
    REQUIRE(bodies >= 0);
    CHECK(AppFixture::text(list, bodies, 1) == "2");
    app.click_cell(list, bodies, 0);
    app.click("Settle");
    CHECK(app.find<Table>("Identities").isVisible());
    app.click("Accept all proposals");
    app.settle();
    Revision r;
    Tier t;
    t.id = t.name = "studio";
    t.pins[Field::contrast] = Pin::constant({10, ""});
    r.tiers = {t};
    app.session().baselines().edit("test", r);
    static_cast<BaselinesPlace*>(app.window().place(theme::Place::baselines))->publish("look");
    app.settle();
    app.at<AttentionPlace>(theme::Place::attention);
    CHECK(AppFixture::row_of(list, "! 2 bodies are unclaimed") < 0);
    CHECK(AppFixture::row_of(list, "· Revision 1: look field pinned") >= 0);
    CHECK(AppFixture::row_of(list, "· Revision 1: body without tier (2 times)") >= 0);
    CHECK(AppFixture::row_of(list, "· Frames behind revision 1") >= 0);
    const int lint = AppFixture::row_of(list, "· Revision 1: look field pinned");
    app.click_cell(list, lint, 0);
    app.click("Settle");
    CHECK(app.find<Table>("Lint").isVisible());
}

TEST_CASE("a profile from a file is looked at and taken in, once", "[app][lenses]") {
    AppFixture app;
    const Profile p = sample_profile();
    const QString path = QString::fromStdString(app.path("lens.optrel.json").string());
    write_bytes(path.toStdString(), profile_to_json(p));
    on_dialog([](QDialog& dialog) {
        CHECK(child<Table>(dialog, "Figures of the profile").row_count() > 3);
        dialog.findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
    });
    app.window().open_profile(path);
    app.settle();
    REQUIRE(app.session().profiles().current().size() == 1);
    CHECK(app.find<Table>("Profiles").row_count() == 1);
    on_dialog([](QDialog& dialog) {
        auto* buttons = dialog.findChild<QDialogButtonBox*>();
        CHECK_FALSE(buttons->button(QDialogButtonBox::Ok)->isEnabled());
        buttons->button(QDialogButtonBox::Cancel)->click();
    });
    app.window().open_profile(path);
    CHECK(app.session().profiles().versions().size() == 1);
    write_bytes(path.toStdString(), "{}");
    app.window().open_profile(path);  // no dialog: a sentence in the footer
    CHECK(app.window().message().contains("lens.optrel.json"));
}

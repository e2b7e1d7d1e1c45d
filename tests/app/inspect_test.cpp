// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/inspect_place.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QWheelEvent>

#include "app_fixture.h"
#include "baselines/fringe_hues.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Inspect with a first frame chosen and shown.
InspectPlace& inspect_of(AppFixture& app, std::initializer_list<const char*> names) {
    app.add_frames(names);
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    app.settle();
    return inspect;
}

/// What rests is written a moment later.
void rest(AppFixture& app) {
    QTest::qWait(450);
    app.settle();
}

void turn_wheel(CompareView& view, QPointF at, int eighths) {
    QWheelEvent event(at, view.mapToGlobal(at), {}, {0, eighths}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&view, &event);
}

}  // namespace

TEST_CASE("a landscape frame at fit has 800 px of a window of 1280 by 800", "[app][inspect][x]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    CHECK(inspect.view().picture_rect().width() >= 800);
    CHECK(inspect.view().picture_rect().height() > 500);
}

TEST_CASE("the wheel zooms to the pointer and a double click to 100 percent and back", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    CompareView& view = inspect.view();
    const QPointF at(view.width() * 0.3, view.height() * 0.4);
    const QPointF place = view.to_picture(at);
    for (int i = 0; i < 6; ++i) turn_wheel(view, at, 120);
    CHECK(view.zoom() > 1);
    CHECK((view.to_picture(at) - place).manhattanLength() < 3);
    CHECK(view.visible().width() < 1200);
    app.settle();
    CHECK_FALSE(view.grab().isNull());
    for (int i = 0; i < 40; ++i) turn_wheel(view, at, 120);
    CHECK(view.zoom() == 16);
    for (int i = 0; i < 40; ++i) turn_wheel(view, at, -120);
    CHECK(view.zoom() == 0);
    QTest::mouseDClick(&view, Qt::LeftButton, {}, at.toPoint());
    CHECK(view.zoom() == 1);
    QTest::mouseDClick(&view, Qt::LeftButton, {}, at.toPoint());
    CHECK(view.zoom() == 0);
}

TEST_CASE("before and after can be compared in six ways", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    inspect.hand().number(Field::roll).setValue(3);
    rest(app);
    std::vector<QImage> seen;
    for (const char* mode : {"Before", "After", "Split", "Split level", "Beside", "Difference"}) {
        app.click(mode);
        app.settle();
        const QImage now = inspect.view().grab().toImage();
        for (const QImage& other : seen) CHECK(now != other);
        seen.push_back(now);
    }
}

TEST_CASE("words narrow the list of frames", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001", "SP0002", "SP0007"});
    FramesPanel& list = inspect.list();
    const auto rows = [&](const QString& words) {
        list.words().setText(words);
        QApplication::processEvents();
        app.settle();
        return list.table().row_count();
    };
    CHECK(rows("") == 3);
    CHECK(rows("sp0007") == 1);
    CHECK(rows("sp000 untouched") == 3);
    CHECK(rows("no such word") == 0);
    CHECK(rows("") == 3);
    CHECK(rows("lumenfold") >= 1);
    // The chosen frame stays chosen where it is still in the list.
    rows("");
    app.click_cell(list.table(), 2, 0);
    const QString name = AppFixture::text(list.table(), 2, 0);
    CHECK(rows(name.left(6)) == 1);
    REQUIRE(list.chosen());
    CHECK(QString::fromStdString(list.chosen()->path.filename().string()) == name);
}

TEST_CASE("a value turned by hand is seen, written when it rests, undone and dropped", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    inspect.show_view("hand");
    const fs::path frame = app.path("frames") / "SP0001.dng";
    const QImage level = inspect.view().grab().toImage();
    QDoubleSpinBox& roll = inspect.hand().number(Field::roll);
    roll.setFocus();
    roll.selectAll();
    QTest::keyClicks(&roll, "2.5");
    QTest::keyClick(&roll, Qt::Key_Return);
    rest(app);
    CHECK(read_sheet(frame).hand.at(Field::roll).number == 2.5);
    CHECK(inspect.view().grab().toImage() != level);
    CHECK(inspect.hand().back(Field::roll).isEnabled());
    app.click("Undo");
    app.settle();
    CHECK(read_sheet(frame).hand.count(Field::roll) == 0);
    CHECK(roll.value() == 0);
    app.click("Redo");
    app.settle();
    CHECK(roll.value() == 2.5);
    QTest::keyClick(&roll, Qt::Key_Backspace, Qt::ControlModifier);
    app.settle();
    CHECK(read_sheet(frame).hand.count(Field::roll) == 0);
    CHECK(roll.value() == 0);
    // One that does not rest yet is dropped as well.
    roll.setValue(4);
    QTest::keyClick(&roll, Qt::Key_Backspace, Qt::ControlModifier);
    rest(app);
    CHECK(read_sheet(frame).hand.count(Field::roll) == 0);
    CHECK(roll.value() == 0);
}

TEST_CASE("a value that cannot be written is told, and the window shows what holds", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    inspect.show_view("hand");
    const fs::path frame = app.path("frames") / "SP0001.dng";
    fs::remove(frame);
    QDoubleSpinBox& roll = inspect.hand().number(Field::roll);
    roll.setFocus();
    roll.selectAll();
    QTest::keyClicks(&roll, "2.5");
    QTest::keyClick(&roll, Qt::Key_Return);
    rest(app);
    INFO(app.window().message().toStdString());
    CHECK(app.window().message().contains("SP0001"));
    CHECK(is_one_sentence(app.window().message().toStdString()));
    CHECK_FALSE(fs::exists(sidecar_path(frame)));
    CHECK(roll.value() == 0);
}

TEST_CASE("a value that does not rest yet belongs to the frame for which it was turned", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001", "SP0002"});
    inspect.show_view("hand");
    inspect.hand().number(Field::roll).setValue(3);
    app.click_cell(inspect.frames(), 1, 0);  // before it rests
    rest(app);
    CHECK(read_sheet(app.path("frames") / "SP0001.dng").hand.at(Field::roll).number == 3);
    CHECK(read_sheet(app.path("frames") / "SP0002.dng").hand.empty());
    CHECK(inspect.hand().number(Field::roll).value() == 0);
    // Dropping it is for that frame, too, whatever else is chosen.
    inspect.hand().number(Field::roll).setValue(2);
    rest(app);
    inspect.frames().selectAll();
    emit inspect.hand().returned(Field::roll);
    app.settle();
    CHECK(read_sheet(app.path("frames") / "SP0001.dng").hand.at(Field::roll).number == 3);
    CHECK(read_sheet(app.path("frames") / "SP0002.dng").hand.empty());
}

TEST_CASE("leaving an editor sets nothing by hand", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    inspect.show_view("hand");
    emit inspect.hand().choice(Field::crop).lineEdit()->editingFinished();
    QComboBox& border = inspect.hand().choice(Field::border);
    emit border.activated(border.currentIndex());
    rest(app);
    CHECK(read_sheet(app.path("frames") / "SP0001.dng").hand.empty());
}

TEST_CASE("words that leave another frame in the same row show that frame", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001", "SP0002"});
    const auto shows = [&](const QString& name) {
        for (QLabel* label : inspect.findChildren<QLabel*>())
            if (label->text().startsWith(name + ".dng")) return true;
        return false;
    };
    for (const char* name : {"SP0001", "SP0002", "SP0001"}) {
        inspect.list().words().setText(name);
        app.settle();
        REQUIRE(inspect.list().chosen());
        CHECK(inspect.list().chosen()->path.stem() == name);
        CHECK(shows(name));
    }
    inspect.list().words().setText("no such frame");
    app.settle();
    CHECK(inspect.list().chosen() == nullptr);
    CHECK_FALSE(shows("SP0001"));
}

TEST_CASE("what was struck out stays so when other angles are solved", "[app][inspect]") {
    AppFixture app;
    app.add_frames({"CH0001"});
    const FrameRecord frame = app.session().frames().all()[0];
    StraightenTool tool(app.session().jobs());
    tool.set_angles(TurnAngles::roll);  // before there are lines
    tool.find(frame.path, frame.metadata, neutral_start(), std::nullopt, TurnAngles::roll_pitch);
    CHECK(tool.active());
    app.settle();
    REQUIRE(tool.result());
    CHECK(tool.result()->sigma.yaw_deg == 0);
    const int lines = tool.result()->lines_used;
    tool.toggle(0);
    tool.set_angles(TurnAngles::roll_pitch_yaw);
    CHECK(tool.shown()[0].struck);
    CHECK_FALSE(tool.wanted()[0]);
    CHECK(tool.result()->sigma.yaw_deg > 0);
    CHECK(tool.result()->lines_used > lines);
    tool.toggle(0);
    CHECK_FALSE(tool.shown()[0].struck);
    tool.forget();
    CHECK_FALSE(tool.active());
    CHECK(tool.shown().empty());
}

TEST_CASE("a crop is shown with what it keeps, and one of nothing is refused", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    inspect.show_view("hand");
    inspect.hand().number(Field::roll).setValue(4);
    QComboBox& crop = inspect.hand().choice(Field::crop);
    crop.setCurrentText("largest as frame");
    emit crop.activated(crop.currentIndex());
    rest(app);
    const auto says = [&](const QString& text) {
        for (QLabel* label : inspect.findChildren<QLabel*>())
            if (label->isVisible() && label->text().contains(text)) return true;
        return false;
    };
    CHECK(says("of the picture is lost"));
    crop.setEditText("at 10 10 0 50");
    emit crop.lineEdit()->editingFinished();
    rest(app);
    CHECK(app.window().message().contains("keeps nothing"));
    CHECK(read_sheet(app.path("frames") / "SP0001.dng").hand.at(Field::crop).text == "largest as frame");
}

TEST_CASE("nine loupes show before and after with figures, and can be moved", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001"});
    app.click("Loupes");
    app.settle();
    LoupeRing& ring = inspect.loupes();
    CHECK(ring.isVisible());
    CHECK_FALSE(ring.verdict().isEmpty());
    CHECK(ring.verdict() != "Looking …");
    int measured = 0;
    for (int i = 0; i < LoupeRing::count; ++i)
        measured += ring.figures(i).contains("edge") && ring.figures(i).contains("px");
    CHECK(measured >= 3);
    const std::vector<QRectF> before = ring.patches();
    const QPoint from = ring.cell(0).center().toPoint() - QPoint(60, 20);
    app.drag(ring, from, from - QPoint(20, 10));
    app.settle();
    CHECK(ring.patches()[0].left() == Approx(before[0].left() + 10).margin(1));
    CHECK(ring.patches()[1] == before[1]);
    CHECK_FALSE(ring.grab().isNull());
    app.click("Loupes");
    CHECK(inspect.view().isVisible());
}

TEST_CASE("lines of the scene propose how the camera was held, and one can be struck out", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"CH0001"});
    inspect.show_view("hand");
    app.settle();
    app.click("Find lines");
    app.settle();
    const auto proposal = [&] {
        for (QLabel* label : inspect.findChildren<QLabel*>())
            if (label->text().contains("lines") && label->text().contains("±")) return label->text();
        return QString();
    };
    const QString first = proposal();
    REQUIRE_FALSE(first.isEmpty());
    app.click("Take");
    app.settle();
    const Sheet sheet = read_sheet(app.path("frames") / "CH0001.dng");
    CHECK(sheet.hand.count(Field::roll) == 1);
    CHECK(sheet.hand.count(Field::pitch) == 1);
}

TEST_CASE("the frame's own content proposes values, which are taken only when asked for", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = inspect_of(app, {"SP0001", "CH0001"});
    const fs::path chart = app.path("frames") / "CH0001.dng", specimen = app.path("frames") / "SP0001.dng";
    inspect.show_view("hand");
    inspect.choose_frame(QString::fromStdString(specimen.string()));
    app.settle();
    const auto said = [&](const QString& part) {
        for (QLabel* label : inspect.hand().findChildren<QLabel*>())
            if (label->text().contains(part)) return label->text();
        return QString();
    };
    const auto press = [&](const QString& name) {
        for (QAbstractButton* b : inspect.hand().findChildren<QAbstractButton*>())
            if (known_as(*b) == name) return b->click();
        FAIL("No button " << name.toStdString());
    };
    press("Measure colours");
    app.settle();
    CHECK(said("px at the corner").contains("±"));
    CHECK(read_sheet(specimen).hand.empty());
    press("Take what measure colours proposes");
    app.settle();
    CHECK(read_sheet(specimen).hand.count(Field::red_at_corner) == 1);
    CHECK(said("px at the corner").isEmpty());
    press("List fringes");
    app.settle();
    QListWidget& fringes = inspect.hand().fringes();
    if (fringes.count() > 0) {
        CHECK(inspect.view().spots().empty());
        fringes.setCurrentRow(0);
        CHECK(inspect.view().spots().size() >= 3);  // where that hue is
        fringes.item(0)->setCheckState(Qt::Checked);
        app.settle();
        CHECK_FALSE(fringe_hues(read_sheet(specimen).hand.at(Field::fringe_hues).text).empty());
    }

    inspect.choose_frame(QString::fromStdString(chart.string()));
    app.settle();
    press("By the lines");
    app.settle();
    CHECK_FALSE(said("Find the lines first").isEmpty());
    press("Find lines");
    app.settle();
    press("By the lines");
    app.settle();
    CHECK(said("RMS) from straight").contains("Proposed"));
    press("Take what by the lines proposes");
    app.settle();
    // The rig's lens has 2.6 percent of barrel.
    CHECK(read_sheet(chart).hand.at(Field::hand_distortion).number == Approx(-2.6).margin(0.5));

    press("Even area");
    CompareView& view = inspect.view();
    app.drag(view, view.picture_rect().center(), view.picture_rect().topLeft() + QPointF(12, 12));
    app.settle();
    CHECK_FALSE((said("EV from height") + said("marked area")).isEmpty());
}

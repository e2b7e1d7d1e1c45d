// SPDX-License-Identifier: GPL-3.0-or-later
// What is done on the picture itself.
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QListWidget>
#include <QMessageBox>

#include "app_fixture.h"
#include "dialogs.h"
#include "frames/orientation.h"
#include "inspect/inspect_place.h"
#include "inspect/picture_places.h"
#include "studio/development/frame_development.h"
#include "studio/development/straightening.h"
#include "studio/exports/exporting.h"
#include "studio/profiles/profile_file.h"
#include "support/rig_run.h"
#include "widgets/curve_plot.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Inspect with one frame, and its sheet on disk.
struct Shown {
    AppFixture app;
    InspectPlace* place;
    fs::path frame;

    explicit Shown(const char* name) {
        app.add_frames({name});
        place = &app.at<InspectPlace>(theme::Place::inspect);
        app.click_cell(place->frames(), 0, 0);
        app.settle();
        place->show_view("hand");
        app.settle();
        frame = app.path("frames") / (std::string(name) + ".dng");
    }
    CompareView& view() const { return place->view(); }
    QString said(const QString& part) const {
        for (QLabel* label : place->findChildren<QLabel*>())
            if (label->isVisibleTo(place) && label->text().contains(part)) return label->text();
        return {};
    }
    /// What rests is written a moment later.
    void rest() {
        QTest::qWait(450);
        app.settle();
    }
    double by_hand(Field field) const {
        const Layer hand = read_sheet(frame).hand;
        return hand.count(field) ? hand.at(field).number : NAN;
    }
    /// Where a place of the frame, as it was taken, lies in the widget while nothing is corrected.
    QPointF bare(const Vec2& place) const { return view().to_widget({place.x(), place.y()}); }
};

}  // namespace

TEST_CASE("places of the frame and of the picture are the same, however it is held", "[app][inspect]") {
    FrameDevelopment r = bare_development(rig_frame("SP0001"));
    for (const char* text : {"hand_distortion=-2", "roll=3", "pitch=4", "shift_across=2"}) set_field(r, text);
    for (int orientation = 1; orientation <= 8; ++orientation) {
        Metadata& m = r.metadata;
        m.orientation = orientation;
        const Framing framing =
            framing_of(r.fields, std::nullopt, {m.width, m.height}, {geometry_of(m).pitch_um, m.focal_mm, orientation});
        const cv::Size held = size_as_held({m.width, m.height}, orientation);
        for (const QPointF& share : {QPointF(0.3, 0.2), QPointF(0.7, 0.4), QPointF(0.5, 0.8)}) {
            const QPointF place(share.x() * held.width, share.y() * held.height);
            const auto frame = place_in_frame(place, framing, m);
            REQUIRE(frame);
            CHECK(QRectF(0, 0, m.width, m.height).contains(frame->x(), frame->y()));
            const auto back = place_in_picture(*frame, framing, m);
            REQUIRE(back);
            CHECK((*back - place).manhattanLength() < 0.01);
        }
    }
}

TEST_CASE("a line that is bent straight on the picture sets the distortion", "[app][inspect]") {
    Shown s("CH0001");
    const FrameDevelopment bare = bare_development(s.frame);
    const FrameLines lines = find_lines(s.frame, bare.metadata, bare.fields, bare.profile, Progress());
    // The longest edge that lies far from the middle.
    const Vec2 middle(bare.metadata.width / 2.0, bare.metadata.height / 2.0);
    std::vector<Vec2> row;
    double best = 0;
    for (const Segment& line : lines.segments) {
        const Vec2 along = (line.to - line.from).normalized(), off = line.from - middle;
        const double beside = std::abs(along.x() * off.y() - along.y() * off.x());
        if (line.length() * beside <= best) continue;
        best = line.length() * beside;
        row = {line.points.front(), line.points[line.points.size() / 2], line.points.back()};
    }
    REQUIRE(row.size() == 3);
    s.app.click("Bend a line");
    s.app.drag(s.view(), s.bare(row[0]), s.bare(row[2]));
    REQUIRE(s.view().handles().size() == 3);
    CHECK(std::isnan(s.by_hand(Field::hand_distortion)));
    // One edge of a square is too short to say much; what is set is what makes this one straight.
    const Vec2 pushed = row[1] + 6 * (row[1] - middle).normalized();
    s.app.drag(s.view(), s.view().to_widget(s.view().handles()[1]), s.bare(pushed));
    s.rest();
    const double set = s.by_hand(Field::hand_distortion);
    CHECK(std::abs(set) > 1);
    // The handle in the middle lies on the line now.
    const std::vector<QPointF> h = s.view().handles();
    REQUIRE(h.size() == 3);
    const QPointF along = h[2] - h[0], off = h[1] - h[0];
    CHECK(std::abs(along.x() * off.y() - along.y() * off.x()) / std::hypot(along.x(), along.y()) < 1);
    // An arrow key moves the chosen handle by a pixel of the picture.
    s.view().setFocus();
    QTest::keyClick(&s.view(), Qt::Key_Down, Qt::ShiftModifier);
    s.rest();
    CHECK(s.by_hand(Field::hand_distortion) != set);
    s.app.click("Bend a line");
    CHECK(s.view().handles().empty());
    // One through the middle says nothing, and that is said.
    s.app.click("Bend a line");
    const QRectF p = s.view().picture_rect();
    s.app.drag(s.view(), p.topLeft() + QPointF(30, 30), p.bottomRight() - QPointF(30, 30));
    s.app.drag(s.view(), s.view().to_widget(s.view().handles()[1]),
               s.view().to_widget(s.view().handles()[1]) + QPointF(4, -4));
    CHECK(s.app.window().message().contains("so near the middle"));
}

TEST_CASE("four corners on the picture propose how the camera was held", "[app][inspect]") {
    Shown s("CH0001");
    s.app.click("Four corners");
    REQUIRE(s.view().handles().size() == 4);
    CHECK(s.said("±").isEmpty());
    // All of the corrected picture is shown meanwhile, and then it is compared as before.
    CHECK(s.view().mode() == CompareView::Mode::after);
    QTest::keyClick(&s.view(), Qt::Key_Escape);
    CHECK(s.view().handles().empty());
    CHECK(s.view().mode() == CompareView::Mode::split);
    // From the loupes, the picture comes back.
    s.app.click("Loupes");
    s.app.click("Four corners");
    CHECK(s.view().isVisible());
    REQUIRE(s.view().handles().size() == 4);
    const QPointF first = s.view().to_widget(s.view().handles()[0]);
    s.app.drag(s.view(), first, first + QPointF(8, 2));
    const QString said = s.said("four corners");
    CHECK(said.contains("roll"));
    CHECK(said.contains("±"));
    // Page down chooses another.
    s.view().setFocus();
    const QPointF second = s.view().handles()[1];
    QTest::keyClick(&s.view(), Qt::Key_PageDown);
    QTest::keyClick(&s.view(), Qt::Key_Left);
    CHECK(s.view().handles()[1].x() == Approx(second.x() - 1).margin(0.01));
    CHECK(std::isnan(s.by_hand(Field::roll)));
    s.app.click("Take");
    s.app.settle();
    CHECK_FALSE(std::isnan(s.by_hand(Field::yaw)));
    CHECK(s.view().handles().empty());
}

TEST_CASE("the ring of corner light is dragged", "[app][inspect]") {
    Shown s("CH0001");
    s.place->hand().number(Field::corner_light).setValue(1);
    s.place->hand().number(Field::corner_light_from).setValue(0.5);
    s.rest();
    CHECK(s.view().ring().empty());
    s.app.click("Ring");
    REQUIRE(s.view().ring().size() > 100);
    const QPointF middle = s.view().picture_rect().center(), edge = s.view().to_widget(s.view().ring()[0]);
    s.app.drag(s.view(), edge, middle + 0.6 * (edge - middle));
    s.rest();
    CHECK(s.by_hand(Field::corner_light_from) == Approx(0.3).margin(0.02));
    // The ring follows the figure.
    s.place->hand().number(Field::corner_light_from).setValue(0.6);
    s.rest();
    const QPointF now = s.view().to_widget(s.view().ring()[0]);
    CHECK((now - middle).x() == Approx(1.2 * (edge - middle).x()).epsilon(0.02));
}

TEST_CASE("a line that is drawn counts with those that were found", "[app][inspect]") {
    Shown s("CH0001");
    s.app.click("Draw a line");
    const FrameDevelopment bare = bare_development(s.frame);
    const FrameLines lines = find_lines(s.frame, bare.metadata, bare.fields, bare.profile, Progress());
    const QString before = s.said("lines.");
    REQUIRE(before.contains(QString("of %1 lines").arg(lines.lines.size())));
    s.app.drag(s.view(), s.bare(lines.segments[3].from), s.bare(lines.segments[3].to));
    CHECK(s.said("lines.").contains(QString("of %1 lines").arg(lines.lines.size() + 1)));
}

TEST_CASE("an edge that is marked tells what is resolved before and after", "[app][inspect]") {
    Shown s("CH0001");
    s.place->show_view("sharpness");
    SharpnessPanel& sharpness = s.place->sharpness();
    CHECK(sharpness.table().row_count() == 0);
    const FrameDevelopment bare = bare_development(s.frame);
    const FrameLines lines = find_lines(s.frame, bare.metadata, bare.fields, bare.profile, Progress());
    s.app.click("Mark an edge");
    bool measured = false;
    for (std::size_t i = 0; i < lines.segments.size() && !measured; i += 7) {
        s.app.drag(s.view(), s.bare(lines.segments[i].from), s.bare(lines.segments[i].to));
        s.app.settle();
        measured = sharpness.text().contains("before and");
    }
    REQUIRE(measured);
    REQUIRE(sharpness.table().row_count() == 3);
    // The rig's frames are blurred alike: one half at 0.3 cycles per pixel.
    CHECK(AppFixture::text(sharpness.table(), 1, 1).left(5).toDouble() == Approx(0.3).margin(0.02));
    const double after = AppFixture::text(sharpness.table(), 1, 2).left(5).toDouble();
    CHECK(after > 0.15);
    CHECK(after < 0.32);
    CHECK(is_one_sentence(sharpness.text().toStdString()));
}

TEST_CASE("what is set by hand is kept as a profile made by hand", "[app][inspect]") {
    Shown s("CH0001");
    const auto keep = [&] {
        s.app.click("Keep as a profile");
        s.app.settle();
    };
    keep();
    CHECK(s.app.window().message().contains("Nothing of the lens is set"));
    s.place->hand().number(Field::hand_distortion).setValue(-2.5);
    // What still moves is settled first.
    keep();
    CHECK(s.app.window().message().contains("made by hand"));
    REQUIRE(s.app.session().profiles().current().size() == 1);
    CHECK(s.app.session().profiles().current()[0].origin == MeasurementOrigin::by_hand);
    CHECK(s.by_hand(Field::hand_distortion) == Approx(-2.5));
}

TEST_CASE("what a file carries is compared with the profile in use, and kept when that is wanted",
          "[app][inspect][embedded]") {
    AppFixture app;
    const Profile lens = read_profile(solved_rig_profile());
    FrameDevelopment r = bare_development(rig_frame("SP0001"));
    r.profile = AppliedProfile{node_at(lens, {r.metadata.focal_mm, r.metadata.aperture, 0}).node, lens.geometry};
    Delivery copy;
    copy.format = ExportFormat::dng;
    app.add_frames({"SP0004"});
    export_frame(rig_frame("SP0001"), r, copy, app.path("frames") / "COPY.dng", Existing::keep, Progress());
    app.session().frames().add_folder(QString::fromStdString(app.path("frames").string()));
    app.settle();
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    const auto choose = [&](const QString& name) {
        for (int row = 0; row < 2; ++row)
            if (AppFixture::text(inspect.frames(), row, 0).contains(name)) app.click_cell(inspect.frames(), row, 0);
        app.settle();
    };
    inspect.show_view("hand");
    choose("SP0004");
    for (auto* b : app.window().findChildren<QPushButton*>())
        if (b->text().contains("what the file carries")) CHECK_FALSE(b->isVisible());
    choose("COPY");
    QString told;
    const auto answer = [&](const QString& with) {
        on_dialog([&told, with](QDialog& dialog) {
            for (auto* label : dialog.findChildren<QLabel*>())
                if (known_as(*label) == "The correction in words") told = label->text();
            CHECK_FALSE(dialog.findChildren<CurvePlot*>().isEmpty());
            for (auto* b : dialog.findChildren<QPushButton*>())
                if (b->text().contains(with)) return b->click();
            dialog.reject();
        });
        app.click("Compare what the file carries…");
        app.settle();
    };
    answer("Cancel");
    CHECK(told.contains("WarpRectilinear (optional)"));
    CHECK(told.contains("No profile corrects this frame now"));
    CHECK(app.session().profiles().current().empty());
    answer("Keep");
    CHECK(app.window().message().contains("marked as embedded"));
    REQUIRE(app.session().profiles().current().size() == 1);
    CHECK(app.session().profiles().current()[0].origin == MeasurementOrigin::embedded);
}

TEST_CASE("the same spot of four frames is looked at in step", "[app][inspect]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002", "SP0004", "SP0007"});
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    for (const int row : {1, 2, 3})
        QTest::mouseClick(inspect.frames().viewport(), Qt::LeftButton, Qt::ControlModifier,
                          inspect.frames().middle_of(row, 0));
    app.settle();
    app.click("Same spot");
    app.settle();
    SpotBoard& spot = inspect.spot();
    REQUIRE(spot.count() == 4);
    std::vector<QImage> before;
    for (int i = 0; i < 4; ++i) {
        CHECK_FALSE(spot.image(i).isNull());
        before.push_back(spot.image(i));
    }
    const QPointF place = spot.place(), from = spot.cell(1).center();
    app.drag(spot, from, from - QPointF(80, 40));
    app.settle();
    CHECK(spot.place().x() > place.x());
    CHECK(spot.place().y() > place.y());
    for (int i = 0; i < 4; ++i) CHECK(spot.image(i) != before[i]);
    // Fewer frames, fewer pictures; loupes and the picture come back.
    app.click_cell(inspect.frames(), 1, 0);
    app.settle();
    CHECK(spot.count() == 1);
    app.click("Loupes");
    CHECK_FALSE(spot.isVisible());
    app.click("Loupes");
    CHECK(inspect.view().isVisible());
    app.click("Same spot");
    app.click("Same spot");
    CHECK(inspect.view().isVisible());
}

TEST_CASE("what is set by hand on one frame is put on other chosen ones", "[app][inspect]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002", "SP0004"});
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    const auto sheet = [&](const char* name) { return read_sheet(app.path("frames") / (std::string(name) + ".dng")); };
    app.click_cell(inspect.frames(), 0, 0);
    app.settle();
    inspect.hand().number(Field::roll).setValue(1.5);
    inspect.hand().number(Field::pitch).setValue(-2);
    QTest::qWait(450);
    app.settle();
    REQUIRE(sheet("SP0001").hand.size() == 2);
    app.click("Put on others…");
    CHECK(app.window().message().contains("Ctrl or Shift"));
    // The frame that is shown is the one that was clicked last.
    app.click_cell(inspect.frames(), 1, 0);
    QTest::mouseClick(inspect.frames().viewport(), Qt::LeftButton, Qt::ControlModifier,
                      inspect.frames().middle_of(2, 0));
    QTest::mouseClick(inspect.frames().viewport(), Qt::LeftButton, Qt::ControlModifier,
                      inspect.frames().middle_of(0, 0));
    app.settle();
    on_dialog([&](QDialog& d) {
        auto& fields = child<QListWidget>(d, "Fields to put on others");
        auto& changes = child<Table>(d, "What changes");
        CHECK(fields.count() == 2);
        CHECK(changes.row_count() == 4);
        CHECK(AppFixture::text(changes, 0, 2) == "nothing");
        for (int i = 0; i < 2; ++i)
            if (fields.item(i)->text().contains("Pitch")) fields.item(i)->setCheckState(Qt::Unchecked);
        CHECK(changes.row_count() == 2);
        // Frames and sheets are read anew while it is open, as when another station writes.
        app.session().frames().add_folder(QString::fromStdString(app.path("frames").string()));
        app.settle();
        fields.item(0)->setCheckState(fields.item(0)->checkState());
        CHECK(AppFixture::text(changes, 0, 0).startsWith("SP000"));
        d.findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
    });
    app.click("Put on others…");
    app.settle();
    for (const char* name : {"SP0002", "SP0004"}) {
        CHECK(sheet(name).hand.size() == 1);
        CHECK(sheet(name).hand.at(Field::roll).number == 1.5);
    }
    app.press(Qt::Key_Z, Qt::ControlModifier);
    app.settle();
    CHECK(sheet("SP0002").hand.empty());
    CHECK(sheet("SP0004").hand.empty());
}

TEST_CASE("a chart frame is measured whole, before and after, and drawn over the picture", "[app][inspect]") {
    Shown s("CH0010");
    s.place->show_view("sharpness");
    s.app.settle();
    s.app.click("Whole chart");
    s.app.settle();
    CHECK_FALSE(s.said("edges of the board").isEmpty());
    auto& table = s.app.find<Table>("Resolution by zone");
    REQUIRE(table.row_count() == 6);
    CHECK(AppFixture::text(table, 0, 2).toDouble() == Approx(0.3).margin(0.02));
    CHECK(table.rows_model().cell(0, 3).hint.contains(" ± "));
    CHECK(AppFixture::text(table, 0, 4).endsWith(" %"));
    CHECK(s.app.find<PictureMap>("Resolution over the picture").as_csv().contains("MTF50"));
    // The change, part by part.
    auto& shown = s.app.find<QComboBox>("Shown");
    shown.setFocus();
    QTest::keyClick(&shown, Qt::Key_End);
    CHECK(shown.currentText() == "change, %");
    QTest::keyClick(&shown, Qt::Key_Return);
    CHECK(s.place->sharpness().edges().size() > 50);
}

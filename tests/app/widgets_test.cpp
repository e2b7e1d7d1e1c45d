// SPDX-License-Identifier: GPL-3.0-or-later
// Widgets of the Bench and the Lenses place by themselves.
#include <QSignalSpy>

#include "app_fixture.h"
#include "base/files.h"
#include "bench/corner_panel.h"
#include "bench/plan_panel.h"
#include "bench/run_rows.h"
#include "lenses/profile_rows.h"
#include "optics/frame_map.h"
#include "widgets/bars_view.h"
#include "widgets/frame_view.h"
#include "widgets/number_box.h"
#include "widgets/ramp_editor.h"
#include "widgets/resolution_view.h"
#include "widgets/setting_chart.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Profile zoom() {
    Profile p;
    p.name = p.lens = "Aldercroft 24-70mm f/4";
    p.camera = "Quenby Q5";
    p.geometry = {1232, 820, 18.8};
    for (const double f : {24.0, 35.0, 70.0}) {
        ProfileNode n;
        n.setting = {f, 5.6, 1};
        n.focal_mm = f;
        n.model = LensModel(LensModelKind::radial_tangential, {-2.0 / f, 0, 0, 0, 0, 0, 0});
        n.largest_radius_mm = 13;
        p.nodes.push_back(n);
    }
    return p;
}

}  // namespace

TEST_CASE("bars are chosen by mouse and by key", "[app][widgets]") {
    BarsView bars("Bars", "x", "y");
    bars.resize(400, 150);
    bars.show();
    QSignalSpy clicked(&bars, &BarsView::bar_clicked);
    QTest::keyClick(&bars, Qt::Key_Right);
    CHECK(clicked.isEmpty());  // there is none yet
    bars.set_bars({{"a", 1, "", false}, {"b", 3, "", false}, {"c", 2, "", true}});
    QTest::mouseClick(&bars, Qt::LeftButton, {}, bars.middle_of(1));
    REQUIRE(clicked.size() == 1);
    CHECK(clicked.takeFirst()[0] == 1);
    QTest::keyClick(&bars, Qt::Key_Right);
    CHECK(clicked.takeFirst()[0] == 2);
    QTest::keyClick(&bars, Qt::Key_Right);
    CHECK(clicked.takeFirst()[0] == 2);  // the last stays
    CHECK_FALSE(bars.grab().isNull());
}

TEST_CASE("lens settings are chosen on their chart by mouse and by key", "[app][widgets]") {
    SettingChart chart;
    chart.resize(500, 220);
    chart.show();
    chart.show_profile(zoom(), 0);
    QSignalSpy chosen(&chart, &SettingChart::node_chosen);
    QTest::mouseClick(&chart, Qt::LeftButton, {}, chart.place_of(2));
    REQUIRE(chosen.size() == 1);
    CHECK(chosen.takeFirst()[0] == 2);
    QTest::keyClick(&chart, Qt::Key_Right);
    CHECK(chosen.takeFirst()[0] == 1);
    // Longer focal lengths stand to the right.
    CHECK(chart.place_of(0).x() < chart.place_of(1).x());
    CHECK(chart.place_of(1).x() < chart.place_of(2).x());
    CHECK_FALSE(chart.grab().isNull());
    chart.clear();
    CHECK_FALSE(chart.grab().isNull());
}

TEST_CASE("a click beside every corner chooses none", "[app][widgets]") {
    FrameView view;
    view.resize(500, 400);
    view.show();
    QSignalSpy chosen(&view, &FrameView::corner_chosen);
    QTest::mouseClick(&view, Qt::LeftButton, {}, QPoint(100, 100));
    CHECK(chosen.isEmpty());
    view.set_frame(QImage(), QSizeF(1000, 600));
    view.set_corners({{{100, 100}, {0.01, 0}, false, true}, {{900, 500}, {0, 0.02}, true, true}});
    QTest::mouseClick(&view, Qt::LeftButton, {}, view.on_screen({500, 300}));
    CHECK(chosen.isEmpty());
    QTest::mouseClick(&view, Qt::LeftButton, {}, view.on_screen({900, 500}));
    CHECK(chosen.takeFirst()[0] == 1);
    QSignalSpy drop(&view, &FrameView::drop_asked);
    QTest::keyClick(&view, Qt::Key_Delete);
    CHECK(drop.takeFirst()[0] == 1);
    view.set_corners({});
    QTest::keyClick(&view, Qt::Key_Delete);
    CHECK(drop.isEmpty());
    view.point_at(QPointF(10, 10));
    view.set_labels({{QPointF(500, 300), "+0.01 EV"}});
    view.set_means({{{100, 100}, {0.01, 0}, false, true}});
    CHECK_FALSE(view.grab().isNull());
}

TEST_CASE("a plan without any frame stands on the outline of a usual picture", "[app][widgets]") {
    PlanPanel panel;
    panel.resize(500, 500);
    panel.show();
    const DrawnPlan plan = draw_plan(ChartSpec::parse("checker:15x10:30"), {}, nullptr, 0);
    CHECK(plan.assumed_picture);
    panel.show_plan(plan);
    bool said = false;
    for (QLabel* l : panel.findChildren<QLabel*>())
        said = said || (l->text().contains("0 of 13") && l->text().contains("3:2"));
    CHECK(said);
    panel.clear("because");
    CHECK_FALSE(panel.grab().isNull());
}

TEST_CASE("patches are cut about a corner on each colour, also at the border", "[app][widgets]") {
    const MeasuringPicture picture = read_for_measuring(rig_frame("CH0002"));
    const ChartDetection d = detect_chart(picture, ChartSpec::parse("checker:15x10:30"), Progress());
    REQUIRE(d.found());
    for (const ChartCorner& c : d.corners) {
        const auto patches = cut_patches(picture, c, 12);
        for (int k = 0; k < 3; ++k) {
            REQUIRE(patches[k].samples.isNull() != c.channel[k].ok);
            if (!c.channel[k].ok) continue;
            CHECK(patches[k].samples.width() % 2 == 1);
            CHECK(std::abs(patches[k].corner.x() - patches[k].samples.width() / 2.0) < 2);
        }
    }
}

TEST_CASE("rows say how each frame fared", "[app][widgets]") {
    std::vector<RunFrame> frames(4);
    for (int i = 0; i < 4; ++i) frames[i].path = "/x/F" + std::to_string(i) + ".dng";
    frames[1].dropped = true;
    frames[2].problem = "It is broken.";
    frames[3].hash = "abc";
    const auto rows = frame_rows(frames, nullptr);
    REQUIRE(rows.size() == 4);
    CHECK(rows[0][5].text == "to measure");
    CHECK(rows[1][5].text.contains("dropped"));
    CHECK(rows[2][5].hint == "It is broken.");
    CHECK(rows[3][5].text == "measured");
    CHECK(frame_rows({}, nullptr).empty());
}

TEST_CASE("figures of a profile have their units, and a decentred copy is named", "[app][widgets]") {
    Profile p = zoom();
    const auto text_of = [](const std::vector<ProfileFigure>& figures, const QString& name) {
        for (const ProfileFigure& f : figures)
            if (f.name == name) return f.value;
        return QString();
    };
    CHECK(text_of(profile_figures(p, 1), "Focal length, calibrated") == "35.000 mm");
    CHECK_FALSE(text_of(profile_figures(p, 1), "Decentring").contains("decentred"));
    p.nodes[1].model = LensModel(LensModelKind::radial_tangential, {-0.05, 0, 0, 0.003, 0.002, 0, 0});
    CHECK(text_of(profile_figures(p, 1), "Decentring").contains("decentred"));
    p.nodes[1].mapping_from_aperture = 8;
    CHECK(text_of(profile_figures(p, 1), "Mapping measured at") == "f/8");
    CHECK(text_of(profile_figures(p, 1), "Falloff") == "not measured");
}

TEST_CASE("a table is declared by its columns, which say how each record is shown", "[app][widgets]") {
    struct Lamp {
        QString name;
        int watts;
    };
    const std::vector<Lamp> lamps{{"left", 80}, {"right", 650}, {"above", 9}};
    TableOf<Lamp> table("Lamps", {{text_column("Lamp"), [](const Lamp& l) { return Cell(l.name); }},
                                  {figure_column("Power / W", 80), [](const Lamp& l) {
                                       return l.watts > 500 ? Cell(QString::number(l.watts), Cell::Tone::warning)
                                                            : figure_cell(l.watts);
                                   }}});
    table.show_records(lamps);
    CHECK(table.as_csv() == "Lamp,Power / W\nleft,80\nright,650\nabove,9\n");
    CHECK(table.rows_model().cell(1, 1).tone == Cell::Tone::warning);
    CHECK(table.rows_model().cell(0, 1).sort.toInt() == 80);
    CHECK(table.rows_model().columns()[1].figure);

    // Records that are gone by the time they are looked at leave an empty cell.
    table.show_lazily(4, [&](int row) { return row < 3 ? &lamps[row] : nullptr; });
    CHECK(table.row_count() == 4);
    CHECK(table.rows_model().cell(2, 0).text == "above");
    CHECK(table.rows_model().cell(3, 0).text.isEmpty());
}

TEST_CASE("a table of two hundred thousand rows makes only the cells that are looked at", "[app][widgets]") {
    Table table("t", {text_column("Name"), figure_column("Value", 80)});
    table.resize(400, 300);
    table.show();
    int made = 0;
    table.set_lazy(200000, [&](int row, int column) {
        ++made;
        return Cell(QString("%1 %2").arg(row).arg(column));
    });
    QApplication::processEvents();
    table.grab();
    CHECK(made > 0);
    CHECK(made < 2000);
    table.choose(150000, 1);
    CHECK(table.chosen() == 150000);
    CHECK(table.rows_model().cell(150000, 1).text == "150000 1");
    CHECK(table.rows_model().cell(200000, 0).text.isEmpty());
    table.set_lazy(200000, [](int, int) { return Cell("other"); });
    CHECK(table.chosen() == 150000);  // the choice stays while the rows stay
    table.set_rows({{Cell("a"), Cell("b")}});
    CHECK(table.row_count() == 1);
    CHECK(table.rows_model().cell(0, 1).text == "b");
    table.allow_several();
    table.set_rows({{Cell("a"), Cell("b")}, {Cell("c"), Cell("d")}, {Cell("e"), Cell("f")}});
    table.selectAll();
    CHECK(table.chosen_rows() == std::vector<int>{0, 1, 2});
}

TEST_CASE("long texts wrap where a table allows it", "[app][widgets]") {
    Table table("t", {text_column("Name", 120)});
    table.wrap_rows();
    table.resize(140, 300);
    table.show();
    table.set_rows({{Cell("a text that is much too long for a column of that width")}, {Cell("short")}});
    QApplication::processEvents();
    CHECK(table.rowHeight(0) > table.rowHeight(1) + 10);
}

TEST_CASE("the ramp editor draws what it is given, and lets nothing be edited that is not pinned", "[app][widgets]") {
    RampEditor editor("Ramp");
    editor.resize(420, 200);
    editor.show();
    std::vector<RampEditor::Knot> told;
    QObject::connect(&editor, &RampEditor::edited, [&](const std::vector<RampEditor::Knot>& knots) { told = knots; });
    const QImage empty = editor.grab().toImage();
    editor.set_scale("Luminance NR", 0, 100, 0);
    editor.set_resolved({{100, 10}, {6400, 50}}, "Stand 1");
    editor.set_frames({{100, 5}, {800, 90}, {51200, 1}});
    CHECK(editor.grab().toImage() != empty);
    QTest::mouseDClick(&editor, Qt::LeftButton, {}, editor.place_of(400, 30));
    CHECK(told.empty());
    editor.set_knots({{100, 20}}, true);
    QTest::mouseDClick(&editor, Qt::LeftButton, {}, editor.place_of(1600, 30));
    REQUIRE(told.size() == 2);  // a constant becomes a ramp
    CHECK(told[0].iso == 100);
    CHECK(told[1].iso == 1600);
    editor.set_knots(told, true);
    told.clear();
    editor.setFocus();
    QTest::keyClick(&editor, Qt::Key_Right);
    QTest::keyClick(&editor, Qt::Key_Right);
    QTest::keyClick(&editor, Qt::Key_Down);
    REQUIRE(told.size() == 2);
    CHECK(told[1].value == Approx(editor.knots()[1].value - 1));
    told.clear();
    QTest::keyClick(&editor, Qt::Key_Delete);
    CHECK(told.size() == 1);
    editor.set_knots({{100, 20}}, true);
    told.clear();
    QTest::keyClick(&editor, Qt::Key_Delete);
    CHECK(told.empty());  // a pin keeps at least one knot
    CHECK(editor.accessibleDescription().contains("Delete"));
}

TEST_CASE("every plot gives its values as CSV, and says so when it has none", "[app][widgets]") {
    BarsView bars("Bars", "residual / px", "corners");
    const QImage empty = bars.grab().toImage();
    CHECK(bars.as_csv() == "residual / px,corners\n");
    bars.set_bars({{"0.01", 12, "", false}, {"0.02", 3, "", false}});
    CHECK(bars.as_csv() == "residual / px,corners\n0.01,12\n0.02,3\n");
    CHECK(bars.grab().toImage() != empty);

    SettingChart settings;
    settings.show_profile(zoom(), 0);
    const QStringList lines = settings.as_csv().split('\n');
    CHECK(lines[0].startsWith("focal length / mm,f-number"));
    CHECK(lines.size() == 5);  // three settings, and the last line ends

    RampEditor ramp("Ramp");
    ramp.set_scale("Luminance NR", 0, 100, 0);
    ramp.set_knots({{100, 20}, {800, 40}}, true);
    CHECK(ramp.as_csv() == "curve,ISO,Luminance NR\nknot,100,20\nknot,800,40\n");
}

TEST_CASE("what is resolved is drawn over the picture as it is held", "[app][widgets]") {
    const PictureGeometry geometry{1200, 800, 1};
    ResolutionCell cell;
    cell.place_mm = geometry.to_sensor({100, 100});
    cell.mean.count = 3;
    cell.mean.mtf50 = 0.25;
    ResolutionView view;
    const auto* map = view.findChild<PictureMap*>();
    view.show_field({"before", geometry, {cell}});
    CHECK(map->as_csv().split('\n')[1].startsWith("85.7"));
    // The same with the camera turned: what the sensor has at the left of its top is at the right of the picture's.
    view.show_field({"before", geometry, {cell}, 6});
    CHECK(map->as_csv().split('\n')[1].startsWith("720.0"));
    CHECK(map->as_csv().split('\n')[1].contains(",85.7"));
}

TEST_CASE("a plot is saved in place of a drawing of its own kind, and of nothing else", "[app][widgets]") {
    const TemporaryFolder folder;
    RampEditor ramp("Ramp");
    ramp.resize(420, 200);
    ramp.set_scale("Luminance NR", 0, 100, 0);
    ramp.set_knots({{100, 20}}, true);
    const QString own = QString::fromStdString((folder / "ramp.svg").string());
    CHECK(ramp.save_svg(own));
    CHECK(ramp.save_svg(own));
    const fs::path foreign = folder / "drawing.svg";
    write_bytes(foreign, "<svg>somebody's</svg>");
    CHECK_FALSE(ramp.save_svg(QString::fromStdString(foreign.string())));
    CHECK(read_file(foreign) == "<svg>somebody's</svg>");
}

TEST_CASE("a plot's scales hold all that is drawn, in round figures", "[app][widgets]") {
    BarsView bars("Bars", "frame", "RMS / px");
    bars.resize(400, 150);
    bars.set_bars({{"a", 0.0131, "", false}, {"b", 0.0302, "", false}});
    const PlotArea plot = bars.plot();
    CHECK(plot.y.low == 0);
    CHECK(plot.y.high >= 0.03);
    CHECK(plot.y.ticks.back().at == Approx(plot.y.high));
    CHECK(bars.rect().contains(plot.box.toRect()));
    const QPointF there = plot.at(1.5, 0.01);
    CHECK(plot.value_at(there).x() == Approx(1.5));
    CHECK(plot.value_at(there).y() == Approx(0.01));
}

TEST_CASE("a number field never makes another number of what was typed", "[app][widgets]") {
    NumberBox box;
    box.setRange(-10, 10);
    box.setDecimals(2);
    box.setSuffix(" °");
    box.setKeyboardTracking(false);
    box.show();
    QSignalSpy complaints(&box, &NumberBox::complained);
    const auto type = [&](const QString& text) {
        box.setFocus();
        box.selectAll();
        QTest::keyClick(&box, Qt::Key_Delete);
        QTest::keyClicks(&box, text);
        QTest::keyClick(&box, Qt::Key_Return);
    };
    for (const char sign : {'.', ','}) {
        box.set_decimal_sign(QChar(sign));
        box.setValue(1);
        type("0.5");
        CHECK(box.value() == 0.5);
        CHECK(box.problem().isEmpty());
        box.setValue(1);
        type("0,5");
        if (sign == ',') {
            CHECK(box.value() == 0.5);
            CHECK(box.problem().isEmpty());
            continue;
        }
        // Not five: it stays as it was typed, and is told.
        CHECK(box.value() == 1);
        CHECK(box.text().startsWith("0,5"));
        CHECK(box.problem().contains("0,5"));
        CHECK(complaints.count() == 1);
    }
    for (const char* wrong : {"1.234,5", "1 000", "12", "x", "", "1e99", "nan", "--3", "0.5.5"}) {
        INFO(wrong);
        box.setValue(2);
        type(wrong);
        CHECK(box.value() == 2);
        CHECK_FALSE(box.problem().isEmpty());
    }
    box.setValue(3);  // from elsewhere: what was marked is gone
    CHECK(box.problem().isEmpty());
    type("-4");
    CHECK(box.value() == -4);
    QTest::keyClick(&box, Qt::Key_Up);
    CHECK(box.value() == -3);
}

TEST_CASE("sentences of the core lose the options of the command line in the window", "[app][widgets]") {
    CHECK(q("a.tif is there already; choose another name, or ask for it to be replaced (--overwrite).") ==
          "a.tif is there already; choose another name, or ask for it to be replaced.");
    CHECK(q("Keep them (--keep-settings) or drop them (--drop-settings).") == "Keep them or drop them.");
    CHECK(q("one (two) three") == "one (two) three");
}

TEST_CASE("a table is sorted by its titles, and keeps widths and sorting for the next time", "[app][widgets]") {
    const auto make = [] {
        auto table = std::make_unique<Table>("Sorted", std::vector{text_column("Name"), figure_column("Count", 80)});
        table->set_rows({{"b", {"10", 10}}, {"a", {"9", 9}}, {"c", {"100", 100}}});
        table->resize(400, 200);
        table->show();
        return table;
    };
    const auto shown = [](const Table& table) {
        std::vector<int> out;
        for (int i = 0; i < table.row_count(); ++i) out.push_back(table.row_shown_at(i));
        return out;
    };
    const auto press_title = [](const Table& table, int column) {
        const QHeaderView* header = table.horizontalHeader();
        QTest::mouseClick(header->viewport(), Qt::LeftButton, {},
                          QPoint(header->sectionViewportPosition(column) + 20, header->height() / 2));
    };
    {
        const auto table = make();
        CHECK(shown(*table) == std::vector{0, 1, 2});
        press_title(*table, 1);
        CHECK(shown(*table) == std::vector{1, 0, 2});  // by value, not as text
        press_title(*table, 1);
        CHECK(shown(*table) == std::vector{2, 0, 1});
        const QHeaderView* header = table->horizontalHeader();
        const int edge = header->sectionViewportPosition(1) + header->sectionSize(1) - 1, middle = header->height() / 2;
        QTest::mousePress(header->viewport(), Qt::LeftButton, {}, QPoint(edge, middle));
        QMouseEvent move(QEvent::MouseMove, QPointF(edge + 40, middle),
                         header->viewport()->mapToGlobal(QPointF(edge + 40, middle)), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(header->viewport(), &move);
        QTest::mouseRelease(header->viewport(), Qt::LeftButton, {}, QPoint(edge + 40, middle));
        CHECK(table->columnWidth(1) == 120);
        table->resize(500, 200);
        CHECK(table->columnWidth(1) == 120);
    }
    const auto table = make();
    CHECK(table->columnWidth(1) == 120);
    CHECK(shown(*table) == std::vector{2, 0, 1});
    press_title(*table, 1);
    CHECK(shown(*table) == std::vector{0, 1, 2});
    table->forget_layout();
    CHECK(make()->columnWidth(1) == 80);
    // Very many rows that are made when they are seen stay in their order.
    table->set_lazy(5000, [](int row, int) { return Cell(QString::number(-row), -row); });
    press_title(*table, 1);
    CHECK(table->row_shown_at(0) == 0);
}

TEST_CASE("times are told as they are here, in the order of ISO 8601", "[app][widgets]") {
    const QByteArray zone = qgetenv("TZ");
    qputenv("TZ", "Asia/Kolkata");
    tzset();
    CHECK(local_time("2026-03-01T20:15:05Z") == "2026-03-02 01:45");
    CHECK(local_day("2026-03-01T20:15:05Z") == "2026-03-02");
    CHECK(full_local_time("2026-03-01T20:15:05Z") == "2026-03-02T01:45:05+05:30 (local time)");
    CHECK(local_day("2026-03-01") == "2026-03-01");
    CHECK(local_time("") == "");
    CHECK(local_time("some day") == "some day");
    CHECK(local_time("2026-03-01T20:15:05+01:00") == "2026-03-02 00:45");
    qputenv("TZ", "America/New_York");
    tzset();
    CHECK(local_day("2026-03-01T02:15:05Z") == "2026-02-28");
    CHECK(local_day("2026-03-01") == "2026-03-01");  // a day alone is nobody's time
    CHECK(local_time("2026-03-01") == "2026-03-01");
    CHECK(local_time("2026-03-01T02:15:05") == "2026-03-01T02:15:05");
    zone.isNull() ? qunsetenv("TZ") : qputenv("TZ", zone);
    tzset();
}

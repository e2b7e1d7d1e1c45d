// SPDX-License-Identifier: GPL-3.0-or-later
#include <QComboBox>
#include <QLineEdit>
#include <QListWidget>
#include <QScrollBar>

#include <QShortcut>

#include <QAccessible>
#include <QLabel>
#include <QRegularExpression>

#include "app_fixture.h"
#include "base/station.h"
#include "help_dialogs.h"
#include "inspect/inspect_place.h"
#include "widgets/curve_plot.h"

using namespace optrel;
using namespace optrel::test;

extern std::unique_ptr<QCoreApplication> (*make_application)(int&, char**);
namespace {
const bool registered = [] {
    make_application = [](int& argc, char** argv) -> std::unique_ptr<QCoreApplication> {
        // Offscreen unless a platform is asked for; then it must be that one.
        if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
        const QString wanted = qEnvironmentVariable("QT_QPA_PLATFORM");
        auto app = std::make_unique<QApplication>(argc, argv);
        if (QGuiApplication::platformName() != wanted)
            qFatal("The tests run on %s instead of %s.", qPrintable(QGuiApplication::platformName()),
                   qPrintable(wanted));
        theme::apply(*app);
        return app;
    };
    return true;
}();
}  // namespace

TEST_CASE("places are reached by click and by key", "[app][x]") {
    AppFixture app;
    auto& rail = app.find<QListWidget>("Places");
    REQUIRE(rail.count() == theme::place_count);
    for (int i = 0; i < theme::place_count; ++i) {
        QTest::mouseClick(rail.viewport(), Qt::LeftButton, {}, rail.visualItemRect(rail.item(i)).center());
        QApplication::processEvents();
        CHECK(app.window().place(static_cast<theme::Place>(i))->isVisible());
    }
    for (int i = theme::place_count - 1; i >= 0; --i) {
        app.press(static_cast<Qt::Key>(Qt::Key_1 + i), Qt::AltModifier);
        QApplication::processEvents();
        CHECK(app.window().place(static_cast<theme::Place>(i))->isVisible());
    }
    rail.setFocus();
    QTest::keyClick(&rail, Qt::Key_Down);
    CHECK(rail.currentRow() == 1);
}

TEST_CASE("an empty store leads on from every place", "[app][x]") {
    AppFixture app;
    CHECK(app.window().place(theme::Place::attention)->isVisible());
    CHECK(AppFixture::text(app.find<Table>("What needs attention"), 0, 0).contains("No frames"));
    for (int i = 0; i < theme::place_count; ++i) {
        const auto place = static_cast<theme::Place>(i);
        app.window().go_to(place);
        app.window().place(place)->show_something();
        app.settle();
        const QImage picture = app.window().grab().toImage();
        CHECK(picture.width() == 1280 * picture.devicePixelRatio());
    }
    const auto says = [&](theme::Place place, const QString& words) {
        app.window().go_to(place);
        for (QLabel* label : app.window().place(place)->findChildren<QLabel*>())
            if (label->isVisible() && label->text().contains(words)) return true;
        return false;
    };
    // The middle of each place says what belongs there, and its first step is a button.
    const auto leads = [&](theme::Place place, const QString& words, const QString& step) {
        app.window().go_to(place);
        CHECK(app.window().place(place)->shows_empty());
        CHECK(says(place, words));
        CHECK(app.find<QAbstractButton>(step).isEnabled());
    };
    leads(theme::Place::bench, "one calibration", "New run from a folder…");
    leads(theme::Place::fleet, "bodies and lenses", "Add a folder of frames…");
    leads(theme::Place::baselines, "what frames start from", "Add a folder of frames…");
    leads(theme::Place::rollout, "No frames are known yet", "Add a folder of frames…");
    leads(theme::Place::inspect, "single frames", "Add a folder of frames…");
    leads(theme::Place::lenses, "stay here for good", "Measure a lens on the Bench");
    app.click("Measure a lens on the Bench");
    CHECK(app.window().place(theme::Place::bench)->isVisible());
}

TEST_CASE("every control has an accessible name, every button a hint", "[app]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    for (int i = 0; i < theme::place_count; ++i) {
        app.window().go_to(static_cast<theme::Place>(i));
        PlaceWidget* place = app.window().place(static_cast<theme::Place>(i));
        for (QWidget* w : place->findChildren<QWidget*>()) {
            const bool control = qobject_cast<QAbstractButton*>(w) || qobject_cast<QComboBox*>(w) ||
                                 qobject_cast<Table*>(w) || qobject_cast<CurvePlot*>(w);
            if (!control || w->objectName().startsWith("qt_") || qobject_cast<QHeaderView*>(w->parentWidget()) ||
                qobject_cast<QTableView*>(w->parentWidget()))
                continue;
            INFO(theme::place_name(static_cast<theme::Place>(i)).toStdString() << " " << w->metaObject()->className());
            CHECK_FALSE((w->accessibleName().isEmpty() &&
                         (!qobject_cast<QAbstractButton*>(w) || static_cast<QAbstractButton*>(w)->text().isEmpty())));
            if (auto* b = qobject_cast<QPushButton*>(w)) CHECK_FALSE(b->toolTip().isEmpty());
        }
    }
}

TEST_CASE("nothing needs a horizontal scroll bar at 1280 by 800", "[app][x]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0007"});
    for (int i = 0; i < theme::place_count; ++i) {
        app.window().go_to(static_cast<theme::Place>(i));
        PlaceWidget* place = app.window().place(static_cast<theme::Place>(i));
        for (const QString& view : QStringList{""} + place->more_views()) {
            if (!view.isEmpty()) place->show_view(view);
            app.settle();
            CHECK(app.window().width() == 1280);
            int seen = 0;
            for (Table* t : place->findChildren<Table*>()) {
                if (!t->isVisible()) continue;
                INFO(t->accessibleName().toStdString());
                CHECK(t->horizontalScrollBar()->maximum() == 0);
                ++seen;
            }
            CHECK((seen > 0 || place->shows_empty()));
        }
    }
}

TEST_CASE("tables copy as CSV with quotes where they are needed", "[app]") {
    Table table("t", {text_column("Name"), figure_column("Value / px", 80)});
    table.set_rows({{Cell("plain"), Cell("1.5", 1.5)},
                    {Cell("with, comma"), Cell("10", 10)},
                    {Cell("with \"quote\""), Cell("2", 2)}});
    CHECK(table.as_csv() == "Name,Value / px\nplain,1.5\n\"with, comma\",10\n\"with \"\"quote\"\"\",2\n");
}

TEST_CASE("columns of figures sort as figures, and the choice stays on its row", "[app]") {
    Table table("t", {text_column("Name"), figure_column("Value", 80)});
    table.set_rows({{Cell("a"), Cell("9", 9)}, {Cell("b"), Cell("10", 10)}, {Cell("c"), Cell("2", 2)}});
    table.sortByColumn(1, Qt::AscendingOrder);
    CHECK(table.model()->index(0, 0).data().toString() == "c");
    CHECK(table.model()->index(2, 0).data().toString() == "b");
    table.choose(1);
    CHECK(table.chosen() == 1);
    CHECK(table.currentIndex().row() == 2);
}

TEST_CASE("a plot gives its values as CSV and SVG", "[app]") {
    const TemporaryFolder folder;
    CurvePlot plot("Falloff", "field height", "falloff / EV");
    plot.resize(400, 300);
    plot.set_curves({{"green", theme::ink, Qt::SolidLine, {{0, 0}, {0.5, -0.2}, {1, -0.7}}, {0, 0.01, 0.02}}}, 0, 1,
                    0.5);
    CHECK(plot.as_csv() ==
          "curve,field height,falloff / EV,one sigma\ngreen,0,0,0\ngreen,0.5,-0.2,0.01\ngreen,1,-0.7,0.02\n");
    plot.show();
    QApplication::processEvents();
    REQUIRE(plot.save_svg(QString::fromStdString((folder / "p.svg").string())));
    QFile file(QString::fromStdString((folder / "p.svg").string()));
    REQUIRE(file.open(QIODevice::ReadOnly));
    CHECK(file.readAll().contains("falloff / EV"));
}

TEST_CASE("jobs run in order, tell their failure, and can be cancelled", "[app][threads]") {
    Jobs jobs;
    QStringList told;
    std::vector<int> order;
    QObject::connect(&jobs, &Jobs::failed, [&](const QString& why) { told << why; });
    jobs.run(
        "one",
        [](Progress& p) {
            p.start(3, "Counting");
            p.step();
        },
        [&] { order.push_back(1); });
    jobs.run(
        "two", [](Progress&) { throw input_error("The second one cannot be done."); }, [&] { order.push_back(2); });
    jobs.run(
        "three",
        [](Progress& p) {
            for (;;) {
                p.check();
                QThread::msleep(1);
            }
        },
        [&] { order.push_back(3); });
    jobs.run(
        "four", [](Progress&) {}, [&] { order.push_back(4); });
    while (jobs.active()) {
        QApplication::processEvents(QEventLoop::AllEvents, 10);
        if (jobs.waiting() == 1) jobs.cancel();  // the third is under way
    }
    CHECK(order == std::vector<int>{1, 4});
    REQUIRE(told.size() == 2);
    CHECK(told[0] == "The second one cannot be done.");
    CHECK(told[1].contains("cancelled"));
}

TEST_CASE("a store that cannot be opened is told in one sentence", "[app]") {
    const TemporaryFolder folder;
    write_bytes(folder / "file", "x");
    CHECK(error_of([&] { Session session(folder / "file"); }) == "input");
}

TEST_CASE("all place icons are drawn and differ", "[app]") {
    QList<QImage> seen;
    for (int i = 0; i < theme::place_count; ++i) {
        const QImage icon = theme::place_icon(static_cast<theme::Place>(i)).pixmap(48).toImage();
        CHECK_FALSE(icon.isNull());
        CHECK_FALSE(seen.contains(icon));
        seen << icon;
        CHECK_FALSE(theme::place_purpose(static_cast<theme::Place>(i)).isEmpty());
    }
}

TEST_CASE("F1 opens the part of the guide that belongs to the place, and all keys are listed", "[app]") {
    AppFixture app;
    for (const auto place : {theme::Place::attention, theme::Place::bench, theme::Place::lenses, theme::Place::fleet,
                             theme::Place::baselines, theme::Place::rollout, theme::Place::inspect}) {
        app.window().go_to(place);
        QTest::keyClick(&app.window(), Qt::Key_F1);
        auto* guide = app.window().findChild<GuideDialog*>();
        REQUIRE(guide);
        INFO(theme::place_name(place).toStdString());
        CHECK(guide->shown_part().startsWith(theme::place_name(place)));
        CHECK(guide->shown_text().size() > 200);
        guide->close();
    }
    QTest::keyClick(&app.window(), Qt::Key_F1, Qt::ShiftModifier);
    auto* keys = app.window().findChild<KeysDialog*>();
    REQUIRE(keys);
    auto* table = keys->findChild<Table*>();
    REQUIRE(table);
    CHECK(table->row_count() == all_keys().size());
    // Every shortcut of the window stands in the list.
    for (const QShortcut* s : app.window().findChildren<QShortcut*>()) {
        const QString key = s->key().toString();
        INFO(key.toStdString());
        const auto listed = all_keys();
        CHECK(std::any_of(listed.begin(), listed.end(), [&](const KeyHelp& k) { return k.key == key; }));
    }
}

TEST_CASE("words that change are what a screen reader says", "[app]") {
    AppFixture app;
    for (int i = 0; i < theme::place_count; ++i) app.window().go_to(static_cast<theme::Place>(i));
    for (const QLabel* label : app.window().findChildren<QLabel*>()) {
        INFO(label->text().toStdString());
        // A fixed name would hide the text.
        CHECK(label->accessibleName().isEmpty());
    }
    app.session().messages().tell("Something was done.");
    QLabel& message = app.find<QLabel>("Message");
    CHECK(QAccessible::queryAccessibleInterface(&message)->text(QAccessible::Name) == "Something was done.");
}

TEST_CASE("the title says which store and who", "[app]") {
    AppFixture app;
    CHECK(app.window().windowTitle().endsWith(" – Optrel"));
    CHECK(app.window().windowTitle().contains(QString::fromStdString(current_author())));
}

namespace {

/// Letters that Alt presses in what is visible, with the texts that have them.
std::map<QChar, QStringList> mnemonics(const QWidget& window) {
    std::map<QChar, QStringList> out;
    const auto note = [&](const QString& text) {
        static const QRegularExpression marked("&([^&])");
        if (const auto m = marked.match(QString(text).remove("&&")); m.hasMatch())
            out[m.captured(1).at(0).toLower()] << text;
    };
    for (const auto* b : window.findChildren<QAbstractButton*>())
        if (b->isVisible()) note(b->text());
    for (const auto* tabs : window.findChildren<QTabWidget*>())
        for (int i = 0; tabs->isVisible() && i < tabs->count(); ++i) note(tabs->tabText(i));
    return out;
}

}  // namespace

TEST_CASE("no letter presses two buttons of a place, empty or with frames", "[app][keys]") {
    AppFixture app;
    for (const bool empty : {true, false}) {
        if (!empty) {
            app.add_frames({"SP0001", "SP0004"});
            app.publish_baseline();
        }
        for (int i = 0; i < theme::place_count; ++i) {
            app.window().go_to(static_cast<theme::Place>(i));
            app.settle();
            const auto look = [&](const QString& where) {
                for (const auto& [letter, texts] : mnemonics(app.window())) {
                    INFO("place " << i << " " << where.toStdString() << ", Alt+" << QString(letter).toStdString()
                                  << ": " << texts.join(", ").toStdString() << (empty ? ", empty" : ""));
                    CHECK(texts.size() == 1);
                }
            };
            look("");
            for (auto* tabs : app.window().findChildren<QTabWidget*>())
                for (int tab = 0; tabs->isVisible() && tab < tabs->count(); ++tab) {
                    tabs->setCurrentIndex(tab);
                    look(tabs->tabText(tab));
                }
        }
    }
}

TEST_CASE("a button that disables itself leaves the focus where the person was", "[app][keys][x]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0004"});
    app.publish_baseline();
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.window().activateWindow();
    app.click_cell(inspect.frames(), 0, 0);
    app.settle();
    REQUIRE(QApplication::focusWidget() == &inspect.frames());
    auto& bare = app.find<QPushButton>("Bare");
    bare.setFocus();
    QTest::keyClick(&bare, Qt::Key_Space);
    app.settle();
    CHECK_FALSE(bare.isEnabled());
    CHECK(QApplication::focusWidget() == &inspect.frames());
}

// SPDX-License-Identifier: GPL-3.0-or-later
// Lists of frames as small pictures, keys from frame to frame, and the picture in a window of its own.
#include <QComboBox>
#include <QScrollBar>
#include <QToolButton>

#include "app_fixture.h"
#include "inspect/inspect_place.h"
#include "pictures/picture_sheet.h"
#include "pictures/table_or_pictures.h"
#include "screen/screen_service.h"

using namespace optrel;
using namespace optrel::test;

namespace {

InspectPlace& inspect_with_frames(AppFixture& app) {
    app.add_frames({"SP0001", "SP0002", "SP0004", "SP0007", "SP0008"});
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.settle();
    return inspect;
}

void read_all(AppFixture& app) {
    QElapsedTimer timer;
    timer.start();
    do {
        QTest::qWait(40);
        REQUIRE(timer.elapsed() < 120000);
    } while (PictureLoader::here().reading());
    app.settle();
}

QString chosen_name(InspectPlace& inspect) {
    const FrameRecord* f = inspect.list().chosen();
    return f ? QString::fromStdString(f->path.filename().string()) : QString();
}

}  // namespace

TEST_CASE("frames are chosen by their small pictures, alone and in groups", "[app][pictures][x]") {
    AppFixture app;
    InspectPlace& inspect = inspect_with_frames(app);
    app.click("Frames as small pictures");
    PictureSheet& sheet = inspect.list().view().sheet();
    REQUIRE(sheet.isVisible());
    CHECK_FALSE(inspect.frames().isVisible());
    CHECK(sheet.height() > 250);
    read_all(app);
    REQUIRE(sheet.columns() >= 2);
    // A click chooses the frame in the table, too; what is drawn there is a picture.
    const QModelIndex second = sheet.model()->index(1, 0);
    QTest::mouseClick(sheet.viewport(), Qt::LeftButton, {}, sheet.visualRect(second).center());
    CHECK(inspect.frames().chosen() == inspect.frames().source_row(second));
    const QImage drawn = sheet.viewport()->grab(sheet.visualRect(second)).toImage();
    std::set<QRgb> colours;
    for (int x = 0; x < drawn.width(); x += 3) colours.insert(drawn.pixel(x, drawn.height() / 3));
    CHECK(colours.size() > 5);
    // Arrow keys go along and down; Shift extends.
    QTest::keyClick(&sheet, Qt::Key_Home);
    CHECK(sheet.currentIndex().row() == 0);
    QTest::keyClick(&sheet, Qt::Key_Right);
    CHECK(sheet.currentIndex().row() == 1);
    QTest::keyClick(&sheet, Qt::Key_Down);
    CHECK(sheet.currentIndex().row() == std::min(1 + sheet.columns(), 4));
    QTest::mouseClick(sheet.viewport(), Qt::LeftButton, {}, sheet.visualRect(sheet.model()->index(0, 0)).center());
    sheet.scrollTo(sheet.model()->index(1, 0));
    QTest::mouseClick(sheet.viewport(), Qt::LeftButton, Qt::ShiftModifier,
                      sheet.visualRect(sheet.model()->index(1, 0)).center());
    CHECK(inspect.frames().chosen_rows().size() == 2);
    // In groups every frame stands once, and the order of the keys is the order that is seen.
    auto& groups = app.find<QComboBox>("Groups of Frames");
    groups.setCurrentIndex(static_cast<int>(Grouping::iso));
    emit groups.activated(static_cast<int>(Grouping::iso));
    do {
        QTest::qWait(20);
    } while (sheet.grouping_now());
    const QStringList names = sheet.groups();

    REQUIRE(names.size() >= 2);
    QTest::keyClick(&sheet, Qt::Key_Home);
    std::set<QString> seen{chosen_name(inspect)};
    std::vector<int> isos{inspect.list().chosen()->metadata.iso};
    for (int i = 0; i < 4; ++i) {
        QTest::keyClick(&sheet, Qt::Key_Right);
        seen.insert(chosen_name(inspect));
        isos.push_back(inspect.list().chosen()->metadata.iso);
    }
    CHECK(seen.size() == 5);
    CHECK(std::is_sorted(isos.begin(), isos.end()));
    QStringList sorted;
    for (const int iso : std::set<int>(isos.begin(), isos.end())) sorted << QString("ISO %1").arg(iso);
    CHECK(names == sorted);
    // Words narrow the pictures as they narrow the table.
    QTest::keyClicks(&inspect.list().words(), "SP0002");
    do {
        QTest::qWait(20);
    } while (sheet.grouping_now());
    CHECK(sheet.model()->rowCount() == 1);
    CHECK(sheet.groups().size() == 1);
    app.click("Frames as small pictures");
    CHECK(inspect.frames().isVisible());
}

TEST_CASE("what a person chose for a list is there again in the next window", "[app][pictures]") {
    {
        AppFixture app;
        inspect_with_frames(app);
        app.click("Frames as small pictures");
    }
    AppFixture app;
    InspectPlace& inspect = inspect_with_frames(app);
    CHECK(inspect.list().view().shows_pictures());
    app.click("Frames as small pictures");
}

TEST_CASE("a frame without a picture is told in its place", "[app][pictures]") {
    AppFixture app;
    InspectPlace& inspect = inspect_with_frames(app);
    fs::resize_file(app.path("frames") / "SP0004.dng", 3000);
    inspect.list().view().show_pictures(true);
    const auto find = [&](const FrameRecord& f) {
        return PictureLoader::here().find({f.path.path(), f.size, f.modified, 0},
                                          ScreenService::here().colours(&inspect));
    };
    for (const FrameRecord& f : app.session().frames().all()) find(f);
    read_all(app);
    for (const FrameRecord& f : app.session().frames().all()) {
        const auto found = find(f);
        CHECK(found.problem.isEmpty() == (f.path.filename() != "SP0004.dng"));
        CHECK(found.picture.isNull() == (f.path.filename() == "SP0004.dng"));
    }
}

TEST_CASE("keys go to the next and previous frame, of the same body, and to what waits", "[app][inspect][pictures]") {
    AppFixture app;
    InspectPlace& inspect = inspect_with_frames(app);
    inspect.frames().setFocus();
    inspect.frames().choose(0);
    const auto press = [&](Qt::Key key, Qt::KeyboardModifiers more = {}) {
        QTest::keyClick(&inspect.frames(), key, Qt::ControlModifier | more);
        QApplication::processEvents();
        return inspect.frames().chosen();
    };
    CHECK(press(Qt::Key_Down) == 1);
    CHECK(press(Qt::Key_Down) == 2);
    CHECK(press(Qt::Key_Up) == 1);
    CHECK(press(Qt::Key_Up) == 0);
    CHECK(press(Qt::Key_Up) == 0);
    CHECK(app.window().message().contains("first frame"));
    // Every frame is untouched, so each waits; exempt ones do not.
    CHECK(press(Qt::Key_Down, Qt::AltModifier) == 1);
    app.click("Bare");
    app.settle();
    CHECK(press(Qt::Key_Up) == 0);
    CHECK(press(Qt::Key_Down, Qt::AltModifier) == 2);
    const auto body = [&] { return inspect.list().chosen()->metadata->body_serial; };
    inspect.frames().choose(0);
    const std::string first = body();
    while (true) {
        const int before = inspect.frames().chosen();
        if (press(Qt::Key_Down, Qt::ShiftModifier) == before) break;
        CHECK(body() == first);
    }
    CHECK(app.window().message().contains("this body"));
}

TEST_CASE("the picture in a window of its own follows the chosen frame", "[app][inspect][pictures][x]") {
    AppFixture app;
    InspectPlace& inspect = inspect_with_frames(app);
    inspect.frames().choose(0);
    app.settle();
    app.click("Own window");
    app.settle();
    PictureWindow* window = inspect.picture_window();
    REQUIRE(window);
    REQUIRE(window->isVisible());
    CHECK(window->isWindow());
    CHECK(window->windowTitle().contains(chosen_name(inspect)));
    const auto shown = [&] { return window->view().grab().toImage(); };
    const QImage before = shown();
    QTest::keyClick(window, Qt::Key_Down, Qt::ControlModifier);
    for (int i = 0; i < 4; ++i) {
        QTest::keyClick(window, Qt::Key_Down, Qt::ControlModifier);
        app.settle();
    }
    CHECK(inspect.frames().chosen() == 4);
    CHECK(window->windowTitle().contains(chosen_name(inspect)));
    CHECK(shown() != before);
    QTest::keyClick(window, Qt::Key_F11);
    CHECK(window->isFullScreen());
    QTest::keyClick(window, Qt::Key_Escape);
    CHECK_FALSE(window->isFullScreen());
    QTest::keyClick(window, Qt::Key_Escape);
    QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    CHECK_FALSE(inspect.picture_window());
}

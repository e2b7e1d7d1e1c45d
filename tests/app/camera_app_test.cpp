// SPDX-License-Identifier: GPL-3.0-or-later
// A camera on a cable, followed from the window.
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QTabWidget>

#include "app_fixture.h"
#include "base/files.h"
#include "inspect/inspect_place.h"
#include "intake/intake_place.h"
#include "rollout/sheet.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct Cable {
    Cable() {
        app.add_frames({"SP0007"});
        app.publish_baseline();
        fs::create_directories(app.path("camera") / "DCIM");
        fs::create_directories(app.path("job"));
        shoot("SP0001", "OLD1");
        app.at<IntakePlace>(theme::Place::intake);
        app.find<QTabWidget>("Ways in").setCurrentIndex(1);
        app.session().cameras().add_folder(app.path("camera"));
        app.settle();
    }
    void shoot(const char* frame, const char* name) {
        fs::copy_file(rig_frame(frame), app.path("camera") / "DCIM" / (std::string(name) + ".dng"));
    }
    template <class Holds>
    void wait_for(const Holds& holds) {
        QElapsedTimer timer;
        timer.start();
        while (!holds() && timer.elapsed() < 60000) QTest::qWait(20);
        app.settle();
        REQUIRE(holds());
    }
    theme::Place shown() { return static_cast<theme::Place>(app.find<QListWidget>("Places").currentRow()); }
    QString state() { return app.find<QLabel>("State of the camera").text(); }
    void follow() {
        auto& into = app.find<QLineEdit>("Into");
        into.clear();
        QTest::keyClicks(&into, QString::fromStdString(app.path("job").string()));
        app.click("Follow");
        wait_for([&] { return state().startsWith("Following"); });
        QTest::qWait(300);  // it has looked what is there
    }
    AppFixture app;
};

}  // namespace

TEST_CASE("a frame that is taken on the cable stands in Inspect with its baseline and the set on top", "[app][cable]") {
    Cable s;
    CHECK(s.app.find<QComboBox>("Camera").currentText().endsWith("folder camera"));
    CHECK_FALSE(s.app.find<QPushButton>("Follow").isEnabled());  // it has no folder yet
    s.app.click("What is on it");
    s.app.settle();
    REQUIRE(s.app.find<Table>("Files on the camera").row_count() == 1);
    CHECK(AppFixture::text(s.app.find<Table>("Files on the camera"), 0, 0) == "OLD1.dng");
    s.app.find<QComboBox>("Frames get").setCurrentText("baseline + set Evening");
    s.follow();
    CHECK_FALSE(s.app.find<QLineEdit>("Into").isEnabled());
    CHECK_FALSE(s.app.find<QPushButton>("Release").isEnabled());
    s.shoot("SP0002", "NEW1");
    const fs::path frame = s.app.path("job") / "NEW1.dng";
    s.wait_for([&] { return s.shown() == theme::Place::inspect; });
    auto& frames = static_cast<InspectPlace&>(*s.app.window().place(theme::Place::inspect)).frames();
    REQUIRE(frames.chosen() >= 0);
    CHECK(AppFixture::text(frames, frames.chosen(), 0) == "NEW1.dng");
    CHECK(read_sheet(frame).baseline.at(Field::sharpening_amount).number == 30);
    CHECK(read_sheet(frame).set.at(Field::exposure).number == 0.4);
    CHECK_FALSE(fs::exists(s.app.path("job") / "OLD1.dng"));
    s.app.at<IntakePlace>(theme::Place::intake);
    CHECK(AppFixture::text(s.app.find<Table>("Arrivals"), 0, 1) == "cable");
    CHECK(s.state().endsWith("1 frame came."));
}

TEST_CASE("a cable that is pulled in the middle is told, and following goes on when it is back", "[app][cable]") {
    Cable s;
    s.app.find<QCheckBox>("show each new frame in Inspect").setChecked(false);
    s.follow();
    fs::rename(s.app.path("camera"), s.app.path("pulled"));
    s.wait_for([&] { return s.state().startsWith("Waiting for"); });
    fs::rename(s.app.path("pulled"), s.app.path("camera"));
    s.shoot("SP0002", "NEW1");
    s.wait_for([&] { return s.state().endsWith("1 frame came."); });
    CHECK(s.state().startsWith("Following"));
    CHECK(s.shown() == theme::Place::intake);
    s.app.click("Stop following");
    s.wait_for([&] { return !s.app.session().cameras().following(); });
    CHECK(s.app.find<QLineEdit>("Into").isEnabled());
    // What is taken now stays on the camera.
    s.shoot("SP0004", "NEW2");
    QTest::qWait(500);
    CHECK_FALSE(fs::exists(s.app.path("job") / "NEW2.dng"));
}

TEST_CASE("a folder that is mistyped ends the following with a sentence, and can be mended", "[app][cable]") {
    Cable s;
    s.app.find<QLineEdit>("Into").setText("/nowhere/at/all");
    s.app.click("Follow");
    s.wait_for([&] { return !s.app.session().cameras().following(); });
    CHECK(s.state().startsWith("Not following. /nowhere/at/all is no folder"));
    s.follow();
}

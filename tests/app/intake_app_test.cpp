// SPDX-License-Identifier: GPL-3.0-or-later
// The Intake place: folders that are watched, cards, and what arrived.
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QTimeEdit>

#include "app_fixture.h"
#include "base/files.h"
#include "dialogs.h"
#include "intake/folder_dialog.h"
#include "intake/intake_place.h"
#include "rollout/sheet.h"
#include "studio/intake/watching.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct Intake {
    Intake() {
        app.add_frames({"SP0007"});
        app.publish_baseline();
        fs::create_directories(app.path("in"));
        place = &app.at<IntakePlace>(theme::Place::intake);
    }
    /// Watches the folder by the dialog, which `fill` fills in.
    void watch(const std::function<void(FolderDialog&)>& fill) {
        on_dialog([&](QDialog& dialog) {
            auto& d = static_cast<FolderDialog&>(dialog);
            fill(d);
            QTest::mouseClick(taking_button(d), Qt::LeftButton);
        });
        app.click("Watch a folder…");
        app.settle();
    }
    static QAbstractButton* taking_button(QDialog& d) {
        for (auto* b : d.findChildren<QAbstractButton*>())
            if (b->text() == "&Watch" || b->text() == "&Keep") return b;
        FAIL("The dialog cannot be answered.");
        return nullptr;
    }
    fs::path arrive(const char* name) {
        const fs::path to = app.path("in") / (std::string(name) + ".dng");
        fs::copy_file(rig_frame(name), to);
        return to;
    }
    /// Waits for a number of rows of what arrived.
    Table& arrivals(int rows) {
        auto& table = app.find<Table>("Arrivals");
        QElapsedTimer timer;
        timer.start();
        while (table.row_count() < rows && timer.elapsed() < 60000) QTest::qWait(20);
        app.settle();
        REQUIRE(table.row_count() == rows);
        return table;
    }
    QString in_folder() const { return QString::fromStdString(app.path("in").string()); }

    AppFixture app;
    IntakePlace* place;
};

}  // namespace

TEST_CASE("a folder is watched by a dialog, and a frame that arrives gets its baseline with the set on top",
          "[app][intake]") {
    Intake s;
    s.watch([&](FolderDialog& d) {
        child<QLineEdit>(d, "Folder").setText(s.in_folder());
        child<QComboBox>(d, "Set on top").setCurrentText("Evening");
    });
    REQUIRE(s.app.store().intake().folders().size() == 1);
    CHECK(s.app.store().intake().folders()[0].set == "Evening");
    CHECK(s.app.find<QLabel>("State of the watching").text().startsWith("Watching 1 folder"));
    const fs::path frame = s.arrive("SP0001");
    Table& table = s.arrivals(1);
    CHECK(AppFixture::text(table, 0, 2) == "SP0001.dng");
    CHECK(AppFixture::text(table, 0, 4) == "✓ baseline 1, set Evening");
    CHECK(read_sheet(frame).baseline.at(Field::sharpening_amount).number == 30);
    CHECK(read_sheet(frame).set.at(Field::exposure).number == 0.4);
    CHECK(s.app.session().frames().all().size() == 2);
    // The same by another window or program is refused as long as this one watches.
    CHECK_FALSE(intake_claim(s.app.session().source()));
    // Stopped, nothing is touched; gone on with, what arrived meanwhile is taken in.
    s.app.click("Stop");
    CHECK(intake_claim(s.app.session().source()));
    const fs::path later = s.arrive("SP0002");
    QTest::qWait(300);
    CHECK_FALSE(read_sidecar(later));
    s.app.click("Go on");
    s.arrivals(2);
    CHECK(read_sidecar(later));
}

TEST_CASE("what another station says of folders holds here too, and a window takes over from one that is closed",
          "[app][intake]") {
    Intake s;
    auto first = std::make_unique<Session>(s.app.session().source().address());
    IntakeFolder folder;
    folder.folder = s.app.path("in");
    first->intake().put(folder);
    REQUIRE(first->intake().watching());
    s.app.session().look_for_changes();
    CHECK(s.app.find<Table>("Watched folders").row_count() == 1);
    CHECK(s.app.find<QLabel>("State of the watching").text() ==
          "Not watching. Another program or station watches these folders.");
    first.reset();
    QElapsedTimer timer;
    timer.start();
    while (!s.app.session().intake().watching() && timer.elapsed() < 60000) QTest::qWait(20);
    CHECK(s.app.session().intake().watching());
    s.arrive("SP0001");
    s.arrivals(1);
    // Once it is stopped here, what others change does not start it.
    s.app.click("Stop");
    Store other(s.app.address(), Access::write);
    folder.raw_only = true;
    other.intake().put(folder);
    s.app.session().look_for_changes();
    CHECK_FALSE(s.app.session().intake().watching());
    CHECK(s.app.find<Table>("Watched folders").row_count() == 1);
    CHECK(AppFixture::text(s.app.find<Table>("Watched folders"), 0, 1) == "baseline; rendered pictures wait");
}

TEST_CASE("frames that wait for a person get their baseline by a click, and it can be taken back", "[app][intake]") {
    Intake s;
    s.watch([&](FolderDialog& d) {
        child<QLineEdit>(d, "Folder").setText(s.in_folder());
        child<QComboBox>(d, "New frames").setCurrentIndex(1);
        CHECK_FALSE(child<QComboBox>(d, "Set on top").isEnabled());
    });
    const fs::path frame = s.arrive("SP0001");
    Table& table = s.arrivals(1);
    CHECK(AppFixture::text(table, 0, 4).startsWith("! waits: "));
    CHECK_FALSE(read_sidecar(frame));
    table.choose(0);
    s.app.click("Give baseline");
    s.app.settle();
    CHECK(read_sidecar(frame));
    CHECK(s.app.store().rollouts().list().front().scope == "SP0001.dng");
    s.app.find<QComboBox>("Arrivals").setCurrentIndex(2);
    CHECK(table.row_count() == 0);
}

TEST_CASE("hours, and what is off, are kept, and a folder within another is refused and the dialog stays",
          "[app][intake]") {
    Intake s;
    s.watch([&](FolderDialog& d) {
        child<QLineEdit>(d, "Folder").setText(s.in_folder());
        for (auto* box : d.findChildren<QCheckBox*>())
            if (box->text() == "only at") box->setChecked(true);
        child<QTimeEdit>(d, "Hours from").setTime({21, 0});
        child<QTimeEdit>(d, "Hours to").setTime({5, 30});
    });
    CHECK(to_string(s.app.store().intake().folders()[0].hours) == "21:00-05:30");
    fs::create_directories(s.app.path("in/deep"));
    on_dialog([&](QDialog& d) {
        child<QLineEdit>(d, "Folder").setText(s.in_folder() + "/deep");
        QTest::mouseClick(Intake::taking_button(d), Qt::LeftButton);
        CHECK(d.isVisible());
        d.reject();
    });
    s.app.click("Watch a folder…");
    CHECK(s.app.store().intake().folders().size() == 1);
    s.app.find<Table>("Watched folders").choose(0);
    on_dialog([&](QDialog& d) {
        for (auto* box : d.findChildren<QCheckBox*>())
            if (box->text() == "watch it") box->setChecked(false);
        QTest::mouseClick(Intake::taking_button(d), Qt::LeftButton);
    });
    s.app.click("Change…");
    CHECK_FALSE(s.app.store().intake().folders()[0].on);
    CHECK(s.app.find<QLabel>("State of the watching").text() == "No folder is watched.");
    s.app.find<Table>("Watched folders").choose(0);
    s.app.click("Remove");
    CHECK(s.app.store().intake().folders().empty());
}

TEST_CASE("a card is looked at, copied with its baseline, and doubles are told", "[app][intake]") {
    Intake s;
    fs::create_directories(s.app.path("card/DCIM"));
    for (const char* name : {"SP0001", "SP0002"})
        fs::copy_file(rig_frame(name), s.app.path("card/DCIM") / (std::string(name) + ".dng"));
    s.place->card().set_folders(QString::fromStdString(s.app.path("card").string()),
                                QString::fromStdString(s.app.path("shoot").string()));
    fs::create_directories(s.app.path("shoot"));
    s.app.click("Preview");
    s.app.settle();
    CHECK(s.app.find<QLabel>("Card in short").text() == "2 would be copied.");
    CHECK(fs::is_empty(s.app.path("shoot")));
    s.app.click("Copy card");
    s.app.settle();
    CHECK(s.app.find<QLabel>("Card in short").text() == "2 copied and compared.");
    CHECK(read_sidecar(s.app.path("shoot/SP0001.dng")));
    CHECK(AppFixture::text(s.arrivals(2), 0, 1) == "card");
    s.app.click("Copy card");
    s.app.settle();
    CHECK(s.app.find<QLabel>("Card in short").text() == "0 copied and compared, 2 there already.");
}

// SPDX-License-Identifier: GPL-3.0-or-later
// The real window on a store of its own, driven by mouse and keyboard events.
#pragma once

#include <QAbstractButton>
#include <QApplication>
#include <QElapsedTimer>
#include <QTimer>
#include <QtTest/QTest>
#include <catch2/catch.hpp>

#include "dialogs.h"
#include "fleet/fleet_place.h"
#include "fleet/identities_panel.h"
#include "jobs.h"
#include "main_window.h"
#include "session/session.h"
#include "support/store_place.h"
#include "support/support.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel::test {

class AppFixture {
public:
    AppFixture()
        : session_(std::make_unique<Session>(place_.address(), Access::begin)),
          window_(std::make_unique<MainWindow>(*session_)) {
        // Tests say when: a busy machine would let a look in between any two steps.
        session_->findChild<QTimer*>("look at other stations")->stop();
        if (auto* hear = session_->findChild<QTimer*>("hear other stations")) hear->blockSignals(true);
        window_->resize(1280, 800);
        window_->show();
        QApplication::processEvents();
    }

    Session& session() { return *session_; }
    const std::string& address() const { return place_.address(); }
    /// The store by a handle of the test's own, as another station has one.
    Store& store() {
        if (!store_) store_ = std::make_unique<Store>(place_.address());
        return *store_;
    }
    MainWindow& window() { return *window_; }
    fs::path path(const std::string& name) const { return folder_ / name; }

    /// Copies rig frames into a folder, lets the session index them, and accepts what they report of bodies and lenses.
    void add_frames(std::initializer_list<const char*> names, bool registered = true) {
        fs::create_directories(path("frames"));
        for (const char* name : names) fs::copy_file(rig_frame(name), path("frames") / (std::string(name) + ".dng"));
        session_->frames().add_folder(QString::fromStdString(path("frames").string()));
        settle();
        REQUIRE(session_->frames().all().size() == names.size());
        if (registered) {
            at<FleetPlace>(theme::Place::fleet).identities().accept_all();
            settle();
        }
    }

    /// Sharpening of 30 for the whole studio, and a set "Evening" that exposes 0.4 EV more.
    void publish_baseline() {
        Revision draft = store().baselines().draft();
        const Revision base = draft;
        Tier studio;
        studio.id = studio.name = "studio";
        if (!draft.tiers.empty()) studio = draft.tiers.front();
        studio.pins[Field::sharpening_amount] = Pin::constant({30, ""});
        draft.tiers = {studio};
        draft.sets = {{"Evening", "", {}, {{Field::exposure, Pin::constant({0.4, ""})}}}};
        store().baselines().edit_draft(base, draft);
        store().baselines().publish("T. Ester", "");
        session_->look_for_changes();
        settle();
    }

    /// Lets the application work until nothing is under way. The limit only keeps a hanging test from hanging for ever.
    void settle() {
        QElapsedTimer timer;
        timer.start();
        int calm = 0;
        while (calm < 4) {
            QApplication::processEvents(QEventLoop::AllEvents, 20);
            QThread::msleep(5);
            calm = session_->jobs().active() ? 0 : calm + 1;
            REQUIRE(timer.elapsed() < 240000);
        }
    }

    template <class T>
    T& at(theme::Place place) {
        window_->go_to(place);
        QApplication::processEvents();
        return *static_cast<T*>(window_->place(place));
    }

    /// The widget with an accessible name, in the place that is shown or in the window.
    template <class T>
    T& find(const QString& name) {
        for (T* w : window_->findChildren<T*>())
            if (known_as(*w) == name && w->isVisible()) return *w;
        FAIL("There is no visible widget named " << name.toStdString());
        std::abort();
    }

    void click(const QString& button) {
        auto& b = find<QAbstractButton>(button);
        REQUIRE(b.isEnabled());
        QTest::mouseClick(&b, Qt::LeftButton);
        QApplication::processEvents();
    }

    /// Clicks a button that asks first, settles with `decide` what the dialog leaves open, and goes on.
    void click_and_go_on(const QString& button, const std::function<void(QDialog&)>& decide = {}) {
        answer([&] { click(button); }, decide);
    }
    /// The same for anything else that asks first.
    void answer(const std::function<void()>& ask, const std::function<void(QDialog&)>& decide = {}) {
        on_dialog([decide](QDialog& dialog) {
            if (decide) decide(dialog);
            go_on(dialog);
        });
        ask();
        while (QApplication::activeModalWidget()) QApplication::processEvents(QEventLoop::AllEvents, 20);
        settle();
    }

    /// Clicks on the tab with a title, mnemonics aside.
    void open_tab(const QString& tabs, const QString& title) {
        auto* bar = find<QTabWidget>(tabs).tabBar();
        for (int i = 0; i < bar->count(); ++i)
            if (bar->tabText(i).remove('&') == title) {
                QTest::mouseClick(bar, Qt::LeftButton, {}, bar->tabRect(i).center());
                QApplication::processEvents();
                return;
            }
        FAIL("There is no tab " << title.toStdString());
    }

    /// A key pressed in the window. Without a window manager nobody gives the window its focus back after a dialog.
    void press(Qt::Key key, Qt::KeyboardModifiers modifiers) {
        window_->activateWindow();
        QApplication::processEvents();
        QTest::keyClick(window_.get(), key, modifiers);
        QApplication::processEvents();
    }

    /// The left button is pressed at one place of a widget, and let go at another.
    void drag(QWidget& widget, const QPointF& from, const QPointF& to) {
        QTest::mousePress(&widget, Qt::LeftButton, {}, from.toPoint());
        QMouseEvent move(QEvent::MouseMove, to, widget.mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&widget, &move);
        QTest::mouseRelease(&widget, Qt::LeftButton, {}, to.toPoint());
        QApplication::processEvents();
    }

    void click_cell(Table& table, int row, int column) {
        QTest::mouseClick(table.viewport(), Qt::LeftButton, {}, table.middle_of(row, column));
        QApplication::processEvents();
    }

    /// Edits a cell as a person does: double click, type over it, Enter.
    void type_into(Table& table, int row, int column, const QString& text) {
        table.scrollTo(table.model()->index(row, column));
        click_cell(table, row, column);
        QTest::mouseDClick(table.viewport(), Qt::LeftButton, {}, table.middle_of(row, column));
        QApplication::processEvents();
        auto* editor = table.viewport()->findChild<QLineEdit*>();
        REQUIRE(editor != nullptr);
        editor->selectAll();
        QTest::keyClicks(editor, text);
        if (text.isEmpty()) QTest::keyClick(editor, Qt::Key_Delete);
        QTest::keyClick(editor, Qt::Key_Return);
        QApplication::processEvents();
        // Outside an event loop Qt keeps what should be deleted later, so a closed editor would be found again.
        QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    }

    static QString text(Table& table, int row, int column) { return table.rows_model().cell(row, column).text; }

    static int row_of(Table& table, const QString& first) {
        for (int r = 0; r < table.row_count(); ++r)
            if (text(table, r, 0) == first) return r;
        return -1;
    }

private:
    /// A part of the suite runs once more on a server.
    static std::string engine() {
        const char* asked = std::getenv("OPTREL_TEST_ENGINE");
        return asked ? asked : "folder";
    }

    TemporaryFolder folder_;
    StorePlace place_{engine()};
    std::unique_ptr<Store> store_;
    std::unique_ptr<Session> session_;
    std::unique_ptr<MainWindow> window_;
};

}  // namespace optrel::test

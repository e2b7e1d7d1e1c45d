// SPDX-License-Identifier: GPL-3.0-or-later
// The Exports place: deliveries, what they will write, and the queue.
#include <QComboBox>
#include <QDropEvent>
#include <QLineEdit>
#include <QMessageBox>
#include <QMimeData>
#include <QSpinBox>

#include "app_fixture.h"
#include "base/files.h"
#include "dialogs.h"
#include "exports/exports_place.h"
#include "films/film_writer.h"
#include "inspect/inspect_place.h"
#include "studio/exports/exporting.h"
#include "support/colour_files.h"
#include "support/pictures.h"
#include "support/sample_profile.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct Exports {
    explicit Exports(std::initializer_list<const char*> frames) {
        app.add_frames(frames);
        place = &app.at<ExportsPlace>(theme::Place::exports);
        app.settle();
        place->set_folder(QString::fromStdString(app.path("out").string()));
        app.find<Table>("Frames").choose(0);
        app.find<Table>("Deliveries").choose(row_of_delivery("Review"));
    }
    int row_of_delivery(const QString& name) {
        auto& table = app.find<Table>("Deliveries");
        for (int row = 0; row < table.row_count(); ++row)
            if (AppFixture::text(table, row, 0) == name) return row;
        FAIL("There is no delivery " << name.toStdString());
        return -1;
    }
    /// The line of the preview, once it is worked out.
    QString line(const QString& what, const QString& part) {
        QElapsedTimer timer;
        timer.start();
        QString last;
        while (timer.elapsed() < 20000) {
            QTest::qWait(30);
            app.settle();
            auto& table = app.find<Table>("What is written");
            for (int row = 0; row < table.row_count(); ++row)
                if (AppFixture::text(table, row, 0) == what) last = AppFixture::text(table, row, 1);
            if (last.contains(part)) return last;
        }
        return last;
    }
    /// Drops a file on the window.
    void drop(const fs::path& path) {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(QString::fromStdString(path.string()))});
        QDropEvent event(QPointF(400, 400), Qt::CopyAction, &data, Qt::LeftButton, {});
        QDragEnterEvent enter(QPoint(400, 400), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(&app.window(), &enter);
        CHECK(enter.isAccepted());
        QApplication::sendEvent(&app.window(), &event);
        app.settle();
    }
    QString state(int row) { return AppFixture::text(app.find<Table>("Queue of exports"), row, 2); }
    QString said() { return app.find<QLabel>("Queue in short").text(); }

    AppFixture app;
    ExportsPlace* place;
};

}  // namespace

TEST_CASE("what a delivery writes is readable whole, from the first frame on", "[app][exports]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    app.at<ExportsPlace>(theme::Place::exports).show_something();
    auto& table = app.find<Table>("What is written");
    QElapsedTimer timer;
    timer.start();
    while (table.row_count() < 4 && timer.elapsed() < 20000) {
        QTest::qWait(30);
        app.settle();
    }
    int long_ones = 0;
    for (int row = 0; row < table.row_count(); ++row) {
        const int width = table.columnWidth(1) - 12;
        const QString text = AppFixture::text(table, row, 1);
        long_ones += table.fontMetrics().horizontalAdvance(text) > width;
        CAPTURE(text.toStdString());
        CHECK(table.rowHeight(row) >=
              table.fontMetrics().boundingRect(QRect(0, 0, width, 1000), Qt::TextWordWrap, text).height());
    }
    CHECK(long_ones > 0);
}

TEST_CASE("a delivery shows what it will write, and the queue writes it", "[app][exports]") {
    Exports e({"SP0001", "SP0002", "SP0004"});
    CHECK(e.line("File", "SP0001.jpg") == "SP0001.jpg");
    CHECK(e.line("Size", "2400").startsWith("2400 × 15"));
    CHECK(e.line("Stays behind", "place").contains("serial numbers"));
    // The delivery is changed, and so is what is told of it.
    auto& longest = e.app.find<QSpinBox>("Longest side");
    longest.setFocus();
    longest.selectAll();
    QTest::keyClicks(&longest, "600");
    QTest::keyClick(&longest, Qt::Key_Return);
    CHECK(e.line("Size", "600").startsWith("600 × "));
    auto& name = e.app.find<QLineEdit>("File name");
    name.setFocus();
    name.selectAll();
    QTest::keyClicks(&name, "{model}/{nmae}");
    CHECK(e.line("", "nmae").contains("{nmae}"));
    name.selectAll();
    QTest::keyClicks(&name, "{iso}/{name}");
    CHECK(e.line("File", "/SP0001.jpg").endsWith("/SP0001.jpg"));
    // One of three cannot be read by then.
    write_atomic(e.app.path("frames") / "SP0002.dng", "no picture any more");
    e.app.click("Queue all listed");
    e.app.settle();
    REQUIRE(e.app.find<Table>("Queue of exports").row_count() == 3);
    CHECK(e.state(0) == "✓ exported");
    CHECK(e.state(1) == "✕ failed");
    CHECK(e.state(2) == "✓ exported");
    CHECK(e.said() == "2 of 3 exported, 1 failed.");
    int written = 0;
    for (const auto& entry : fs::recursive_directory_iterator(e.app.path("out")))
        if (entry.is_regular_file()) {
            ++written;
            CHECK(read_picture(entry.path()).cols == 600);
        }
    CHECK(written == 2);
    // Mended, it is tried again; what is done can be cleared.
    fs::copy_file(rig_frame("SP0002"), e.app.path("frames") / "SP0002.dng", fs::copy_options::overwrite_existing);
    e.app.click("Try failed again");
    e.app.settle();
    CHECK(e.said() == "3 of 3 exported.");
    e.app.click("Clear exported");
    e.app.settle();
    CHECK(e.app.find<Table>("Queue of exports").row_count() == 0);
}

TEST_CASE("a delivery of one's own is kept, takes the place of a shipped one, and goes", "[app][exports]") {
    const int shipped = static_cast<int>(shipped_deliveries().size());
    Exports e({"SP0001"});
    auto& format = e.app.find<QComboBox>("Writes");
    CHECK(format.currentText() == "JPEG");
    auto& name = e.app.find<QLineEdit>("Delivery name");
    name.setFocus();
    name.selectAll();
    QTest::keyClicks(&name, "Catalogue");
    e.app.click("Save delivery");
    e.app.settle();
    CHECK(e.app.find<Table>("Deliveries").row_count() == shipped + 1);
    CHECK(e.app.store().deliveries().own("catalogue"));
    CHECK(e.line("Form", "JPEG").contains("2400"));
    e.app.click("Delete");
    e.app.settle();
    CHECK(e.app.find<Table>("Deliveries").row_count() == shipped);
    // A raw copy has other things to say.
    e.app.find<Table>("Deliveries").choose(e.row_of_delivery("Raw copy"));
    CHECK(e.app.find<QComboBox>("Geometry").currentText() == "optional");
    CHECK(e.line("File", "SP0001.dng") == "SP0001.dng");
    name.setFocus();
    name.selectAll();
    QTest::keyClick(&name, Qt::Key_Delete);
    e.app.click("Save delivery");
    CHECK(e.app.window().message().contains("needs a name"));
}

TEST_CASE("Inspect leads to Exports with its frame", "[app][exports]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    inspect.frames().choose(1);
    app.settle();
    app.click("Export…");
    app.settle();
    CHECK(app.find<Table>("Frames").chosen() == 1);
    app.find<QLineEdit>("Folder of the export").setText("relative");
    app.click("Queue chosen");
    CHECK(app.window().message().contains("from the root"));
}

TEST_CASE("what is dropped on the window goes where its kind is taken in", "[app][exports]") {
    Exports e({"SP0001"});
    Delivery delivery = shipped_deliveries()[1];
    delivery.name = "From the archive";
    write_atomic(e.app.path("r.json"), delivery_to_json(delivery));
    write_atomic(e.app.path("x.json"), "{}");
    write_atomic(e.app.path("notes.txt"), "notes");
    e.app.window().go_to(theme::Place::fleet);
    e.drop(e.app.path("r.json"));
    INFO(e.app.window().message().toStdString());
    CHECK(e.app.find<QLineEdit>("Delivery name").text() == "From the archive");
    CHECK(e.app.window().message().contains("Save delivery keeps it"));
    CHECK_FALSE(e.app.store().deliveries().own(delivery.name));
    e.app.click("Save delivery");
    CHECK(e.app.store().deliveries().own(delivery.name));
    e.drop(e.app.path("notes.txt"));
    CHECK(e.app.window().message().contains("none of what can be dropped"));
    e.drop(e.app.path("x.json"));
    CHECK(e.app.window().message().contains("x.json"));
    fs::create_directories(e.app.path("more"));
    fs::copy_file(rig_frame("SP0002"), e.app.path("more") / "SP0002.dng");
    e.drop(e.app.path("more"));
    CHECK(e.app.session().frames().all().size() == 2);
}

TEST_CASE("a colour file that is dropped is shown with what it changes, kept, and named in a field",
          "[app][exports][colour]") {
    Exports e({"SP0001", "SP0002"});
    write_atomic(e.app.path("room.colours"), two_lights().bytes());
    QString told;
    const auto answer = [&](const QString& with) {
        on_dialog([&told, &e, with](QDialog& dialog) {
            QElapsedTimer timer;
            timer.start();
            const auto* moved = [&] {
                for (auto* label : dialog.findChildren<QLabel*>())
                    if (known_as(*label) == "How colours move") return label;
                return static_cast<QLabel*>(nullptr);
            }();
            while (moved && moved->text().startsWith("Comparing") && timer.elapsed() < 20000) QTest::qWait(20);
            told.clear();
            for (auto* label : dialog.findChildren<QLabel*>()) told += label->text() + "\n";
            for (auto* b : dialog.findChildren<QPushButton*>())
                if (b->text().contains(with)) return b->click();
            dialog.reject();
        });
        e.drop(e.app.path("room.colours"));
    };
    answer("Cancel");
    CHECK(told.contains("two lights"));
    CHECK(told.contains("CIELAB"));
    CHECK(e.app.store().colours().all().empty());
    answer("Keep");
    REQUIRE(e.app.store().colours().all().size() == 1);
    CHECK(e.app.window().message().contains("Fernwick room is kept"));
    auto& kept = e.app.find<Table>("Colour files");
    CHECK(kept.row_count() == 1);
    CHECK(AppFixture::text(kept, 0, 0) == "Fernwick room");
    answer("Cancel");
    CHECK(told.contains("it is kept already"));
}

TEST_CASE("sets and registers that are dropped say what they change before they are taken in", "[app][exports]") {
    Exports e({"SP0001"});
    PinSet set;
    set.name = "North light";
    set.pins[Field::exposure] = Pin::constant({0.5, ""});
    write_atomic(e.app.path("sets.json"), sets_to_json({set}));
    write_atomic(e.app.path("bodies.csv"), "maker,model,serial_number,name\r\nQuenby,Quenby Q9,77,Ninth\r\n");
    QString asked;
    const auto answered = [&](QMessageBox::StandardButton with, const char* file) {
        on_dialog([&asked, with](QDialog& dialog) {
            auto& box = *qobject_cast<QMessageBox*>(&dialog);
            asked = box.text();
            box.button(with)->click();
        });
        e.drop(e.app.path(file));
    };
    answered(QMessageBox::Cancel, "sets.json");
    CHECK(asked.contains("North light: 1 pin, new"));
    CHECK(e.app.session().baselines().draft().sets.empty());
    answered(QMessageBox::Ok, "sets.json");
    REQUIRE(e.app.session().baselines().draft().sets.size() == 1);
    e.drop(e.app.path("sets.json"));
    CHECK(e.app.window().message().contains("already"));
    const std::size_t bodies = e.app.session().entries().bodies().size();
    on_dialog([](QDialog& dialog) { dialog.reject(); });
    e.drop(e.app.path("bodies.csv"));
    while (QApplication::activeModalWidget()) QApplication::processEvents(QEventLoop::AllEvents, 20);
    CHECK(e.app.session().entries().bodies().size() == bodies);
    e.app.answer([&] { e.drop(e.app.path("bodies.csv")); },
                 [](QDialog& dialog) {
                     bool counted = false;
                     for (auto* label : dialog.findChildren<QLabel*>())
                         counted = counted || label->text().contains("1 added, 0 changed, 0 the same");
                     CHECK(counted);
                 });
    CHECK(e.app.session().entries().bodies().size() == bodies + 1);
    e.drop(e.app.path("bodies.csv"));
    CHECK(e.app.window().message().contains("already"));
}

TEST_CASE("a picture that is dropped tells what was done to it, and what has changed since",
          "[app][exports][account]") {
    Exports e({"SP0001", "SP0002"});
    const fs::path frame = e.app.path("frames") / "SP0001.dng";
    export_frame(frame, development_from_store(e.app.store(), frame), shipped_deliveries()[2], e.app.path("SP0001.jpg"),
                 Existing::keep, Progress());
    QString account, since;
    on_dialog([&](QDialog& dialog) {
        QElapsedTimer timer;
        timer.start();
        do {
            QTest::qWait(20);
            for (auto* label : dialog.findChildren<QLabel*>()) {
                if (known_as(*label) == "Account of the picture") account = label->text();
                if (known_as(*label) == "What has changed since") since = label->text();
            }
        } while (since.startsWith("Looking") && timer.elapsed() < 20000);
        dialog.reject();
    });
    e.drop(e.app.path("SP0001.jpg"));
    CHECK(account.contains("from SP0001.dng"));
    CHECK(account.contains("Delivery Review"));
    CHECK(since.contains("Nothing has changed"));
    e.drop(frame);  // it carries no account
    CHECK(e.app.window().message().contains("carries no account"));
}

TEST_CASE("films that are dropped are asked for what they do not say, are queued, and tell what was done to them",
          "[app][exports]") {
    Exports e({"SP0001"});
    Profile lens = sample_profile();
    lens.nodes[0].focal_mm = lens.nodes[0].setting.focal_mm = 20;
    lens.nodes[0].largest_radius_mm = 16;
    const std::string id = e.app.store().profiles().publish(lens).id;
    e.app.session().look_for_changes();
    const fs::path film = e.app.path("shot.mkv");
    {
        const auto writer = begin_film({film, film, FilmCodec::ffv1, "a test", ""}, FilmShape{320, 180, 25});
        Planes grey(cv::Size(320, 180));
        for (cv::Mat1f& c : grey.channel) c.setTo(0.3f);
        for (int i = 0; i < 5; ++i) writer->write(grey, i);
        writer->finish();
    }
    QString missing, pictures;
    on_dialog([&](QDialog& dialog) {
        auto& state = child<QLabel>(dialog, "State of the films");
        QElapsedTimer timer;
        timer.start();
        while (state.text().startsWith("Looking") && timer.elapsed() < 20000) QTest::qWait(20);
        pictures = AppFixture::text(child<Table>(dialog, "Films"), 0, 1);
        QPushButton* queue = nullptr;
        for (auto* b : dialog.findChildren<QPushButton*>())
            if (b->text() == "&Queue") queue = b;
        REQUIRE(queue);
        QTest::mouseClick(queue, Qt::LeftButton);
        missing = state.text();
        auto& profile = child<QComboBox>(dialog, "Lens profile");
        profile.setCurrentIndex(profile.findData(QString::fromStdString(id)));
        for (const auto& [name, value] : {std::pair("Focal length", "20"), {"Recorded width", "23.16"}}) {
            auto& box = child<QDoubleSpinBox>(dialog, name);
            box.setFocus();
            box.selectAll();
            QTest::keyClicks(&box, box.locale().toString(QString(value).toDouble()));
        }
        QTest::mouseClick(queue, Qt::LeftButton);
    });
    e.drop(film);
    CHECK(pictures == "320 × 180 px, 25 a second");
    CHECK(missing.contains("focal length"));
    e.app.settle();
    REQUIRE(e.app.find<Table>("Queue of exports").row_count() == 1);
    QElapsedTimer timer;
    timer.start();
    while (!e.state(0).contains("exported") && !e.state(0).contains("failed") && timer.elapsed() < 60000) {
        QTest::qWait(30);
        e.app.settle();
    }
    INFO(AppFixture::text(e.app.find<Table>("Queue of exports"), 0, 3).toStdString());
    CHECK(e.state(0) == "✓ exported");
    REQUIRE(e.app.store().film_rules().all().size() == 1);
    CHECK(e.app.store().film_rules().all()[0].profile == id);
    // What came of it tells what was done; frames are not taken by a delivery for films.
    QString account;
    on_dialog([&](QDialog& dialog) {
        account = child<QLabel>(dialog, "Account of the picture").text();
        dialog.reject();
    });
    e.drop(e.app.path("out") / "shot.mkv");
    CHECK(account.contains("A film at 20 mm"));
    e.app.find<Table>("Deliveries").choose(e.row_of_delivery("Film to show"));
    CHECK(e.line("But", "films").contains("It is a picture"));
}

TEST_CASE("frames and what was exported can be dragged to other programs", "[app][exports]") {
    Exports e({"SP0001", "SP0002"});
    auto& frames = e.app.find<Table>("Frames");
    e.app.click_cell(frames, 0, 0);
    QTest::mouseClick(frames.viewport(), Qt::LeftButton, Qt::ControlModifier, frames.middle_of(1, 0));
    const auto data = frames.files_to_drag();
    REQUIRE(data);
    REQUIRE(data->urls().size() == 2);
    CHECK(fs::exists(data->urls()[0].toLocalFile().toStdString()));
    CHECK(frames.model()->flags(frames.model()->index(0, 0)).testFlag(Qt::ItemIsDragEnabled));

    // Of the queue, what was written; by both of two deliveries that are chosen at once.
    auto& deliveries = e.app.find<Table>("Deliveries");
    e.app.click_cell(deliveries, e.row_of_delivery("Review"), 0);
    QTest::mouseClick(deliveries.viewport(), Qt::LeftButton, Qt::ControlModifier,
                      deliveries.middle_of(e.row_of_delivery("Measuring"), 0));
    e.app.click("Queue chosen");
    QElapsedTimer timer;
    timer.start();
    auto& queue = e.app.find<Table>("Queue of exports");
    const auto done = [&] {
        for (int row = 0; row < 4; ++row)
            if (!e.state(row).contains("exported")) return false;
        return true;
    };
    while (!(queue.row_count() == 4 && done()) && timer.elapsed() < 60000) {
        QTest::qWait(30);
        e.app.settle();
    }
    REQUIRE(queue.row_count() == 4);
    CHECK(done());
    queue.choose(0);
    const auto written = queue.files_to_drag();
    REQUIRE(written);
    CHECK(fs::exists(written->urls()[0].toLocalFile().toStdString()));
    CHECK(std::distance(fs::directory_iterator(e.app.path("out")), {}) >= 4);
}

TEST_CASE("what waits when the program is closed goes on at its next start", "[app][exports]") {
    AppFixture app;
    app.add_frames({"SP0001", "SP0002"});
    Delivery delivery = shipped_deliveries()[2];
    delivery.longest_side = 300;
    Store& other = app.store();
    other.exports().add(this_station(), {app.path("frames") / "SP0001.dng", app.path("frames") / "SP0002.dng"},
                        delivery, app.path("out"));
    // The first was being written when the program ended.
    QueuedExport begun = *other.exports().next(this_station());
    begun.state = ExportState::writing;
    begun.out = app.path("out") / "SP0001.jpg";
    other.exports().set(begun);
    Session next(app.address());
    QElapsedTimer timer;
    timer.start();
    while (next.exports().count(ExportState::done) < 2 && timer.elapsed() < 60000) QTest::qWait(20);
    CHECK(next.exports().count(ExportState::done) == 2);
    CHECK(read_picture(app.path("out") / "SP0001.jpg").cols == 300);
    CHECK(fs::exists(app.path("out") / "SP0002.jpg"));
}

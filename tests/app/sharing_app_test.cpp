// SPDX-License-Identifier: GPL-3.0-or-later
// Bundles, the profile exchange and whose keys count, in the window.
#include <QCheckBox>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QTreeWidget>

#include "app_fixture.h"
#include "baselines/baselines_place.h"
#include "dialogs.h"
#include "inspect/inspect_place.h"
#include "lenses/lenses_place.h"
#include "optics/profile_kind.h"
#include "sharing/shared_profile.h"
#include "support/running_exchange.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A key of the test's own, and nobody's of who runs the tests.
class OwnConfiguration {
public:
    OwnConfiguration() : before_(qgetenv("XDG_CONFIG_HOME")) {
        qputenv("XDG_CONFIG_HOME", QByteArray::fromStdString(folder_.path().string()));
    }
    ~OwnConfiguration() { qputenv("XDG_CONFIG_HOME", before_); }

private:
    TemporaryFolder folder_;
    QByteArray before_;
};

/// A bundle with a profile and two sets, as another studio packed it.
fs::path bundle_file(const fs::path& file, const SigningKey* key) {
    Bundle b;
    b.title = "Seaweeds";
    b.sender = "Shore Museum";
    b.time = "2026-03-01T00:00:00Z";
    b.parts = {{BundleKind::of(lens_profile_kind()), "p7", "Lumenfold 35mm f/2.8", profile_to_json(measured_lens("7"))},
               {BundleKind::set, "Evening", "Evening", R"({"name":"Evening","pins":{"exposure":"-0.5"}})"},
               {BundleKind::set, "Fronds", "Fronds", R"({"name":"Fronds","pins":{"exposure":"0.3"}})"}};
    write_bundle(file, bundle_bytes(b, key), true);
    return file;
}

void drop(AppFixture& app, const fs::path& file) {
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(QString::fromStdString(file.string()))});
    QDropEvent event(QPointF(100, 100), Qt::CopyAction, &data, Qt::LeftButton, {});
    QDragEnterEvent enter(QPoint(100, 100), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(&app.window(), &enter);
    CHECK(enter.isAccepted());
    QApplication::sendEvent(&app.window(), &event);
    app.settle();
}

QTreeWidgetItem& row_named(QDialog& dialog, const QString& name) {
    auto& parts = child<QTreeWidget>(dialog, "Parts of the bundle");
    const QList<QTreeWidgetItem*> found = parts.findItems(name, Qt::MatchExactly);
    REQUIRE(found.size() == 1);
    return *found[0];
}

QPushButton& answer(QDialog& dialog, const QString& text) {
    for (QPushButton* b : dialog.findChildren<QPushButton*>())
        if (b->text().remove('&') == text) return *b;
    FAIL("no button " << text.toStdString());
    std::abort();
}

/// Chooses an entry of the menu that a button of the place opens.
void choose_of(AppFixture& app, const QString& button, const QString& entry) {
    QMenu* menu = app.find<QPushButton>(button).menu();
    REQUIRE(menu);
    emit menu->aboutToShow();
    for (QAction* a : menu->actions())
        if (a->text().remove('&').startsWith(entry)) {
            REQUIRE(a->isEnabled());
            a->trigger();
            app.settle();
            return;
        }
    FAIL("no entry " << entry.toStdString());
}

}  // namespace

TEST_CASE("a bundle that is dropped shows who stands for it, and takes the chosen parts", "[app][sharing]") {
    const OwnConfiguration own;
    const SigningKey key = SigningKey::make();
    AppFixture app;
    app.publish_baseline();
    on_dialog([&](QDialog& dialog) {
        CHECK(child<QLabel>(dialog, "Where it comes from").text().contains("does not know to trust"));
        CHECK(row_named(dialog, "Evening").text(2).contains("differs"));
        CHECK(row_named(dialog, "Evening").checkState(0) == Qt::Unchecked);
        CHECK(row_named(dialog, "Fronds").checkState(0) == Qt::Checked);
        CHECK(answer(dialog, "Take in").isEnabled());
        // What differs is taken over what is here, or under another name.
        row_named(dialog, "Evening").setCheckState(0, Qt::Checked);
        CHECK_FALSE(answer(dialog, "Take in").isEnabled());
        row_named(dialog, "Evening").setText(0, "Their evening");
        CHECK(answer(dialog, "Take in").isEnabled());
        QTest::mouseClick(&answer(dialog, "Take in"), Qt::LeftButton);
    });
    drop(app, bundle_file(app.path("job.optrel.zip"), &key));
    INFO(app.window().message().toStdString());
    const Revision& draft = app.session().baselines().draft();
    REQUIRE(draft.set("Their evening"));
    CHECK(draft.set("Their evening")->pins.at(Field::exposure) == Pin::constant({-0.5, ""}));
    CHECK(draft.set("Evening")->pins.at(Field::exposure) == Pin::constant({0.4, ""}));
    REQUIRE(draft.set("Fronds"));
    REQUIRE(app.session().profiles().current().size() == 1);
    // Lenses says where it came from.
    app.at<LensesPlace>(theme::Place::lenses);
    auto& figures = app.find<Table>("Figures of the profile");
    const int row = AppFixture::row_of(figures, "Taken in from");
    REQUIRE(row >= 0);
    CHECK(AppFixture::text(figures, row, 1).contains("Shore Museum"));
}

TEST_CASE("a bundle of nobody has to be insisted on, and a damaged one is told", "[app][sharing]") {
    const OwnConfiguration own;
    AppFixture app;
    on_dialog([&](QDialog& dialog) {
        CHECK(child<QLabel>(dialog, "Where it comes from").text().contains("nobody signed"));
        CHECK_FALSE(answer(dialog, "Take in").isEnabled());
        for (QCheckBox* box : dialog.findChildren<QCheckBox*>())
            if (box->text().contains("it is not signed"))
                QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
        CHECK(answer(dialog, "Take in").isEnabled());
        dialog.reject();
    });
    drop(app, bundle_file(app.path("job.optrel.zip"), nullptr));
    CHECK(app.session().profiles().current().empty());
    write_bytes(app.path("bad.optrel.zip"), "PK no");
    drop(app, app.path("bad.optrel.zip"));
    CHECK(app.window().message().contains("no zip file"));
}

TEST_CASE("a bundle in the folder of a job is offered when the folder is opened", "[app][sharing]") {
    const OwnConfiguration own;
    const SigningKey key = SigningKey::make();
    AppFixture app;
    fs::create_directories(app.path("frames"));
    bundle_file(app.path("frames/job.optrel.zip"), &key);
    app.add_frames({"SP0001"});
    CHECK(app.session().sharing().found().size() == 1);
    app.at<PlaceWidget>(theme::Place::attention);
    auto& table = app.find<Table>("What needs attention");
    const auto choose = [&] {
        for (int row = 0; row < table.row_count(); ++row)
            if (AppFixture::text(table, row, 0).contains("A bundle came with a folder")) table.choose(row);
        app.click("Settle");
        app.settle();
    };
    on_dialog([](QDialog& dialog) { QTest::mouseClick(&answer(dialog, "Put aside"), Qt::LeftButton); });
    choose();
    CHECK(app.session().sharing().found().empty());
    // Opened again it is not asked again, but another one in its place is.
    app.session().frames().add_folder(QString::fromStdString(app.path("frames").string()));
    app.settle();
    CHECK(app.session().sharing().found().empty());
    bundle_file(app.path("frames/job.optrel.zip"), nullptr);
    app.session().frames().add_folder(QString::fromStdString(app.path("frames").string()));
    app.settle();
    CHECK(app.session().sharing().found().size() == 1);
}

TEST_CASE("things are packed where they stand, by menu and by dragging", "[app][sharing]") {
    const OwnConfiguration own;
    AppFixture app;
    app.add_frames({"SP0001"});
    app.publish_baseline();
    app.store().profiles().publish(measured_lens("1"));
    app.session().look_for_changes();
    app.settle();
    const auto pack_as = [&](const char* name) {
        on_dialog([&app, name](QDialog& dialog) {
            auto& file = child<QLineEdit>(dialog, "File");
            file.setText(QString::fromStdString(app.path(name).string()));
            child<QLineEdit>(dialog, "Sender").setText("Herbarium");
            QTest::mouseClick(&answer(dialog, "Pack"), Qt::LeftButton);
        });
    };
    const auto contents = [&](const char* name) { return contents_of(read_bundle(app.path(name))); };
    app.at<LensesPlace>(theme::Place::lenses);
    pack_as("lens.optrel.zip");
    choose_of(app, "Share", "Pack this profile");
    CHECK(contents("lens.optrel.zip") == "1 profile");
    CHECK(read_bundle(app.path("lens.optrel.zip")).key == SigningKey::load_or_make(own_key_path()).public_key());
    CHECK(read_bundle(app.path("lens.optrel.zip")).sender == "Herbarium");
    auto& list = app.find<Table>("Profiles");
    list.choose(0);
    const std::unique_ptr<QMimeData> dragged = list.files_to_drag();
    REQUIRE(dragged);
    REQUIRE(dragged->urls().size() == 1);
    CHECK(contents_of(read_bundle(dragged->urls()[0].toLocalFile().toStdString())) == "1 profile");
    app.at<FleetPlace>(theme::Place::fleet).bodies().choose(0);
    const std::unique_ptr<QMimeData> body = app.at<FleetPlace>(theme::Place::fleet).bodies().files_to_drag();
    REQUIRE(body);
    CHECK(contents_of(read_bundle(body->urls()[0].toLocalFile().toStdString())) == "1 model, 1 body");
    pack_as("body.optrel.zip");
    choose_of(app, "Share", "Pack the body");
    CHECK(contents("body.optrel.zip") == "1 model, 1 body");
    app.at<BaselinesPlace>(theme::Place::baselines).tiers().choose(0);
    pack_as("tier");  // the name is made whole
    choose_of(app, "Share", "Pack the tier");
    CHECK(contents("tier.optrel.zip") == "1 tier");
    pack_as("whole.optrel.zip");
    choose_of(app, "Share", "Pack revision 1");
    CHECK(contents("whole.optrel.zip") == "1 baseline");
    app.at<InspectPlace>(theme::Place::inspect).frames().choose(0);
    app.settle();
    pack_as("frames.optrel.zip");
    choose_of(app, "Share", "Pack what the chosen frames need");
    CHECK(contents("frames.optrel.zip").find("1 model, 1 body") == 0);
    CHECK(contents("frames.optrel.zip").find("1 tier") != std::string::npos);
}

TEST_CASE("a lens is searched where it is missed, compared, taken in, and its measurer trusted", "[app][sharing]") {
    const OwnConfiguration own;
    RunningExchange exchange;
    const SigningKey shore = SigningKey::make(), loft = SigningKey::make();
    exchange.shelf().put(offer_of(measured_lens("1"), "Shore Museum", shore).bundle);
    exchange.shelf().put(offer_of(measured_lens("2", 0.004), "", loft).bundle);
    AppFixture app;
    app.add_frames({"SP0001"});
    app.at<PlaceWidget>(theme::Place::attention);
    auto& attention = app.find<Table>("What needs attention");
    for (int row = 0; row < attention.row_count(); ++row)
        if (AppFixture::text(attention, row, 0).contains("No profile fits")) attention.choose(row);
    on_dialog([&](QDialog& dialog) {
        CHECK(child<QLineEdit>(dialog, "Lens").text() == "Lumenfold 35mm f/2.8");
        // Nobody is asked before somebody settles an address and searches.
        CHECK_FALSE(answer(dialog, "Search").isEnabled());
        child<QLineEdit>(dialog, "Address of the exchange").setText(QString::fromStdString(exchange.address()));
        QTest::mouseClick(&answer(dialog, "Settle"), Qt::LeftButton);
        QTest::mouseClick(&answer(dialog, "Search"), Qt::LeftButton);
        app.settle();
        auto& list = child<Table>(dialog, "Profiles at the exchange");
        REQUIRE(list.row_count() == 2);
        CHECK(child<QLabel>(dialog, "How copies differ").text().contains("2 copies of Lumenfold 35mm f/2.8"));
        for (int row = 0; row < 2; ++row)
            if (AppFixture::text(list, row, 1) == "Shore Museum") list.choose(row);
        CHECK(AppFixture::text(list, list.chosen(), 2).contains("stand-in"));
        on_dialog([](QDialog& inner) { QTest::mouseClick(&answer(inner, "Take in"), Qt::LeftButton); });
        QTest::mouseClick(&answer(dialog, "Take in…"), Qt::LeftButton);
        app.settle();
        on_dialog([](QDialog& inner) {
            child<QLineEdit>(inner, "Name").setText("The museum on the shore");
            QTest::mouseClick(&answer(inner, "Keep"), Qt::LeftButton);
        });
        QTest::mouseClick(&answer(dialog, "Trust its measurer…"), Qt::LeftButton);
        app.settle();
        bool trusted = false;
        for (int row = 0; row < 2; ++row) trusted = trusted || AppFixture::text(list, row, 2).contains("same model");
        CHECK(trusted);
        dialog.reject();
    });
    app.click("Search what others measured…");
    app.settle();
    REQUIRE(app.session().profiles().current().size() == 1);
    CHECK(app.session().profiles().current()[0].taken_in->standing == Standing::trusted);
    CHECK(app.session().sharing().exchange() == exchange.address());
    // Now the lens has a profile.
    for (int row = 0; row < attention.row_count(); ++row)
        CHECK_FALSE(AppFixture::text(attention, row, 0).contains("No profile fits Lumenfold"));
    // Its owner takes the key back.
    exchange.shelf().withdraw(withdraw_key(shore, "lost"));
    app.at<LensesPlace>(theme::Place::lenses);
    on_dialog([&](QDialog& dialog) {
        auto& list = child<Table>(dialog, "Keys that this studio knows");
        REQUIRE(list.row_count() == 1);
        QTest::mouseClick(&answer(dialog, "Ask for withdrawn keys"), Qt::LeftButton);
        app.settle();
        CHECK(AppFixture::text(list, 0, 1).contains("withdrawn"));
        dialog.reject();
    });
    choose_of(app, "Share", "Whose measurements count");
    CHECK(app.session().profiles().current()[0].taken_in->standing == Standing::withdrawn);
}

TEST_CASE("what would be sent to the exchange is shown whole before it is", "[app][sharing]") {
    const OwnConfiguration own;
    RunningExchange exchange;
    AppFixture app;
    Profile mine = measured_lens("LF35-0417");
    mine.provenance.author = "Iva Brandt";
    app.store().profiles().publish(mine);
    app.session().look_for_changes();
    app.settle();
    app.session().sharing().settle_exchange(exchange.address());
    app.at<LensesPlace>(theme::Place::lenses);
    on_dialog([&](QDialog& dialog) {
        const QString shown = child<QPlainTextEdit>(dialog, "What is sent").toPlainText();
        CHECK(shown.contains("optrel-profile"));
        CHECK_FALSE(shown.contains("Iva"));
        CHECK_FALSE(shown.contains("LF35-0417"));  // four figures alone may stand in a hash
        child<QLineEdit>(dialog, "Name there").setText("Herbarium");
        CHECK(child<QPlainTextEdit>(dialog, "What is sent").toPlainText().contains("Herbarium"));
        QTest::mouseClick(&answer(dialog, "Send"), Qt::LeftButton);
    });
    choose_of(app, "Share", "Give this profile");
    CHECK(exchange.shelf().count() == 1);
    CHECK(exchange.shelf().find({}).entries[0].measurer == "Herbarium");
    // One that was taken in is not given on as the studio's own.
    Profile theirs = measured_lens("9");
    theirs.lens = theirs.name = "Aldercroft 60mm f/4";
    theirs.taken_in = MeasurementSource{"bundle", "x", "", "", "", ""};
    app.store().profiles().publish(theirs);
    app.session().look_for_changes();
    app.settle();
    auto& list = app.find<Table>("Profiles");
    list.choose(AppFixture::row_of(list, "Aldercroft 60mm f/4"));
    choose_of(app, "Share", "Give this profile");
    CHECK(app.window().message().contains("was not measured in this studio"));
    CHECK(exchange.shelf().count() == 1);
}

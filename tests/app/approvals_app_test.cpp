// SPDX-License-Identifier: GPL-3.0-or-later
// A second person in the window: proposed in Baselines, judged in Attention.
#include <QInputDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>

#include "app_fixture.h"
#include "attention/proposal_dialog.h"
#include "dialogs.h"
#include "support/signed_as.h"

using namespace optrel;
using namespace optrel::test;

namespace {

void pin_exposure(AppFixture& app, double value) {
    app.store().baselines().change_draft([&](Revision& r) {
        Tier t;
        t.id = t.name = "studio";
        t.pins[Field::exposure] = Pin::constant({value, ""});
        r.tiers = {t};
    });
    app.session().look_for_changes();
    app.settle();
}

QStringList attention(AppFixture& app) {
    auto& table = app.find<Table>("What needs attention");
    QStringList out;
    for (int row = 0; row < table.row_count(); ++row) out << table.rows_model().cell(row, 0).text;
    return out;
}

}  // namespace

TEST_CASE("what one person proposes another one approves or sends back", "[app][approvals]") {
    // In a folder: a server does not believe one login that it is two people.
    const QByteArray engine = qgetenv("OPTREL_TEST_ENGINE");
    qunsetenv("OPTREL_TEST_ENGINE");
    AppFixture app;
    if (!engine.isEmpty()) qputenv("OPTREL_TEST_ENGINE", engine);
    app.add_frames({"SP0001"});
    app.store().proposals().need(ProposalKind::revision, 0);
    pin_exposure(app, 0.5);
    app.at<PlaceWidget>(theme::Place::baselines);
    {
        const SignedAs oren("oren");
        app.click_and_go_on("Propose revision…", [](QDialog& dialog) {
            CHECK(dialog.windowTitle() == "Propose the draft");
            dialog.findChild<QLineEdit*>()->setText("Softer");
        });
        CHECK(app.store().baselines().current().number == 0);
        REQUIRE(app.session().approvals().all().size() == 1);
        app.at<PlaceWidget>(theme::Place::attention);
        CHECK(attention(app).filter("Your revision waits").size() == 1);
    }
    const SignedAs ester("ester");
    app.session().approvals().reload();
    app.settle();
    auto& table = app.find<Table>("What needs attention");
    const auto choose = [&](const QString& what) {
        for (int row = 0; row < table.row_count(); ++row)
            if (table.rows_model().cell(row, 0).text.contains(what)) table.choose(row);
        app.click("Settle");
        app.settle();
    };
    // Sent back only with a remark.
    on_dialog([](QDialog& dialog) {
        auto& back = child<QPushButton>(dialog, "Send back");
        CHECK_FALSE(back.isEnabled());
        QTest::keyClicks(&child<QLineEdit>(dialog, "Remark"), "Too much for the drawers");
        CHECK(back.isEnabled());
        QTest::mouseClick(&back, Qt::LeftButton);
    });
    choose("oren proposes a revision");
    CHECK(app.session().approvals().all()[0].state == ProposalState::sent_back);
    CHECK(app.store().baselines().current().number == 0);
    {
        const SignedAs oren("oren");
        app.session().approvals().reload();
        CHECK(attention(app).filter("ester sent your revision back").size() == 1);
        pin_exposure(app, 0.25);
        app.session().approvals().propose_draft("Less");
        CHECK(attention(app).filter("sent your revision back").isEmpty());
    }
    app.session().approvals().reload();
    on_dialog([](QDialog& dialog) {
        CHECK(child<QListWidget>(dialog, "Changes").item(1)->text().contains("0.25"));
        QTest::mouseClick(&child<QPushButton>(dialog, "Approve"), Qt::LeftButton);
    });
    choose("oren proposes a revision");
    CHECK(app.store().baselines().current().number == 1);
    CHECK(app.store().baselines().current().author == "oren");
    CHECK(app.session().baselines().current().number == 1);
}

namespace {

void share(AppFixture& app, const QString& entry) {
    auto* menu = app.find<QPushButton>("Share").menu();
    emit menu->aboutToShow();
    for (QAction* a : menu->actions())
        if (a->text().remove('&').startsWith(entry)) return a->trigger();
    FAIL("There is no " << entry.toStdString());
}

/// What is asked for next is answered with these words.
void answer(const QString& words) {
    on_dialog([words](QDialog& dialog) {
        auto* ask = qobject_cast<QInputDialog*>(&dialog);
        REQUIRE(ask);
        ask->setTextValue(words);
        words.isEmpty() ? dialog.reject() : dialog.accept();
    });
}

}  // namespace

TEST_CASE("remarks are made where the thing is: on a tier, a set, a frame and a finding", "[app][approvals]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    app.publish_baseline();
    app.at<PlaceWidget>(theme::Place::baselines);
    app.settle();
    app.find<Table>("Tiers").choose(0);
    answer("Halos on the seed heads?");
    share(app, "Remark on the tier");
    answer("");
    share(app, "Remark on the set");
    answer("Too light by day");
    share(app, "Remark on the set Evening");
    app.at<PlaceWidget>(theme::Place::inspect);
    app.settle();
    app.find<Table>("Frames").choose(0);
    answer("Look at the corner");
    share(app, "Remark on this frame");
    app.settle();
    const auto& all = app.session().approvals().remarks();
    REQUIRE(all.size() == 3);
    CHECK(all[0].kind == "frame");
    CHECK(all[1].kind == "set");
    CHECK(all[1].subject == "Evening");
    CHECK(all[2].subject == "studio");
    app.at<PlaceWidget>(theme::Place::attention);
    CHECK(attention(app).filter("A remark on the frame SP0001.dng").size() == 1);
    CHECK(attention(app).filter("A remark on the tier studio").size() == 1);
}

TEST_CASE("a remark stands in Attention until it is settled", "[app][approvals]") {
    AppFixture app;
    Remark said;
    said.kind = "tier";
    said.subject = "studio";
    said.words = "Look at the drawers again";
    app.store().proposals().remark(said);
    app.session().look_for_changes();
    app.settle();
    app.at<PlaceWidget>(theme::Place::attention);
    CHECK(attention(app).filter("A remark on the tier studio").size() == 1);
    auto& table = app.find<Table>("What needs attention");
    for (int row = 0; row < table.row_count(); ++row)
        if (table.rows_model().cell(row, 0).text.contains("remark")) table.choose(row);
    app.click("Settle");
    app.settle();
    CHECK(attention(app).filter("remark").isEmpty());
    CHECK(app.store().proposals().remarks()[0].settled);
}

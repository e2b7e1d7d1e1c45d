// SPDX-License-Identifier: GPL-3.0-or-later
// Fleet, tab Alike: bodies are compared, pins are proposed and taken over, and undo takes them back.
#include <fmt/format.h>

#include "app_fixture.h"
#include "base/files.h"
#include "fleet/alike_panel.h"
#include "fleet/fleet_place.h"
#include "fleet/identities_panel.h"
#include "frames/dng_writer.h"
#include "patches/body_colours.h"
#include "patches/simulated_chart.h"
#include "widgets/patch_view.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Publishes the colours of a copy of a body.
void publish_copy(AppFixture& app, unsigned copy, double sensitivity, double recorded_red) {
    ChartPhotograph shot;
    shot.body = BodySensitivities(copy);
    shot.level = 0.62 * sensitivity;
    shot.shade = 0;
    RawPicture raw = shot.taken();
    raw.xyz_to_camera = ChartPhotograph().usual_matrix();
    raw.as_shot_neutral[0] *= recorded_red;
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = fmt::format("B2-{}", copy);
    m.iso = 100;
    m.aperture = 8;
    m.exposure_s = 0.01;
    fs::create_directories(app.path("charts"));
    const fs::path path = app.path("charts") / fmt::format("C{}.dng", copy);
    write_dng(path, raw, m, Existing::replace_ours);
    ColourRun run;
    run.chart = shot.chart.reference();
    run.frames = {path};
    Progress progress;
    BodyColours colours = body_colours_of(measure_colours(run, progress));
    colours.time = "2026-11-30T10:00:00Z";
    app.store().measurements().publish(colour_kind(), body_colours_to_json(colours), OtherSettings::drop);
}

}  // namespace

TEST_CASE("bodies are made alike in the window, and undo takes it back", "[app][alike]") {
    AppFixture app;
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    AlikePanel& panel = fleet.alike();
    for (unsigned copy : {0u, 1u, 2u}) publish_copy(app, copy, 1 + 0.08 * copy, 1 + 0.03 * copy);
    app.session().frames().add_folder(QString::fromStdString(app.path("charts").string()));
    app.settle();
    fleet.identities().accept_all();
    app.settle();
    app.session().profiles().reload();
    fleet.show_view("alike");
    QApplication::processEvents();
    app.settle();
    REQUIRE(panel.compared());
    CHECK(panel.bodies().row_count() >= 2);
    REQUIRE(panel.pairs().row_count() == 3);
    CHECK(panel.charts().chart_count() == 2);
    CHECK(panel.charts().accessibleDescription().contains("dE2000"));
    // Until something is pinned, both figures of a pair are the same.
    CHECK(AppFixture::text(panel.pairs(), 0, 3) == AppFixture::text(panel.pairs(), 0, 4));
    CHECK(app.session().baselines().draft().tiers.empty());

    app.click("Pin in the draft");
    app.settle();
    const Revision& draft = app.session().baselines().draft();
    REQUIRE(draft.tiers.size() == 2);
    CHECK(draft.tiers[0].pins.count(Field::warmth_offset) == 1);
    CHECK(draft.tiers[0].pins.at(Field::warmth_offset).measured);
    REQUIRE(panel.compared());
    const auto mean = [&](int row, int column) {
        return AppFixture::text(panel.pairs(), row, column).section(' ', 0, 0).toDouble();
    };
    for (int row = 0; row < 3; ++row) {
        INFO(row << " " << mean(row, 3) << " " << mean(row, 4));
        CHECK(mean(row, 4) < mean(row, 3));
        CHECK(mean(row, 4) < 0.6);
    }
    app.click("Undo");
    app.settle();
    CHECK(app.session().baselines().draft().tiers.empty());

    // A colour file that is gone takes its own body out, and no other.
    Revision gone = app.session().baselines().draft();
    Tier tier;
    tier.id = tier.name = "gone";
    tier.scope = Scope::body;
    tier.target = "Brimholt B2/B2-1";
    tier.pins[Field::colour_source] = Pin::constant(value_of_colour_file("Gone", "0123456789ab"));
    gone.tiers = {tier};
    app.session().baselines().edit("pin a file that is gone", gone);
    panel.compare();
    app.settle();
    REQUIRE(panel.compared());
    CHECK(panel.pairs().row_count() == 1);
    bool said = false;
    for (QLabel* label : panel.findChildren<QLabel*>()) said = said || label->text().contains("'Gone");
    CHECK(said);
}

TEST_CASE("without measured bodies the tab says what to do", "[app][alike]") {
    AppFixture app;
    app.add_frames({"SP0001"});
    auto& fleet = app.at<FleetPlace>(theme::Place::fleet);
    fleet.show_view("alike");
    QApplication::processEvents();
    app.settle();
    CHECK_FALSE(fleet.alike().compared());
    bool said = false;
    for (QLabel* label : fleet.alike().findChildren<QLabel*>()) said = said || label->text().contains("patch chart");
    CHECK(said);
    for (QPushButton* b : fleet.alike().findChildren<QPushButton*>()) CHECK_FALSE(b->isEnabled());
}

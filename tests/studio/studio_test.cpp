// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/run_work.h"
#include "studio/development/develop_frame.h"
#include "studio/exports/exporting.h"
#include "studio/fleet/claim.h"
#include "studio/frames/knowledge.h"
#include "studio/intake/take_in.h"

#include <catch2/catch.hpp>

#include "base/files.h"
#include "base/station.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a folder is indexed once, and what changed again", "[studio]") {
    const TemporaryFolder folder;
    fs::create_directories(folder / "in" / "deep");
    fs::copy_file(rig_frame("SP0001"), folder / "in" / "a.dng");
    fs::copy_file(rig_frame("SP0007"), folder / "in" / "deep" / "b.DNG");
    write_bytes(folder / "in" / "bad.dng", "");
    write_bytes(folder / "in" / "notes.txt", "no frame");
    write_bytes(folder / "in" / "._a.dng", "what another system leaves beside a file");
    write_bytes(folder / "in" / "caf\xe9.dng", "a name in Latin-1");
    std::vector<std::string> problems;
    const auto files = frame_files(folder / "in", problems);
    CHECK(files.size() == 4);
    CHECK(problems.empty());
    Progress progress;
    std::vector<FrameRecord> first, again;
    const auto into = [](std::vector<FrameRecord>& list) {
        return [&list](const std::vector<FrameRecord>& portion) {
            list.insert(list.end(), portion.begin(), portion.end());
        };
    };
    CHECK(index_files(files, {}, into(first), problems, progress) == 2);
    REQUIRE(problems.size() == 2);
    for (const std::string& p : problems) CHECK(is_one_sentence(p));
    CHECK(index_files(files, first, into(again), problems, progress) == 0);
    fs::last_write_time(folder / "in" / "a.dng", fs::file_time_type::clock::now() + std::chrono::hours(1));
    CHECK(index_files(files, first, into(again), problems, progress) == 1);
    CHECK(again.size() == 1);
    CHECK(error_of([&] { frame_files(folder / "none", problems); }) == "file");
    progress.cancel();
    CHECK_THROWS_AS(index_files(files, {}, into(again), problems, progress), Cancelled);
}

TEST_CASE("facts of a frame follow the fleet", "[studio]") {
    const Metadata m = read_metadata(rig_frame("SP0002"));
    const Fleet fleet({{}, {body_from(m)}, {}}, {}), none;
    const FrameFacts facts = know("/a.dng", m, fleet).facts;
    CHECK(facts.raw);
    CHECK(facts.body == "Brimholt B2/B2-0117");
    CHECK(facts.body_knowledge == BodyKnowledge::known);
    CHECK(facts.lens == canonical_lens_text("Lumenfold 35mm f/2.8"));
    CHECK(facts.iso == 800);
    CHECK(know("/a.dng", m, none).facts.body_knowledge == BodyKnowledge::unknown);
    CHECK(body_label(facts, fleet) == "Brimholt B2/B2-0117");
    CHECK(body_label(know("/a.dng", m, none).facts, none).find("unknown") != std::string::npos);
    Metadata nameless = m;
    nameless.body_serial.clear();
    CHECK(body_label(know("/a.dng", nameless, fleet).facts, fleet).find("assumed") != std::string::npos);
    const std::vector<FrameRecord> frames{{"/a.dng", m, 0, 0}, {"/b.dng", nameless, 0, 0}};
    const FactsOfFrames all = facts_of(frames, fleet);
    CHECK(all[0] == facts);
    CHECK(fleet_bodies(fleet, frames, all)[0].names_itself);
    CHECK_FALSE(fleet_bodies(fleet, {frames[1]}, FactsOfFrames({all[1]}))[0].names_itself);
}

TEST_CASE("the lens profile field chooses automatic, none or one", "[studio]") {
    const Metadata m = read_metadata(rig_frame("SP0002"));
    Profile p;
    p.id = "p1";
    p.lens = p.name = "Lumenfold 35mm f/2.8";
    p.lens_serial = "LF35-00482";
    p.geometry = {2464, 1640, 9.4};
    ProfileNode n;
    n.focal_mm = 35.4;
    n.setting = {35, 4, 1};
    n.largest_radius_mm = 13;
    p.nodes = {n};
    Profile other = p;
    other.id = "p2";
    other.lens = "Aldercroft 60mm";
    ResolvedFrame fields = neutral_start();
    CHECK(profile_for(fields, m, {p, other}).grade == MatchGrade::own_copy);
    CHECK_FALSE(profile_for(fields, m, {other}).usable());
    fields.fields[static_cast<int>(Field::lens_profile)].value.text = "none";
    CHECK_FALSE(profile_for(fields, m, {p}).usable());
    fields.fields[static_cast<int>(Field::lens_profile)].value.text = "p2";
    CHECK(profile_for(fields, m, {p, other}).grade == MatchGrade::stand_in);
    fields.fields[static_cast<int>(Field::lens_profile)].value.text = "p9";
    CHECK(error_of([&] { profile_for(fields, m, {p, other}); }) == "input");
    CHECK(applied(profile_for(neutral_start(), m, {p}), m));
    CHECK_FALSE(applied(ProfileMatch{}, m));
}

TEST_CASE("a frame is developed by its sheet, or by the revision while it has none", "[studio]") {
    const Metadata m = read_metadata(rig_frame("SP0002"));
    const FrameFacts facts = know("/a.dng", m, Fleet()).facts;
    Revision r;
    Tier t;
    t.id = t.name = "studio";
    t.pins[Field::exposure] = Pin::constant({0.5, ""});
    r.tiers = {t};
    Sheet sheet;
    CHECK(fields_of(sheet, facts, Resolver(r))[Field::exposure].value.number == 0.5);
    sheet.revision = 1;
    sheet.baseline[Field::exposure] = {0.25, ""};
    CHECK(fields_of(sheet, facts, Resolver(r))[Field::exposure].value.number == 0.25);
    ResolvedFrame missing = neutral_start();
    missing.fields[static_cast<int>(Field::lens_profile)].value.text = "p9";
    CHECK(error_of([&] { profile_of(sheet, missing, m, {}); }) == "input");
    sheet.exempt = true;
    CHECK(fields_of(sheet, facts, Resolver(r))[Field::exposure].value.number == 0);
    CHECK_FALSE(profile_of(sheet, missing, m, {}).usable());
}

TEST_CASE("a frame is developed from its file, raw or rendered", "[studio]") {
    const TemporaryFolder folder;
    const Metadata m = read_metadata(rig_frame("SP0001"));
    const Developed raw = develop_file(rig_frame("SP0001"), m, neutral_start(), std::nullopt, Progress());
    CHECK(raw.rgb.cols == 2464);
    CHECK(raw.rgb.rows == 1640);
    FrameDevelopment bare = bare_development(rig_frame("SP0001"));
    export_frame(rig_frame("SP0001"), bare, plain_delivery(ExportFormat::tiff), folder / "a.tif", Existing::keep,
                 Progress());
    const Metadata again = read_metadata(folder / "a.tif");
    CHECK(again.kind == FrameKind::rendered);
    CHECK(again.lens_serial == "LF35-00482");
    const Developed back = develop_file(folder / "a.tif", again, neutral_start(), std::nullopt, Progress());
    CHECK(cv::norm(back.rgb, raw.rgb, cv::NORM_INF) < 40);  // linear and back, to sixteen bits
    CHECK_FALSE(current_author().empty());
}

TEST_CASE("a folder becomes runs by body and lens", "[studio]") {
    std::vector<std::string> problems;
    Progress progress;
    const ChartSpec chart = ChartSpec::parse("coded:9x6:25");
    const auto runs = runs_of_folder(rig_frame("CH0001").parent_path(), chart, problems, progress);
    REQUIRE(runs.size() == 1);
    CHECK(runs[0].frames.size() == 17);
    CHECK(runs[0].chart == "coded:9x6:25");
    CHECK(problems.empty());
    const TemporaryFolder mixed;
    write_bytes(mixed / "broken.dng", "not a picture");
    fs::copy_file(rig_frame("SP0001"), mixed / "a.dng");
    fs::copy_file(rig_frame("SP0007"), mixed / "b.dng");
    CHECK(runs_of_folder(mixed.path(), chart, problems, progress).size() == 2);
    CHECK(problems.size() == 1);
    const TemporaryFolder empty;
    CHECK(error_of([&] { runs_of_folder(empty.path(), chart, problems, progress); }) == "input");
    CHECK(error_of([&] { runs_of_folder(empty / "nowhere", chart, problems, progress); }) == "file");
}

TEST_CASE("window, command line and queue measure the same frames of a run", "[studio]") {
    RunRecord run;
    run.frames.resize(4);
    run.frames[1].role = RunRole::chart;
    run.frames[1].hash = "a";
    run.frames[1].problem = "it carries a correction";
    run.frames[2].hash = "b";
    CHECK(frames_to_measure(run) == std::vector<int>{0, 3});
    CHECK(frames_to_measure(run, EmbeddedOpcodes::measure_mosaic).size() == 3);
}

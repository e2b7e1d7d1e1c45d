// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <cmath>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/station.h"
#include "cli/commands.h"
#include "cli/development/ruler_options.h"
#include "cli/sharing/publish_options.h"
#include "exchange/run_report.h"
#include "studio/calibration/report.h"
#include "studio/calibration/run_work.h"
#include "studio/fleet/claim.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct RunOptions {
    std::string store, folder, chart, report;
    std::vector<std::string> drop, restore, drop_corners;
    int id = 0;
    PublishOptions publishing;
    RulerOptions ruler;
    bool publish = false, overwrite = false, json = false, measure_mosaic = false;
};

RunRecord run_of(const Store& store, int id) {
    for (RunRecord& r : store.runs().all())
        if (r.id == id) return std::move(r);
    throw input_error(fmt::format("There is no run {} in this store; 'store list runs' shows them.", id));
}

RunFrame& frame_of(RunRecord& run, const std::string& name) {
    std::vector<std::string> names;
    for (RunFrame& f : run.frames) {
        if (f.name() == name || f.path == name) return f;
        names.push_back(f.name());
    }
    throw input_error(fmt::format("The run has no frame '{}'; its frames are {}.", name, fmt::join(names, ", ")));
}

/// Parses a corner "NAME:COLUMN,ROW", counted as in report and window.
void drop_corner(RunRecord& run, const std::string& text) {
    const std::size_t colon = text.rfind(':');
    const auto place = colon == std::string::npos ? std::nullopt : parse_pair(text.substr(colon + 1), ',');
    const auto whole = [](double v) { return v == std::floor(v) && std::abs(v) < 1e6; };
    if (!place || !whole(place->first) || !whole(place->second))
        throw usage_error(fmt::format("A corner is FRAME:COLUMN,ROW, as in CH0003.dng:4,2, not '{}'.", text));
    RunFrame& frame = frame_of(run, text.substr(0, colon));
    const std::pair<int, int> at(static_cast<int>(place->first), static_cast<int>(place->second));
    const auto& corners = frame.detection.corners;
    if (std::none_of(corners.begin(), corners.end(),
                     [&](const ChartCorner& c) { return c.column == at.first && c.row == at.second; }))
        throw input_error(fmt::format("{} has no corner in column {}, row {}.", frame.name(), at.first, at.second));
    frame.dropped_corners.insert(at);
}

void print_solution(const RunRecord& record, const RunSolution& solution) {
    for (const ProfileNode& node : solution.profile.nodes)
        fmt::print("Run {}: {}, {}: {} frames used, RMS {}, held out {} (both axes)\n", record.id,
                   solution.profile.name, to_string(node.setting), node.quality.frames_used,
                   figure_text(figures::reprojection_error, node.quality.rms_px),
                   figure_text(figures::reprojection_error, node.quality.held_out_rms_px));
    print_findings(solution);
}

/// The requested runs: one of the store, or those of a folder, new or continued.
std::vector<RunRecord> wanted_runs(Store& store, const RunOptions& o) {
    if (o.id > 0) return {run_of(store, o.id)};
    std::vector<std::string> problems;
    std::vector<RunRecord> records =
        begin_runs(store, o.folder, ChartSpec::parse(o.chart), problems, console_progress());
    tell_problems(problems);
    return records;
}

void run(const RunOptions& o) {
    if ((o.id > 0) == !o.folder.empty())
        throw usage_error("Name either a folder with --folder and its --chart, or a run of the store with --id.");
    if (!o.folder.empty() && o.chart.empty()) throw usage_error("Say with --chart which chart the folder shows.");
    if (!o.chart.empty()) ChartSpec::parse(o.chart);
    if (!o.publish && (!o.publishing.accept.empty() || o.publishing.keep_settings || o.publishing.drop_settings))
        throw usage_error("--accept, --keep-settings and --drop-settings are for publishing; add --publish.");
    o.publishing.others();
    if (!o.report.empty()) check_report_path(o.report, existing(o.overwrite));
    Store store = open_store(o.store, o.id > 0 ? Access::write : Access::begin);
    std::vector<RunRecord> records = wanted_runs(store, o);
    if (!o.report.empty() && records.size() > 1)
        throw input_error(
            fmt::format("The folder holds {} runs, one for each body and lens, and one report tells of one; ask for "
                        "each with --id.",
                        records.size()));
    json out = json::array();
    for (RunRecord& record : records) {
        if (!o.chart.empty()) record.chart = ChartSpec::parse(o.chart).text();
        measure_run(store, record, console_progress(),
                    o.measure_mosaic ? EmbeddedOpcodes::measure_mosaic : EmbeddedOpcodes::refuse);
        for (const std::string& name : o.drop) frame_of(record, name).dropped = true;
        for (const std::string& name : o.restore) frame_of(record, name).dropped = false;
        for (const std::string& corner : o.drop_corners) drop_corner(record, corner);
        store.runs().put(record);
        SolveSettings settings;
        settings.chart = ChartSpec::parse(record.chart);
        settings.author = current_author();
        settings.square_by_ruler_mm = square_by(o.ruler, settings.chart);
        RunSolution solution = solve_run(record.frames, settings, console_progress());
        if (o.publish) accept(solution.profile, o.publishing);
        if (!o.json) print_solution(record, solution);
        if (!o.report.empty())
            write_report(o.report, existing(o.overwrite), record.frames, solution, console_progress());
        json entry = run_report(record.frames, solution);
        entry["run"] = record.id;
        if (o.publish) {
            confirm_publishing(store, solution.profile, o.publishing);
            const Profile p = store.profiles().publish(solution.profile, o.publishing.others());
            entry["published"] = {{"id", p.id}, {"version", p.version}};
            if (!o.json) fmt::print("Published {} as version {}\n", p.name, p.version);
        }
        out.push_back(std::move(entry));
    }
    if (o.json) print_json(out.size() == 1 ? out.front() : out);
}

}  // namespace

void add_run(CLI::App& app) {
    auto* command = add_command(
        app, "run",
        "Make, measure and solve a run in the store from a folder, as the Bench does; one that was stopped goes on",
        "run --store studio --folder board --chart checker:15x10:30 --publish");
    auto o = std::make_shared<RunOptions>();
    add_store_option(*command, o->store);
    command->add_option("--folder", o->folder, "Folder with chart frames and flat fields");
    command->add_option("--chart", o->chart,
                        "The chart: checker:ACROSSxDOWN:MM or coded:ACROSSxDOWN:MM in squares and millimetres");
    command->add_option("--id", o->id, "A run of the store instead of a folder ('store list runs' shows them)")
        ->check(whole(1, 1000000000));
    command->add_option("--drop", o->drop, "Leave frames out, by name");
    command->add_option("--restore", o->restore, "Take frames in again that were left out");
    command->add_option("--drop-corner", o->drop_corners, "Leave corners out: FRAME:COLUMN,ROW");
    command->add_option("--report", o->report, "Write the report of the run: figures as .json, pages as .pdf");
    command->add_flag("--publish", o->publish, "Publish the profile when the run is solved");
    add_publish_options(*command, o->publishing, "With --publish: ");
    add_ruler_options(*command, o->ruler);
    add_measure_mosaic_flag(*command, o->measure_mosaic);
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print the figures as JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

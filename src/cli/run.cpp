#include <fmt/format.h>

#include "base/files.h"
#include "commands.h"
#include "exchange/run_report.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string store, folder, chart, report;
    bool publish = false;
};

void run(const Options& o) {
    Store store(store_folder(o.store));
    SolveSettings settings;
    settings.chart = ChartSpec::parse(o.chart);
    settings.author = current_author();
    std::vector<std::string> problems;
    std::vector<RunRecord> records = runs_of_folder(o.folder, settings.chart, problems, console_progress());
    for (const std::string& problem : problems) fmt::print(stderr, "{}\n", problem);
    for (RunRecord& record : records) {
        const int id = record.id = store.put_run(record);
        std::vector<std::filesystem::path> paths;
        for (const RunFrame& frame : record.frames) paths.push_back(frame.path);
        measure_frames(paths, MeasureAs::automatic, settings.chart, console_progress(), [&](int i, const RunFrame& frame) { record.frames[i] = frame; });
        store.put_run(record);
        const RunSolution solution = solve_run(record.frames, settings, console_progress());
        for (const ProfileNode& node : solution.profile.nodes)
            fmt::print("Run {}: {}, {}: {} frames used, RMS {:.4f} px, held out {:.4f} px\n", id, solution.profile.name, to_string(node.setting), node.quality.frames_used, node.quality.rms_px,
                       node.quality.held_out_rms_px);
        for (const Finding& f : solution.findings) fmt::print("{} {} {}\n", f.serious ? "!" : "-", f.text, f.remedy);
        if (!o.report.empty()) write_atomic(o.report, run_report(record.frames, solution).dump(2) + "\n");
        if (o.publish) {
            const Profile p = store.publish_profile(solution.profile);
            fmt::print("Published {} as version {}\n", p.name, p.version);
        }
    }
}

}  // namespace

void add_run(CLI::App& app) {
    auto* command = app.add_subcommand("run", "Make, measure and solve a run in the store from a folder, as the Bench does");
    auto o = std::make_shared<Options>();
    add_store_option(*command, o->store);
    command->add_option("--folder", o->folder, "Folder with chart frames and flat fields")->required();
    command->add_option("--chart", o->chart, "The chart: checker:ACROSSxDOWN:MM in squares and millimetres")->required();
    command->add_option("--report", o->report, "Write the figures of the (last) run as JSON");
    command->add_flag("--publish", o->publish, "Publish the profile when the run is solved");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

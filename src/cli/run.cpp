#include <fmt/format.h>

#include "calibration/grouping.h"
#include "commands.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string store, folder, chart;
    bool publish = false;
};

void run(const Options& o) {
    Store store(store_folder(o.store));
    SolveSettings settings;
    settings.chart = ChartSpec::parse(o.chart);
    settings.author = current_author();
    std::vector<std::pair<std::filesystem::path, Metadata>> found;
    for (const auto& path : frame_files(o.folder)) try {
            found.emplace_back(path, read_metadata(path));
        } catch (const Error& error) {
            fmt::print(stderr, "{}\n", error.what());
        }
    if (found.empty()) throw input_error(fmt::format("The folder {} holds no picture that can be read; choose the folder of the chart frames.", o.folder));
    for (const FrameGroup& group : group_frames(found)) {
        RunRecord record;
        record.name = group.label;
        record.chart = settings.chart.text();
        record.folder = o.folder;
        record.frames = measure_frames(group.paths, MeasureAs::automatic, console_progress());
        const int id = store.put_run(record);
        const RunSolution solution = solve_run(record.frames, settings, console_progress());
        const NodeQuality& q = solution.profile.nodes.front().quality;
        fmt::print("Run {}: {}: {} frames used, RMS {:.4f} px, held out {:.4f} px\n", id, group.label, q.frames_used, q.rms_px, q.held_out_rms_px);
        for (const Finding& f : solution.findings) fmt::print("{} {} {}\n", f.serious ? "!" : "-", f.text, f.remedy);
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
    command->add_flag("--publish", o->publish, "Publish the profile when the run is solved");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

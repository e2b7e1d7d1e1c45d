// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <chrono>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/words.h"
#include "calibration/run.h"
#include "cli/commands.h"
#include "cli/development/ruler_options.h"
#include "exchange/run_report.h"

namespace optrel::cli {
namespace {

struct CalibrateOptions {
    std::string chart, out, author, model;
    std::vector<std::string> frames, flats;
    double pitch_um = 0;
    int terms = 0;
    RulerOptions ruler;
    bool json = false, overwrite = false, measure_mosaic = false;
};

void print_solution(const std::vector<RunFrame>& frames, const RunSolution& solution, double seconds) {
    for (const ProfileNode& node : solution.profile.nodes) {
        const NodeQuality& q = node.quality;
        fmt::print("{}, {}: {} frames, {} corners, {} model, RMS {}, held out {} (both axes)\n", solution.profile.name,
                   to_string(node.setting), q.frames_used, q.corners, to_string(node.model.kind()),
                   figure_text(figures::reprojection_error, q.rms_px),
                   figure_text(figures::reprojection_error, q.held_out_rms_px));
        fmt::print("  focal length {}, distortion {}, uncertainty up to {} (one sigma of an axis)\n",
                   figure_text(figures::length, node.focal_mm),
                   figure_text(figures::distortion, q.distortion_extreme_percent),
                   figure_text(figures::reprojection_error, q.max_sigma_px));
    }
    fmt::print("{} frames in {}\n", frames.size(), figure_text(figures::duration, seconds));
    print_findings(solution);
}

LensModelKind model_named(const std::string& text) {
    std::vector<std::string> names;
    for (const LensModelKind kind : lens_forms()) {
        if (text == kind->name()) return kind;
        names.emplace_back(kind->name());
    }
    throw input_error(
        fmt::format("There is no lens model '{}'{}; choose {}.", text, nearest_clause(text, names), lens_form_names()));
}

void run(const CalibrateOptions& o) {
    const auto began = std::chrono::steady_clock::now();
    Progress& progress = console_progress();
    SolveSettings settings;
    settings.chart = ChartSpec::parse(o.chart);
    settings.pitch_um = o.pitch_um;
    settings.author = author_or_me(o.author);
    settings.square_by_ruler_mm = square_by(o.ruler, settings.chart);
    if (!o.model.empty()) settings.model.kind = model_named(o.model);
    if (o.terms > 0 && o.model.empty())
        throw usage_error("--terms says how many terms a model has; name the model with --model.");
    settings.model.radial_terms = o.terms;
    check_wish(settings.model);
    check_output(o.out, json_output(), existing(o.overwrite));
    for (const auto* list : {&o.frames, &o.flats})
        for (const std::string& path : *list)
            if (std::error_code none; !std::filesystem::exists(path, none))
                throw file_error(fmt::format("There is no frame {}; check the path.", path));
    const auto carried = o.measure_mosaic ? EmbeddedOpcodes::measure_mosaic : EmbeddedOpcodes::refuse;
    std::vector<RunFrame> frames =
        measure_frames({o.frames.begin(), o.frames.end()}, MeasureAs::chart, settings.chart, progress, {}, carried);
    std::vector<RunFrame> flats =
        measure_frames({o.flats.begin(), o.flats.end()}, MeasureAs::flat, settings.chart, progress, {}, carried);
    frames.insert(frames.end(), std::make_move_iterator(flats.begin()), std::make_move_iterator(flats.end()));
    const RunSolution solution = solve_run(frames, settings, progress);
    write_output(o.out, json_output(), existing(o.overwrite), profile_to_json(solution.profile));
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    if (!o.json) return print_solution(frames, solution, seconds);
    nlohmann::json report = run_report(frames, solution);
    report["seconds"] = seconds;
    print_json(report);
}

}  // namespace

void add_calibrate(CLI::App& app) {
    auto* command =
        add_command(app, "calibrate", "Measure a lens from chart frames and flat fields",
                    "calibrate --chart checker:15x10:30 --frames board/*.dng --flats flat/*.dng --out profile.json");
    auto o = std::make_shared<CalibrateOptions>();
    command
        ->add_option("--chart", o->chart,
                     "The chart: checker:ACROSSxDOWN:MM or coded:ACROSSxDOWN:MM, in squares and millimetres")
        ->required();
    command->add_option("--frames", o->frames, "Chart frames (raw or rendered)")->required();
    command->add_option("--flats", o->flats, "Flat fields (raw)");
    command->add_option("--out", o->out, "The profile to write (.json)")->required();
    command
        ->add_option("--pitch-um", o->pitch_um,
                     "Pixel pitch in micrometres, when the frames do not record it [default: as recorded]")
        ->check(between(0.3, 100));
    command->add_option("--model", o->model,
                        "Overrule the choice of the lens model: " + lens_form_names() + " [default: by unseen frames]");
    command
        ->add_option("--terms", o->terms,
                     "With --model: how many radial terms: 1 to 3, 4 or 6 for rational, 1 to 4 for a fisheye [default: "
                     "by unseen frames]")
        ->check(whole(1, 6));
    add_ruler_options(*command, o->ruler);
    add_measure_mosaic_flag(*command, o->measure_mosaic);
    command->add_option("--author", o->author, "Who measured [default: the login name]");
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print the figures as JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

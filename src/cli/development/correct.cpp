// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/words.h"
#include "cli/development/development_options.h"
#include "studio/exports/exporting.h"

namespace optrel::cli {
namespace {

struct CorrectOptions {
    DevelopmentOptions development;
    std::string out;
    bool fill = false, keep = false, json = false, overwrite = false;
    double scale = 0;
    std::vector<std::string> set;
};

void run(const CorrectOptions& o) {
    if (o.development.profile.empty() == !o.development.by_store())
        throw usage_error("Give either --profile or --store.");
    if (int(o.fill) + int(o.keep) + int(o.scale > 0) > 1)
        throw usage_error("Give at most one of --fill, --scale and --keep-border.");
    check_output(o.out, export_output(ExportFormat::tiff), existing(o.overwrite));
    // Unlike an export, a single output file in a missing folder is probably a typing error.
    const std::filesystem::path folder = std::filesystem::path(o.out).parent_path();
    if (std::error_code none; !folder.empty() && !std::filesystem::is_directory(folder, none))
        throw file_error(fmt::format("Cannot write {}: there is no folder {}; make it, or choose another one.", o.out,
                                     folder.string()));
    FrameDevelopment r = development_of(o.development);
    for (const std::string& assignment : o.set) set_field(r, assignment);
    const auto set_text = [&](Field f, const char* text) { r.fields.fields[static_cast<int>(f)].value = {0, text}; };
    if (o.fill) set_text(Field::border, "fill");
    if (o.keep) set_text(Field::border, "keep");
    if (o.scale > 0) {
        set_text(Field::border, "scale");
        r.fields.fields[static_cast<int>(Field::border_scale)].value = {o.scale, ""};
    }
    const Exported picture = export_frame(o.development.frame, r, plain_delivery(ExportFormat::tiff), o.out,
                                          existing(o.overwrite), console_progress());
    tell_problems(picture.remarks);
    if (!r.why_none.empty())
        fmt::print(stderr, "{} is not corrected by a profile: {}.\n", o.development.frame, without_stop(r.why_none));
    if (o.json)
        print_json({{"frame", o.development.frame},
                    {"out", o.out},
                    {"profile", r.chosen},
                    {"scale", picture.scale},
                    {"size", {picture.kept.width, picture.kept.height}},
                    {"kept", {picture.kept.x, picture.kept.y, picture.kept.width, picture.kept.height}}});
    else
        fmt::print("{}: profile {}, scale {}\n", o.out, r.chosen, number_text(figures::scale, picture.scale));
}

}  // namespace

void add_correct(CLI::App& app) {
    auto* command = add_command(app, "correct", "Develop and correct a frame into a 16-bit TIFF",
                                "correct --store studio --frame SP0005.dng --out SP0005.tif --fill");
    auto o = std::make_shared<CorrectOptions>();
    add_development_options(*command, o->development);
    command->add_option("--out", o->out, "TIFF to write (.tif or .tiff)")->required();
    command->add_flag("--fill", o->fill, "Scale as little as fills the border");
    command->add_option("--scale", o->scale, "Scale by this factor")->check(between(0.2, 5.0));
    command->add_flag("--keep-border", o->keep, "Scale 1, empty border included");
    command->add_option("--set", o->set, "FIELD=VALUE for this picture, for instance pitch=2.5; may be given again")
        ->take_all();
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli

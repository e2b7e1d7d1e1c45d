// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "cli/commands.h"
#include "cli/exports/delivery_choice.h"
#include "studio/development/frame_development.h"
#include "studio/exports/exporting.h"
#include "studio/profiles/frame_profile.h"

namespace optrel::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;
using FactsOf = std::function<FrameDevelopment(const fs::path&)>;

struct ExportOptions {
    std::string store, profile, out, file, name;
    CLI::Option* store_option = nullptr;
    std::vector<std::string> frames;
    DeliveryChoice choice;
    bool json = false, overwrite = false, anyway = false;
};

json exported_json(const Exported& e) {
    if (!e.problem.empty()) return {{"frame", e.frame.string()}, {"problem", e.problem}};
    json out = {{"frame", e.frame.string()},   {"out", e.out.string()}, {"profile", e.profile},
                {"size", {e.width, e.height}}, {"scale", e.scale},      {"remarks", e.remarks}};
    if (e.pictures > 0) out["pictures"] = e.pictures;
    const OpcodeFit& c = e.carried;
    if (!c.geometry.empty())
        out["geometry"] = {{"opcode", c.geometry},
                           {"rms_px", c.geometry_rms_px},
                           {"largest_px", c.geometry_largest_px},
                           {"green_largest_px", c.green_largest_px}};
    if (!c.falloff.empty())
        out["falloff"] = {{"opcode", c.falloff},
                          {"rms_percent", c.falloff_rms_percent},
                          {"largest_percent", c.falloff_largest_percent}};
    return out;
}

void run_export(const ExportOptions& o) {
    const bool by_store = o.store_option->count() > 0;
    if (by_store && !o.profile.empty()) throw usage_error("Give --store or --profile, not both.");
    std::unique_ptr<Store> store;
    if (by_store) store = std::make_unique<Store>(o.store, Access::read);
    Delivery delivery = chosen_delivery(o.choice, store ? store->deliveries().all() : shipped_deliveries());
    if (o.overwrite) delivery.taken = NameTaken::replace;
    const FactsOf facts = [&](const fs::path& frame) {
        if (store) return development_from_store(*store, frame);
        return o.profile.empty() ? bare_development(frame) : development_from_profile(o.profile, frame, o.anyway);
    };
    std::vector<std::string> problems;
    json list = json::array();
    const auto done = [&](const Exported& e) {
        if (!e.problem.empty()) problems.push_back(e.problem);
        tell_problems(e.remarks);
        if (o.json)
            list.push_back(exported_json(e));
        else if (e.problem.empty() && e.pictures > 0)
            fmt::print("{}: {} pictures, profile {}\n", e.out.string(), e.pictures, e.profile);
        else if (e.problem.empty())
            fmt::print("{}: {} x {} px, profile {}\n", e.out.string(), e.width, e.height, e.profile);
    };
    export_frames({o.frames.begin(), o.frames.end()}, delivery, o.out, facts, done, console_progress());
    if (o.json) print_json({{"delivery", delivery.name}, {"exported", list}});
    fail_with(problems);
}

void list_deliveries(const ExportOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json list = json::array();
    for (const Delivery& r : store.deliveries().all()) {
        const bool own = store.deliveries().own(r.name);
        if (o.json)
            list.push_back({{"name", r.name}, {"own", own}, {"described", described(r)}, {"file_name", r.file_name}});
        else
            fmt::print("{}: {}; {}{}{}\n", r.name, described(r), r.file_name, extension_of(r), own ? "" : " (shipped)");
    }
    if (o.json) print_json(list);
}

void save_delivery(const ExportOptions& o) {
    Delivery r;
    Store store = open_store(o.store, Access::write);
    if (!o.file.empty()) {
        if (o.choice.delivery || o.choice.as)
            throw usage_error("A delivery comes from --file or from --as and --delivery, not from both.");
        r = delivery_from_json(read_file(o.file), o.file);
    } else {
        r = chosen_delivery(o.choice, store.deliveries().all());
        r.name = o.name;
    }
    if (store.deliveries().own(r.name) && !o.overwrite)
        throw usage_error(
            fmt::format("There is a delivery '{}'; choose another name, or replace it with --overwrite.", r.name));
    store.deliveries().put(r);
    fmt::print("{}: {}\n", r.name, described(r));
}

void add_deliveries(CLI::App& app, const std::shared_ptr<ExportOptions>& o) {
    auto* command = add_command(app, "delivery", "Deliveries: how frames are written out", "delivery list");
    command->require_subcommand(1);
    auto* list = add_command(*command, "list", "All deliveries, shipped and own", "delivery list --json");
    add_store_option(*list, o->store);
    list->add_flag("--json", o->json, "Print JSON");
    list->callback([o] { list_deliveries(*o); });
    auto* show = add_command(*command, "show", "A delivery as JSON", "delivery show Archive --out archive.json");
    add_store_option(*show, o->store);
    show->add_option("name", o->name, "Its name")->required();
    show->add_option("--out", o->file, "File to write (.json)");
    add_overwrite_flag(*show, o->overwrite);
    show->callback([o] {
        write_or_print(o->file, json_output(), o->overwrite,
                       delivery_to_json(open_store(o->store, Access::read).deliveries().named(o->name)));
    });
    auto* save = add_command(*command, "save", "Keep a delivery, from options or from a JSON file",
                             "delivery save Catalogue --as jpeg --longest-side 1600 --name \"{body}/{name}\"");
    add_store_option(*save, o->store);
    auto* name = save->add_option("name", o->name, "Its name");
    save->add_option("--file", o->file, "A JSON file, as `delivery show` writes it")->excludes(name);
    add_delivery_choice(*save, o->choice);
    add_overwrite_flag(*save, o->overwrite);
    save->callback([o] { save_delivery(*o); });
    auto* remove = add_command(*command, "delete", "Delete a delivery of one's own", "delivery delete Catalogue");
    add_store_option(*remove, o->store);
    remove->add_option("name", o->name, "Its name")->required();
    remove->callback([o] { open_store(o->store, Access::write).deliveries().remove(o->name); });
}

}  // namespace

void add_export(CLI::App& app) {
    auto o = std::make_shared<ExportOptions>();
    auto* command = add_command(app, "export", "Write frames out by a delivery, developed and corrected",
                                "export --store studio --delivery Review --frames SP0005.dng SP0006.dng --out review");
    o->store_option = command->add_option("--store", o->store, "Develop and correct as this store says");
    command->add_option("--profile", o->profile, "Correct by this profile, with a neutral development");
    command->add_option("--frames", o->frames, "The frames")->required();
    command->add_option("--out", o->out, "Folder to write into; it is made when it is missing")->required();
    add_delivery_choice(*command, o->choice);
    command->add_flag("--anyway", o->anyway, "With --profile: also when a frame's focal length is not the profile's");
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run_export(*o); });
    add_deliveries(app, std::make_shared<ExportOptions>());
}

}  // namespace optrel::cli

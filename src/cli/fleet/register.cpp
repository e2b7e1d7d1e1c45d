// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/station.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/confirm.h"
#include "fleet/register_files.h"
#include "optics/lens_text.h"
#include "studio/baselines/naming.h"
#include "studio/fleet/claim.h"
#include "studio/fleet/merge.h"
#include "studio/frames/knowledge.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct RegisterOptions {
    std::string store, body, lens, model, name, asset_tag, room, condition, notes, recorded_adds, in_service, file,
        list = "bodies", format = "csv";
    Claim claim;
    std::string of_body, of_lens, remove, into;
    bool json = false, overwrite = false, contacts_none = false, add = false, yes = false, anyway = false, undo = false,
         preview = false, over_register = false;
    double focal_min = 0, focal_max = 0;
};

/// Applies the given options.
void take_text(std::string& to, const std::string& given, const CLI::App& command, const char* option) {
    if (command.count(option)) to = given;
}

bool yes(const std::string& text) {
    if (text != "yes" && text != "no") throw usage_error(fmt::format("--in-service takes yes or no, not '{}'.", text));
    return text == "yes";
}

/// A lens that no file reports is added by its text and number, as in "Aldercroft 60mm f/4 macro/AM-11".
Metadata new_lens(const std::string& text) {
    Metadata m;
    const std::size_t slash = text.rfind('/');
    const bool numbered = slash != std::string::npos && slash > 0 && text[slash - 1] != 'f';
    m.lens = numbered ? text.substr(0, slash) : text;
    m.lens_serial = numbered ? text.substr(slash + 1) : "";
    return m;
}

/// The lens that an option names; nothing for a new one.
const LensEntry* known_lens(const RegisterOptions& o, const Naming& naming) {
    if (o.add) {
        const Register& all = naming.entries();
        LensEntry fresh = lens_from(new_lens(o.lens));
        fresh.id = id_for(fresh);
        for (const LensEntry& l : all.lenses)
            if (l.id == fresh.id || l.id == o.lens || lowered(l.name) == lowered(o.lens) ||
                (canonical_lens_text(l.lens) == canonical_lens_text(fresh.lens) && l.serial == fresh.serial))
                throw input_error(fmt::format(
                    "The lens '{}' is registered already, as {}; leave --add out to change it.", o.lens, l.id));
        return nullptr;
    }
    // A lens without contacts is in no file, so an unknown name adds it.
    if (o.contacts_none && !naming.entries().lens(o.lens)) return nullptr;
    return naming.entries().lens(naming.lens_copy(o.lens));
}

void register_entry(const RegisterOptions& o, const CLI::App& command) {
    Store store = open_store(o.store, Access::write);
    const Naming naming(store);
    const Register& all = naming.entries();
    if (int(!o.body.empty()) + int(!o.lens.empty()) + int(!o.model.empty()) != 1)
        throw usage_error("Name one of --body, --lens and --model, by its id, asset tag, serial number or name.");
    FleetEdit edit;
    edit.what = "register";
    std::string made;
    if (o.add && o.lens.empty())
        throw usage_error("--add is for a lens (--lens); bodies and models come with their frames or a CSV.");
    if (!o.body.empty()) {
        const Body* before = all.body(naming.body(o.body));
        Body after = *before;
        take_text(after.name, o.name, command, "--name");
        take_text(after.asset_tag, o.asset_tag, command, "--asset-tag");
        take_text(after.room, o.room, command, "--room");
        take_text(after.condition, o.condition, command, "--condition");
        take_text(after.notes, o.notes, command, "--notes");
        if (command.count("--in-service")) after.in_service = yes(o.in_service);
        edit.bodies.push_back({*before, after});
    } else if (!o.lens.empty()) {
        const LensEntry* before = known_lens(o, naming);
        LensEntry after;
        if (before) {
            after = *before;
        } else {
            after = lens_from(new_lens(o.lens));
            after.id = id_for(after);
        }
        take_text(after.name, o.name, command, "--name");
        take_text(after.asset_tag, o.asset_tag, command, "--asset-tag");
        take_text(after.room, o.room, command, "--room");
        take_text(after.notes, o.notes, command, "--notes");
        if (command.count("--in-service")) after.in_service = yes(o.in_service);
        if (o.contacts_none) after.contacts = false;
        if (command.count("--focal")) {
            after.focal_min_mm = o.focal_min;
            after.focal_max_mm = command.count("--focal-to") ? o.focal_max : o.focal_min;
        }
        edit.lenses.push_back({before ? std::optional(*before) : std::nullopt, after});
        if (!before) made = after.id;
    } else {
        const ModelEntry* before = all.model(naming.model(o.model));
        if (!before)
            throw input_error(fmt::format(
                "The model '{}' is reported by frames but not registered; register a body of it first.", o.model));
        ModelEntry after = *before;
        take_text(after.notes, o.notes, command, "--notes");
        take_text(after.recorded_adds, o.recorded_adds, command, "--recorded-adds");
        edit.models.push_back({*before, after});
    }
    store.registry().edit(edit, current_author());
    if (!made.empty()) fmt::print("{}\n", made);
}

void export_fleet(const RegisterOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const Register all = store.registry().entries();
    std::string text;
    if (o.format == "json")
        text = register_to_json(all, store.registry().claims());
    else if (o.format != "csv")
        throw usage_error(fmt::format("--format takes csv or json, not '{}'.", o.format));
    else if (o.list == "bodies")
        text = bodies_to_csv(all.bodies);
    else if (o.list == "lenses")
        text = lenses_to_csv(all.lenses);
    else if (o.list == "models")
        text = models_to_csv(all.models);
    else
        throw usage_error(fmt::format("--list takes bodies, lenses or models, not '{}'.", o.list));
    write_or_print(o.file, o.format == "json" ? json_output() : csv_output(), o.overwrite, text);
}

void import_fleet(const RegisterOptions& o) {
    const std::string text = read_file(o.file);
    Store store = open_store(o.store, Access::begin);
    const std::size_t first = text.find_first_not_of(" \t\r\n\xef\xbb\xbf");
    const RegisterImport import = first != std::string::npos && text[first] == '{'
                                      ? register_from_json(text, o.file, store.registry().entries())
                                      : register_from_csv(text, o.file, store.registry().entries());
    const FleetEdit edit = store.registry().edit_for(import);
    tell_problems(import.remarks);
    json made = json::array();
    const auto note = [&](const auto& edits) {
        for (const auto& e : edits)
            if (!e.before) made.push_back(e.after->id);
    };
    note(edit.models);
    note(edit.bodies);
    note(edit.lenses);
    note(edit.claims);
    const FramesReached reached = reach_of(store, edit, console_progress());
    if (o.preview) {
        tell_reach("Nothing was imported; it would be", reached);
    } else {
        confirm(store, "Importing " + o.file, reached, o.yes);
        if (!edit.empty()) store.registry().edit(edit, current_author());
    }
    if (o.json) {
        print_json({{"preview", o.preview},
                    {"added", import.added},
                    {"changed", import.changed},
                    {"same", import.same},
                    {"claims", import.claims.size()},
                    {"new", made},
                    {"remarks", import.remarks},
                    {"frames", reached.frames}});
        return;
    }
    fmt::print("{} added, {} changed, {} the same\n", import.added, import.changed, import.same);
    for (const json& id : made) fmt::print("  new: {}\n", id.get<std::string>());
}

json identity_json(const Identity& id) {
    static const char* status[] = {"claimed", "assumed", "unclaimed"};
    static const char* action[] = {"none", "register", "claim", "choose"};
    json j = {{"of", id.of == Identity::Of::body ? "body" : "lens"},
              {"camera", id.camera},
              {"serial", id.serial},
              {"other_serials", id.other_serials},
              {"lens", id.lens_text},
              {"frames", id.frames},
              {"first", id.first},
              {"last", id.last},
              {"folders", id.folders},
              {"status", status[static_cast<int>(id.status)]},
              {"targets", id.targets},
              {"because", id.why}};
    if (id.status == Identity::Status::unclaimed)
        j["proposal"] = {{"action", action[static_cast<int>(id.proposal.action)]},
                         {"target", id.proposal.target},
                         {"reasons", id.proposal.reasons}};
    return j;
}

void list_identities(const RegisterOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const Identity& id : identities_of(store.frames().all(), *store.registry().fleet()))
        out.push_back(identity_json(id));
    print_json(out);
}

/// Accepts all proposals that need no choice.
void accept_all(const RegisterOptions& o) {
    Store store = open_store(o.store, Access::write);
    const auto fleet = store.registry().fleet();
    std::vector<Identity> wanted;
    int left = 0, frames = 0;
    for (const Identity& id : identities_of(store.frames().all(), *fleet)) {
        if (id.status != Identity::Status::unclaimed) continue;
        if (id.proposal.action != ProposedAction::register_new && id.proposal.action != ProposedAction::claim_for) {
            ++left;
            continue;
        }
        wanted.push_back(id);
        frames += id.frames;
    }
    if (!wanted.empty())
        confirm(store, fmt::format("Accepting {} proposal{}", wanted.size(), wanted.size() == 1 ? "" : "s"), frames,
                o.yes);
    json made = json::array();
    for (const Identity& id : wanted) {
        const FleetEdit edit = edit_for(accept(id, *store.registry().fleet()));
        store.registry().edit(edit, current_author());
        for (const auto& b : edit.bodies) made.push_back(b.after->id);
        for (const auto& l : edit.lenses) made.push_back(l.after->id);
        for (const auto& c : edit.claims) made.push_back(c.after->id);
    }
    if (o.json) {
        print_json({{"accepted", wanted.size()}, {"left", left}, {"new", made}});
        return;
    }
    fmt::print("{} accepted, {} left to choose\n", wanted.size(), left);
    for (const json& id : made) fmt::print("  new: {}\n", id.get<std::string>());
}

/// Absolute path of an existing folder. Throws Error(input) otherwise, because a claim for a mistyped folder would
/// never match.
std::string existing_path(const std::string& text, bool folder) {
    const auto path = plain_path(text);
    std::error_code none;
    if (folder ? !std::filesystem::is_directory(path, none) : !std::filesystem::is_regular_file(path, none))
        throw input_error(
            fmt::format("There is no {} {}; check the path.", folder ? "folder" : "frame", path.string()));
    return path.string();
}

void claim(RegisterOptions o) {
    Store store = open_store(o.store, Access::write);
    FleetEdit edit;
    if (!o.remove.empty()) {
        edit.what = "take a claim back";
        for (const Claim& c : store.registry().claims())
            if (c.id == o.remove) edit.claims.push_back({c, std::nullopt});
        if (edit.claims.empty())
            throw input_error(fmt::format("There is no claim '{}'; 'store claims' lists them.", o.remove));
        confirm(store, "Taking the claim " + o.remove + " back", reach_of(store, edit, console_progress()), o.yes);
        return store.registry().edit(edit, current_author());
    }
    if (o.of_body.empty() == o.of_lens.empty())
        throw usage_error("Claim either for a body (--for-body) or for a lens (--for-lens), by its id.");
    Claim& c = o.claim;
    c.of = o.of_body.empty() ? Claim::Of::lens : Claim::Of::body;
    const Naming naming(store);
    c.target = o.of_body.empty() ? naming.lens_copy(o.of_lens) : naming.body(o.of_body);
    if (!c.camera.empty()) c.camera = naming.model(c.camera);
    if (!c.body.empty()) c.body = naming.body(c.body);
    if (!c.folder.empty()) c.folder = existing_path(c.folder, true);
    for (std::string& f : c.frames) f = existing_path(f, false);
    const FleetEdit made = edit_for_claim(c);
    const FramesReached reached = reach_of(store, made, console_progress());
    if (!o.over_register) require_register_kept(reached);
    confirm(store, "Claiming " + describe(*made.claims.front().after) + " for " + c.target, reached, o.yes);
    store.registry().edit(made, current_author());
    const std::string id = made.claims.front().after->id;
    if (o.json)
        print_json({{"claim", id}, {"target", c.target}, {"frames", reached.frames}});
    else
        fmt::print("{}\n", id);
}

void merge(const RegisterOptions& o) {
    Store store = open_store(o.store, Access::write);
    const Naming naming(store);
    if (o.body.empty() == o.lens.empty()) throw usage_error("Name the entry that goes with --body or with --lens.");
    const bool bodies = !o.body.empty();
    if (o.undo) {
        // The removed entry is in no register any more, so it is named by its id.
        const std::string left = undo_merge(store, bodies ? Claim::Of::body : Claim::Of::lens, bodies ? o.body : o.lens,
                                            bodies ? naming.body(o.into) : naming.lens_copy(o.into));
        if (!left.empty()) fmt::print(stderr, "{}\n", left);
        return;
    }
    const std::string from = bodies ? naming.body(o.body) : naming.lens_copy(o.lens),
                      to = bodies ? naming.body(o.into) : naming.lens_copy(o.into);
    const Claim::Of of = bodies ? Claim::Of::body : Claim::Of::lens;
    if (!o.anyway) require_alike(naming.entries(), of, from, to);
    const FramesReached reached =
        reach_of(store, merge_edit(naming.entries(), store.registry().claims(), of, from, to), console_progress());
    confirm(store, fmt::format("Merging {} into {}", from, to), reached, o.yes);
    merge_entries(store, of, from, to);
    if (o.json)
        print_json({{"kept", to}, {"gone", from}, {"frames", reached.frames}});
    else
        fmt::print("{} is gone, {} stays; 'store merge --undo' with the same names takes it back.\n", from, to);
}

void add_entry_commands(CLI::App& command, const std::shared_ptr<RegisterOptions>& o) {
    auto* naming = add_command(
        command, "register", "Change an entry of the register; a lens without contacts is added by its text and number",
        "store register --body B2-0117 --name \"Stand 1\" --asset-tag HB-014");
    add_store_option(*naming, o->store);
    naming->add_option("--body", o->body, "A body: id, asset tag, serial number or name");
    naming->add_option("--lens", o->lens, "A lens: id, asset tag, serial number or name");
    naming->add_option("--model", o->model, "Name of a camera model");
    naming->add_option("--name", o->name, "Its name in the studio");
    naming->add_option("--asset-tag", o->asset_tag, "Its asset tag");
    naming->add_option("--room", o->room, "Where it is");
    naming->add_option("--condition", o->condition, "For instance infrared-converted");
    naming->add_option("--notes", o->notes, "Notes");
    naming->add_option("--in-service", o->in_service, "yes or no");
    naming->add_flag("--add", o->add, "--lens names a new lens, as TEXT/NUMBER");
    naming->add_flag("--without-contacts", o->contacts_none, "Files do not report this lens");
    naming->add_option("--focal", o->focal_min, "Focal length in mm, of a zoom the shortest")
        ->check(between(0.5, 5000));
    naming->add_option("--focal-to", o->focal_max, "Longest focal length of a zoom in mm")->check(between(0.5, 5000));
    naming->add_option("--recorded-adds", o->recorded_adds,
                       "Of a model: pins as JSON that the start 'as recorded' gets beside what files say");
    naming->callback([o, naming] { register_entry(*o, *naming); });

    auto* merging = add_command(
        command, "merge", "Two entries that are one thing become one: number, claims and tiers of the draft move along",
        "store merge --body B2-0117 --into HB-014");
    add_store_option(*merging, o->store);
    merging->add_option("--body", o->body, "The body whose entry goes");
    merging->add_option("--lens", o->lens, "The lens whose entry goes");
    merging->add_option("--into", o->into, "The entry that stays")->required();
    merging->add_flag("--anyway", o->anyway, "Also bodies of two models, or lenses of other focal lengths");
    merging->add_flag("--undo", o->undo, "Take the newest merge of these two back; the one that went by its id");
    add_yes_flag(*merging, o->yes);
    merging->add_flag("--json", o->json, "Print JSON");
    merging->callback([o] { merge(*o); });
}

void add_fleet_commands(CLI::App& command, const std::shared_ptr<RegisterOptions>& o) {
    auto* fleet = add_command(command, "fleet", "The register as CSV or JSON",
                              "store fleet export --list bodies --out bodies.csv");
    fleet->require_subcommand(1);
    auto* out = add_command(*fleet, "export", "Write bodies, lenses or models as CSV, or all with claims as JSON",
                            "store fleet export --list bodies --out bodies.csv");
    add_store_option(*out, o->store);
    out->add_option("--list", o->list, "bodies, lenses or models (CSV)")->capture_default_str();
    out->add_option("--format", o->format, "csv or json")->capture_default_str();
    out->add_option("--out", o->file, "File to write (.csv or .json) [default: standard output]");
    add_overwrite_flag(*out, o->overwrite);
    out->callback([o] { export_fleet(*o); });
    auto* in = add_command(*fleet, "import", "Take over a CSV or JSON; nothing is taken when one line is wrong",
                           "store fleet import bodies.csv");
    add_store_option(*in, o->store);
    in->add_option("file", o->file, "CSV or JSON")->required();
    in->add_flag("--preview", o->preview, "Say what would change; nothing is taken");
    add_yes_flag(*in, o->yes);
    in->add_flag("--json", o->json, "Print JSON");
    in->callback([o] { import_fleet(*o); });
}

void add_identity_commands(CLI::App& command, const std::shared_ptr<RegisterOptions>& o) {
    auto* identities =
        add_command(command, "identities", "What files report of bodies and lenses, with claims and proposals, as JSON",
                    "store identities --json");
    add_store_option(*identities, o->store);
    identities->add_flag("--json", o->json, "Print JSON (the only form)");
    identities->callback([o] { list_identities(*o); });
    auto* accepting = add_command(command, "accept",
                                  "Accept all proposals for unclaimed identities that need no choice", "store accept");
    accepting->add_flag("--json", o->json, "Print JSON");
    add_yes_flag(*accepting, o->yes);
    add_store_option(*accepting, o->store);
    accepting->callback([o] { accept_all(*o); });
}

void add_claim_commands(CLI::App& command, const std::shared_ptr<RegisterOptions>& o) {
    auto* claims = add_command(command, "claims", "List the claims as JSON", "store claims");
    add_store_option(*claims, o->store);
    claims->callback([o] {
        json list = json::array();
        for (const Claim& c : open_store(o->store, Access::read).registry().claims())
            list.push_back(json::parse(claim_to_json(c)));
        print_json(list);
    });
    auto* claiming =
        add_command(command, "claim", "Tie what files report, a folder, a time span or frames to a body or a lens",
                    "store claim --for-body HB-041 --camera \"Quenby Q2\" --folder shoots/loft");
    claiming->add_flag("--json", o->json, "Print the id of the claim");
    add_store_option(*claiming, o->store);
    claiming->add_option("--for-body", o->of_body, "The body: id, asset tag, serial number or name");
    claiming->add_option("--for-lens", o->of_lens, "The lens: id, asset tag, serial number or name");
    claiming->add_option("--camera", o->claim.camera, "Frames of this camera model");
    claiming->add_option("--serial", o->claim.serial, "Body number as files report it");
    claiming->add_option("--lens-text", o->claim.lens_text, "Lens as files report it");
    claiming->add_option("--lens-serial", o->claim.lens_serial, "Lens number as files report it");
    claiming->add_option("--body", o->claim.body, "For a lens: frames of this body");
    claiming->add_option("--folder", o->claim.folder, "Frames in this folder and below");
    claiming->add_option("--from", o->claim.from, "Frames from this time on: 2026-03-04, 2026-03-04T14:00");
    claiming->add_option("--to", o->claim.to, "Frames until this time");
    claiming->add_option("--frame", o->claim.frames, "Just these frames");
    claiming->add_option("--focal", o->claim.focal_mm, "For a lens without contacts: focal length in mm");
    claiming->add_option("--aperture", o->claim.aperture, "For a lens without contacts: f-number");
    claiming->add_option("--note", o->claim.note, "Why");
    claiming->add_flag("--over-register", o->over_register,
                       "Also frames that report a number which the register holds for another body or lens");
    add_yes_flag(*claiming, o->yes);
    claiming->add_option("--remove", o->remove, "Take back the claim with this id");
    claiming->callback([o] { claim(*o); });
}

}  // namespace

void add_register(CLI::App& command) {
    const auto o = std::make_shared<RegisterOptions>();
    add_entry_commands(command, o);
    add_fleet_commands(command, o);
    add_identity_commands(command, o);
    add_claim_commands(command, o);
}

}  // namespace optrel::cli

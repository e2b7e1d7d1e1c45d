#include <fmt/format.h>

#include <QUuid>
#include <fmt/chrono.h>

#include "base/files.h"
#include "commands.h"
#include "fleet/register_files.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct Options {
    std::string store, body, lens, model, name, asset_tag, room, condition, notes, recorded_adds, in_service, file, list = "bodies", format = "csv";
    Claim claim;
    std::string of_body, of_lens, remove;
    bool json = false, all = false, contacts_none = false;
    double focal_min = 0, focal_max = 0;
};

/// Sets what was given on the command line.
void put(std::string& to, const std::string& given, const CLI::App& command, const char* option) {
    if (command.count(option)) to = given;
}

bool yes(const std::string& text) {
    if (text != "yes" && text != "no") throw usage_error(fmt::format("--in-service takes yes or no, not '{}'.", text));
    return text == "yes";
}

void register_entry(const Options& o, const CLI::App& command) {
    Store store(store_folder(o.store));
    const Register all = store.entries();
    if (int(!o.body.empty()) + int(!o.lens.empty()) + int(!o.model.empty()) != 1) throw usage_error("Name one of --body, --lens and --model, by its id as 'store list' prints it.");
    Store::FleetEdit edit;
    edit.what = "register";
    if (!o.body.empty()) {
        const Body* before = all.body(o.body);
        if (!before) throw input_error(fmt::format("There is no body '{}' in the store; 'store list bodies' shows them, 'store fleet import' adds some.", o.body));
        Body after = *before;
        put(after.name, o.name, command, "--name");
        put(after.asset_tag, o.asset_tag, command, "--asset-tag");
        put(after.room, o.room, command, "--room");
        put(after.condition, o.condition, command, "--condition");
        put(after.notes, o.notes, command, "--notes");
        if (command.count("--in-service")) after.in_service = yes(o.in_service);
        edit.bodies.push_back({*before, after});
    } else if (!o.lens.empty()) {
        const LensEntry* before = all.lens(o.lens);
        LensEntry after;
        if (before) {
            after = *before;
        } else {
            // A lens that no file reports is entered by its text and number, as in "Aldercroft 60mm f/4 macro/AM-11".
            Metadata m;
            const std::size_t slash = o.lens.rfind('/');
            const bool numbered = slash != std::string::npos && slash > 0 && o.lens[slash - 1] != 'f';
            m.lens = numbered ? o.lens.substr(0, slash) : o.lens;
            m.lens_serial = numbered ? o.lens.substr(slash + 1) : "";
            after = lens_from(m);
            after.id = id_for(after);
        }
        put(after.name, o.name, command, "--name");
        put(after.asset_tag, o.asset_tag, command, "--asset-tag");
        put(after.room, o.room, command, "--room");
        put(after.notes, o.notes, command, "--notes");
        if (command.count("--in-service")) after.in_service = yes(o.in_service);
        if (o.contacts_none) after.contacts = false;
        if (command.count("--focal")) {
            after.focal_min_mm = o.focal_min;
            after.focal_max_mm = command.count("--focal-to") ? o.focal_max : o.focal_min;
        }
        edit.lenses.push_back({before ? std::optional(*before) : std::nullopt, after});
    } else {
        const ModelEntry* before = all.model(o.model);
        if (!before) throw input_error(fmt::format("There is no model '{}' in the store; 'store list models' shows them.", o.model));
        ModelEntry after = *before;
        put(after.notes, o.notes, command, "--notes");
        put(after.recorded_adds, o.recorded_adds, command, "--recorded-adds");
        edit.models.push_back({*before, after});
    }
    store.edit_fleet(edit, current_author());
}

void export_fleet(const Options& o) {
    Store store(store_folder(o.store));
    const Register all = store.entries();
    std::string text;
    if (o.format == "json")
        text = register_to_json(all, store.claims());
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
    if (o.file.empty())
        fmt::print("{}", text);
    else
        write_atomic(o.file, text);
}

void import_fleet(const Options& o) {
    Store store(store_folder(o.store));
    const std::string text = read_file(o.file);
    const std::size_t first = text.find_first_not_of(" \t\r\n\xef\xbb\xbf");
    const RegisterImport import = first != std::string::npos && text[first] == '{' ? register_from_json(text, o.file, store.entries()) : register_from_csv(text, o.file, store.entries());
    store.edit_fleet(store.edit_for(import), current_author());
    if (o.json)
        print_json({{"added", import.added}, {"changed", import.changed}, {"same", import.same}, {"claims", import.claims.size()}});
    else
        fmt::print("{} added, {} changed, {} the same\n", import.added, import.changed, import.same);
}

json identity_json(const Identity& id) {
    static const char* status[] = {"claimed", "assumed", "unclaimed"};
    static const char* action[] = {"none", "register", "claim", "choose"};
    json j = {{"of", id.of == Identity::Of::body ? "body" : "lens"}, {"camera", id.camera}, {"serial", id.serial}, {"other_serials", id.other_serials}, {"lens", id.lens_text}, {"frames", id.frames},
              {"first", id.first}, {"last", id.last}, {"folders", id.folders}, {"status", status[static_cast<int>(id.status)]}, {"targets", id.targets}, {"because", id.why}};
    if (id.status == Identity::Status::unclaimed) j["proposal"] = {{"action", action[static_cast<int>(id.proposal.action)]}, {"target", id.proposal.target}, {"reasons", id.proposal.reasons}};
    return j;
}

void list_identities(const Options& o) {
    Store store(store_folder(o.store));
    json out = json::array();
    for (const Identity& id : identities_of(store.frames(), *store.fleet())) out.push_back(identity_json(id));
    print_json(out);
}

/// Accepts every proposal that needs no choice.
void accept_all(const Options& o) {
    Store store(store_folder(o.store));
    const auto fleet = store.fleet();
    int accepted = 0, left = 0;
    for (const Identity& id : identities_of(store.frames(), *fleet)) {
        if (id.status != Identity::Status::unclaimed) continue;
        if (id.proposal.action != ProposedAction::register_new && id.proposal.action != ProposedAction::claim_for) {
            ++left;
            continue;
        }
        store.edit_fleet(edit_for(accept(id, *store.fleet())), current_author());
        ++accepted;
    }
    fmt::print("{} accepted, {} left to choose\n", accepted, left);
}

void claim(Options o) {
    Store store(store_folder(o.store));
    Store::FleetEdit edit;
    if (!o.remove.empty()) {
        edit.what = "take a claim back";
        for (const Claim& c : store.claims())
            if (c.id == o.remove) edit.claims.push_back({c, std::nullopt});
        if (edit.claims.empty()) throw input_error(fmt::format("There is no claim '{}'; 'store claims' lists them.", o.remove));
        return store.edit_fleet(edit, current_author());
    }
    if (o.of_body.empty() == o.of_lens.empty()) throw usage_error("Claim either for a body (--for-body) or for a lens (--for-lens), by its id.");
    Claim& c = o.claim;
    c.of = o.of_body.empty() ? Claim::Of::lens : Claim::Of::body;
    c.target = o.of_body.empty() ? o.of_lens : o.of_body;
    const Register all = store.entries();
    if (c.of == Claim::Of::body ? !all.body(c.target) : !all.lens(c.target)) throw input_error(fmt::format("There is no '{}' in the register; 'store list' shows bodies and lenses.", c.target));
    if (!c.folder.empty()) c.folder = std::filesystem::absolute(c.folder).lexically_normal().string();
    for (std::string& f : c.frames) f = std::filesystem::absolute(f).lexically_normal().string();
    store.edit_fleet(edit_for_claim(c), current_author());
}

}  // namespace

void add_register(CLI::App& command) {
    auto o = std::make_shared<Options>();
    auto* naming = command.add_subcommand("register", "Change an entry of the register; a lens without contacts is added by its text and number");
    add_store_option(*naming, o->store);
    naming->add_option("--body", o->body, "Id of a body");
    naming->add_option("--lens", o->lens, "Id of a lens");
    naming->add_option("--model", o->model, "Name of a camera model");
    naming->add_option("--name", o->name, "Its name in the studio");
    naming->add_option("--asset-tag", o->asset_tag, "Its asset tag");
    naming->add_option("--room", o->room, "Where it is");
    naming->add_option("--condition", o->condition, "For instance infrared-converted");
    naming->add_option("--notes", o->notes, "Notes");
    naming->add_option("--in-service", o->in_service, "yes or no");
    naming->add_flag("--without-contacts", o->contacts_none, "Files do not report this lens");
    naming->add_option("--focal", o->focal_min, "Focal length in mm, of a zoom the shortest");
    naming->add_option("--focal-to", o->focal_max, "Longest focal length of a zoom in mm");
    naming->add_option("--recorded-adds", o->recorded_adds, "Of a model: pins as JSON that the start 'as recorded' gets beside what files say");
    naming->callback([o, naming] { register_entry(*o, *naming); });

    auto* fleet = command.add_subcommand("fleet", "The register as CSV or JSON");
    fleet->require_subcommand(1);
    auto* out = fleet->add_subcommand("export", "Write bodies, lenses or models as CSV, or all with claims as JSON");
    add_store_option(*out, o->store);
    out->add_option("--list", o->list, "bodies, lenses or models (CSV)");
    out->add_option("--format", o->format, "csv or json");
    out->add_option("--out", o->file, "File to write (default: standard output)");
    out->callback([o] { export_fleet(*o); });
    auto* in = fleet->add_subcommand("import", "Take over a CSV or JSON; nothing is taken when one line is wrong");
    add_store_option(*in, o->store);
    in->add_option("file", o->file, "CSV or JSON")->required();
    in->add_flag("--json", o->json, "Print JSON");
    in->callback([o] { import_fleet(*o); });

    auto* identities = command.add_subcommand("identities", "What files report of bodies and lenses, with claims and proposals, as JSON");
    add_store_option(*identities, o->store);
    identities->add_flag("--json", o->json, "Print JSON (the only form)");
    identities->callback([o] { list_identities(*o); });
    auto* accepting = command.add_subcommand("accept", "Accept all proposals for unclaimed identities that need no choice");
    add_store_option(*accepting, o->store);
    accepting->callback([o] { accept_all(*o); });

    auto* claims = command.add_subcommand("claims", "List the claims as JSON");
    add_store_option(*claims, o->store);
    claims->callback([o] {
        json list = json::array();
        for (const Claim& c : Store(store_folder(o->store)).claims()) list.push_back(json::parse(claim_to_json(c)));
        print_json(list);
    });
    auto* claiming = command.add_subcommand("claim", "Tie what files report, a folder, a time span or frames to a body or a lens");
    add_store_option(*claiming, o->store);
    claiming->add_option("--for-body", o->of_body, "Id of the body");
    claiming->add_option("--for-lens", o->of_lens, "Id of the lens");
    claiming->add_option("--camera", o->claim.camera, "Frames of this camera model");
    claiming->add_option("--serial", o->claim.serial, "Body number as files report it");
    claiming->add_option("--lens-text", o->claim.lens_text, "Lens as files report it");
    claiming->add_option("--lens-serial", o->claim.lens_serial, "Lens number as files report it");
    claiming->add_option("--body", o->claim.body, "For a lens: frames of this body");
    claiming->add_option("--folder", o->claim.folder, "Frames in this folder and below");
    claiming->add_option("--from", o->claim.from, "Frames from this time on, as in 2026:03:04 14:00:00");
    claiming->add_option("--to", o->claim.to, "Frames until this time");
    claiming->add_option("--frame", o->claim.frames, "Just these frames");
    claiming->add_option("--focal", o->claim.focal_mm, "For a lens without contacts: focal length in mm");
    claiming->add_option("--aperture", o->claim.aperture, "For a lens without contacts: f-number");
    claiming->add_option("--note", o->claim.note, "Why");
    claiming->add_option("--remove", o->remove, "Take back the claim with this id");
    claiming->callback([o] { claim(*o); });
}

}  // namespace optrel::cli

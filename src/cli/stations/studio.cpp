// SPDX-License-Identifier: GPL-3.0-or-later
// Commands for shared stores: users, roots, history.
#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/station.h"
#include "base/words.h"
#include "cli/commands.h"
#include "store/studio_names.h"
#include "studio/rollout/frames_reached.h"
#include "studio/sharing/unpacking.h"
#include "studio/stations/history_check.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct StudioOptions {
    std::string store, name, role, folder, station, kind, subject;
    int most = 50;
    std::vector<std::string> bundles;
    bool json = false, accept = false;
};

/// For reading from a constant store, else for changing.
template <class AnyStore>
auto& people_of(AnyStore& store) {
    if (auto* people = store.people()) return *people;
    throw input_error(
        "A store in a folder knows no people: it is everybody's who may write its folder; one on a server does "
        "(optrel-cli store copy --from FOLDER --to postgresql://USER@HOST/NAME).");
}

void list_people(const StudioOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const Person& p : people_of(store).all()) {
        out.push_back({{"name", p.name}, {"role", to_string(p.role)}});
        if (!o.json) fmt::print("{:<20}  {}\n", p.name, to_string(p.role));
    }
    end_list(out, o.json, "Nobody has a role in this store.");
}

void list_history(const StudioOptions& o) {
    if (!o.kind.empty() && std::find(history_kinds().begin(), history_kinds().end(), o.kind) == history_kinds().end())
        throw usage_error(fmt::format("The history tells of nothing called '{}'{}.", printable(o.kind),
                                      nearest_clause(o.kind, history_kinds())));
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const HistoryEntry& e : store.history().entries(o.kind, o.subject, o.most)) {
        out.push_back({{"row", e.id},
                       {"time", e.time},
                       {"author", e.author},
                       {"login", e.login},
                       {"station", e.station},
                       {"kind", e.kind},
                       {"subject", e.subject},
                       {"what", e.what},
                       {"before", e.before},
                       {"after", e.after}});
        if (!o.json)
            fmt::print("{:>6}  {}  {} at {}  {} {}: {}\n", e.id, e.time, e.author, e.station, e.kind, e.subject,
                       e.what);
    }
    end_list(out, o.json, "The history has no such entry.");
}

void audit(const StudioOptions& o) {
    const Store store = open_store(o.store, Access::read);
    HistoryAudit found = audit_history(store, console_progress(), o.accept);
    for (const std::string& file : o.bundles) {
        const Bundle bundle = read_bundle(file);
        if (bundle.key.empty())
            found.problems.push_back(
                fmt::format("{} is not signed, so its record of the history proves nothing.", printable(file)));
        else if (!bundle.anchor || bundle.anchor->first != store.history().first_seal())
            found.problems.push_back(fmt::format("{} does not tell of the history of this store.", printable(file)));
        else if (const std::string fault = fault_of_anchor(store, bundle); !fault.empty())
            found.problems.push_back(fault);
    }
    if (o.json)
        print_json({{"rows", found.rows},
                    {"problems", found.problems},
                    {"newest", found.newest.id},
                    {"seal", found.newest.seal}});
    else
        fmt::print("{} rows of history read, {} problems\n", found.rows, found.problems.size());
    fail_with(found.problems);
}

void list_roots(const StudioOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const RootPlace& p : store.roots().all()) {
        std::error_code none;
        const bool here = p.station == this_station();
        const bool mounted = here && std::filesystem::is_directory(p.folder, none);
        out.push_back({{"root", p.root}, {"station", p.station}, {"folder", p.folder.string()}, {"here", here}});
        if (here) out.back()["there"] = mounted;
        if (!o.json)
            fmt::print("{:<16}  {:<16}  {}{}\n", p.root, p.station, p.folder.string(),
                       here && !mounted ? "  is not there" : "");
    }
    end_list(out, o.json, "No root is set; frames are kept by their whole paths.");
}

void add_people(CLI::App& store, const std::shared_ptr<StudioOptions>& o) {
    auto* people = add_command(store, "people", "Who may do what in a store on a server",
                               "store people list --store postgresql://iva@server/studio");
    people->require_subcommand(1);
    auto* listing = add_command(*people, "list", "List people and their roles", "store people list --store studio");
    add_store_option(*listing, o->store);
    listing->add_flag("--json", o->json, "Print JSON");
    listing->callback([o] { list_people(*o); });
    auto* giving = add_command(*people, "give", "Let somebody in, or give another role",
                               "store people give jon approves --store postgresql://iva@server/studio");
    add_store_option(*giving, o->store);
    giving->add_option("name", o->name, "Name of their login at the server")->required();
    giving->add_option("role", o->role, "looks, works, approves or keeps")->required();
    giving->callback([o] {
        const Role role = role_named(o->role);
        Store there = open_store(o->store, Access::write);
        people_of(there).put({o->name, role});
        fmt::print("{} {} in this studio from now on; a login of that name was made if there was none.\n", o->name,
                   to_string(role));
    });
    auto* removing = add_command(*people, "remove", "Let somebody in no more",
                                 "store people remove jon --store postgresql://iva@server/studio");
    add_store_option(*removing, o->store);
    removing->add_option("name", o->name, "Name of their login at the server")->required();
    removing->callback([o] {
        Store there = open_store(o->store, Access::write);
        people_of(there).remove(o->name);
    });
}

void add_roots(CLI::App& store, const std::shared_ptr<StudioOptions>& o) {
    auto* roots = add_command(store, "root", "Folders of frames that each station sees under its own path",
                              "store root list --store studio");
    roots->require_subcommand(1);
    auto* listing = add_command(*roots, "list", "List roots and where they lie", "store root list --store studio");
    add_store_option(*listing, o->store);
    listing->add_flag("--json", o->json, "Print JSON");
    listing->callback([o] { list_roots(*o); });
    auto* adding = add_command(*roots, "add", "Say where a root lies at this station",
                               "store root add shoots /mnt/shoots --store studio");
    add_store_option(*adding, o->store);
    adding->add_option("name", o->name, "Name of the root, the same at all stations")->required();
    adding->add_option("folder", o->folder, "Where it lies here")->required();
    adding->add_option("--station", o->station, "Another station than this one");
    adding->callback([o] {
        Store there = open_store(o->store, Access::write);
        const std::string station = o->station.empty() ? this_station() : o->station;
        there.roots().put({o->name, station, o->folder});
        fmt::print("The root {} lies in {} at {}.\n", o->name, o->folder, station);
    });
    auto* removing =
        add_command(*roots, "remove", "A root lies at this station no more", "store root remove shoots --store studio");
    add_store_option(*removing, o->store);
    removing->add_option("name", o->name, "Name of the root")->required();
    removing->add_option("--station", o->station, "Another station than this one");
    removing->callback([o] {
        Store there = open_store(o->store, Access::write);
        there.roots().remove(o->name, o->station.empty() ? this_station() : o->station);
    });
}

void add_names(CLI::App& store, const std::shared_ptr<StudioOptions>& o) {
    auto* names = add_command(store, "name", "Give a store a name on this machine, to be written after --store",
                              "store name north postgresql://iva@server/studio");
    names->add_option("name", o->name, "The name; without one all are listed");
    names->add_option("address", o->folder, "A folder or an address; without one the name is forgotten");
    names->callback([o] {
        if (!o->name.empty()) return name_studio(o->name, o->folder);
        if (studio_names().empty()) fmt::print("No store has a name on this machine.\n");
        for (const auto& [name, address] : studio_names()) fmt::print("{:<16}  {}\n", name, address);
    });
}

}  // namespace

void add_studio(CLI::App& store) {
    auto limit = std::make_shared<StudioOptions>();
    auto* limiting =
        add_command(store, "limit", "How many frames a script may change without saying --yes", "store limit 50");
    add_store_option(*limiting, limit->store);
    limiting->add_option("frames", limit->most, "The number to settle [default: tell the present one]")
        ->check(whole(0, 1000000000));
    limiting->callback([limit, limiting] {
        const bool settles = limiting->count("frames") > 0;
        Store studio = open_store(limit->store, settles ? Access::write : Access::read);
        if (settles) put_frames_without_asking(studio, limit->most);
        fmt::print("{}\n", frames_without_asking(studio));
    });
    auto o = std::make_shared<StudioOptions>();
    add_people(store, o);
    add_roots(store, o);
    add_names(store, o);
    auto* history = add_command(store, "history", "Who changed what, where and when, newest first",
                                "store history --kind tier --store studio");
    add_store_option(*history, o->store);
    history->add_option("--kind", o->kind, "One kind: tier, set, revision, profile, body, lens, rollout, ...");
    history->add_option("--subject", o->subject, "One of a kind, by its id or number");
    history->add_option("--most", o->most, "How many rows")->check(between(1, 1000000));
    history->add_flag("--json", o->json, "Print JSON, with what stood before and after");
    history->callback([o] { list_history(*o); });
    auto* auditing = add_command(store, "audit",
                                 "Read the whole history and tell whether anybody changed it; fails when somebody did",
                                 "store audit --store studio");
    add_store_option(*auditing, o->store);
    auditing->add_option("--bundle", o->bundles,
                         "A signed bundle that was packed from this store: the row that it tells of has to be there");
    auditing->add_flag("--accept", o->accept,
                       "Accept the present history, for example after a copy was restored; what this station "
                       "saw before is forgotten");
    auditing->add_flag("--json", o->json, "Print JSON");
    auditing->callback([o] { audit(*o); });
}

}  // namespace optrel::cli

// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli bundle and key: exchange between studios, and trusted keys.
#include <fmt/format.h>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/frames/scope_options.h"
#include "studio/sharing/packing.h"
#include "studio/sharing/unpacking.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct BundleOptions {
    std::string store, file, key, name;
    PackingList list;
    BundleLabel label;
    ScopeOptions scope;
    std::vector<std::string> take, renamed;
    bool frames = false, unsigned_ = false, overwrite = false, json = false, replace = false, anyway = false;
    bool trust = false, no_more = false, all_frames = false;
    std::uint64_t up_to_mb = ordinary_bundle >> 20;
};

SigningKey own_key() { return SigningKey::load_or_make(own_key_path()); }

bool says_scope(const ScopeOptions& s) {
    return !s.folders.empty() || !s.jobs.empty() || !s.bodies.empty() || !s.lenses.empty() || !s.states.empty() ||
           !s.frames.empty() || !s.iso.empty() || !s.from.empty() || !s.to.empty() || !s.selection.empty();
}

void pack_bundle(BundleOptions o) {
    const Store store = open_store(o.store, Access::read);
    if (o.all_frames || says_scope(o.scope))
        o.list.frames =
            frames_of(scope_from(o.scope, store), store.frames().all(), *store.registry().fleet(), console_progress());
    if (o.label.title.empty()) o.label.title = std::filesystem::path(o.file).filename().string();
    if (const std::size_t end = o.label.title.find(bundle_ending); end != std::string::npos) o.label.title.resize(end);
    const Bundle bundle = packed(store, o.list, o.label, console_progress());
    std::optional<SigningKey> key;
    if (!o.unsigned_) key = own_key();
    write_bundle(o.file, bundle_bytes(bundle, key ? &*key : nullptr), o.overwrite);
    if (o.json)
        return print_json({{"file", o.file},
                           {"parts", bundle.parts.size()},
                           {"contents", contents_of(bundle)},
                           {"key", key ? key->public_key() : ""}});
    fmt::print("{}: {}, {}.\n", o.file, contents_of(bundle),
               key ? "signed with " + key_words(key->public_key()) : std::string("not signed"));
    if (const std::uint64_t size = unpacked_size(o.file); size > ordinary_bundle)
        fmt::print("It unpacks to {} MB, more than is taken unasked; who gets it allows that.\n", 1 + (size >> 20));
}

json part_json(const UnpackedPart& p) {
    return {{"kind", to_string(p.kind)}, {"id", p.id},      {"name", p.name}, {"stand", to_string(p.stand)},
            {"replaces", p.replaces()},  {"words", p.words}};
}

void show_bundle(const BundleOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const BundleView view = look_at(store, read_bundle(o.file, o.up_to_mb << 20));
    const Bundle& b = view.bundle;
    if (o.json) {
        json parts = json::array();
        for (const UnpackedPart& p : view.parts) parts.push_back(part_json(p));
        return print_json({{"title", b.title},
                           {"note", b.note},
                           {"sender", b.sender},
                           {"time", b.time},
                           {"program", b.program},
                           {"key", b.key},
                           {"signature", to_string(view.standing)},
                           {"signer", view.signer},
                           {"history", view.history},
                           {"parts", parts}});
    }
    fmt::print("{}: {}, packed {} by {}.\nIt is {}.\n{}", printable(b.title), contents_of(b), printable(b.time),
               b.sender.empty() ? "somebody who gave no name" : printable(b.sender), view.origin(),
               b.note.empty() ? "" : printable(b.note) + "\n");
    if (!view.history.empty()) fmt::print("{}\n", view.history);
    for (const UnpackedPart& p : view.parts) {
        fmt::print("  {:<11} {:<28} {}\n", to_string(p.kind), printable(p.name), to_string(p.stand));
        for (const std::string& w : p.words) fmt::print("              {}\n", printable(w));
    }
}

/// Parses "set:Dry fronds", or a kind alone for all parts of it.
BundleChoice choice_from(const BundleOptions& o, const BundleView& view) {
    BundleChoice out = all_of(view, o.replace);
    if (!o.take.empty()) out.parts.clear();
    for (const std::string& text : o.take) {
        const std::size_t colon = text.find(':');
        const BundleKind kind = BundleKind::named(text.substr(0, colon));
        if (colon != std::string::npos) {
            out.parts.emplace_back(kind, text.substr(colon + 1));
            continue;
        }
        bool any = false;
        for (const UnpackedPart& p : view.parts)
            if (p.kind == kind && (any = true) && p.usable() && (o.replace || !p.replaces()))
                out.parts.emplace_back(kind, p.id);
        if (!any) throw input_error(fmt::format("The bundle has no {}.", to_string(kind)));
    }
    for (const std::string& text : o.renamed) {
        const std::size_t sign = text.find('=');
        if (sign == std::string::npos || sign == 0 || sign + 1 == text.size())
            throw usage_error(fmt::format("'{}' is no other name for a set; write OLD=NEW.", printable(text)));
        const std::string from = text.substr(0, sign);
        out.set_names[from] = text.substr(sign + 1);
        const std::pair part(BundleKind::set, from);
        if (o.take.empty() && std::find(out.parts.begin(), out.parts.end(), part) == out.parts.end())
            out.parts.push_back(part);
    }
    out.anyway = o.anyway;
    return out;
}

void take_bundle(const BundleOptions& o) {
    Store store = open_store(o.store, Access::write);
    const BundleView view = look_at(store, read_bundle(o.file, o.up_to_mb << 20));
    const BundleImport taken = take_from(store, view, choice_from(o, view), author_or_me(""));
    store.found_bundles().settle(plain_path(o.file), "take in", author_or_me(""));
    if (o.json) {
        json profiles = json::array();
        for (const Measurement& p : taken.measurements)
            profiles.push_back({{"id", p.id}, {"version", p.version}, {"name", p.name}});
        return print_json({{"told", taken.told}, {"profiles", profiles}});
    }
    for (const std::string& line : taken.told) fmt::print("{}\n", line);
    for (const UnpackedPart& p : view.parts)
        if (p.stand == UnpackedPart::Stand::unusable ||
            (p.replaces() && !o.replace && o.take.empty() && o.renamed.empty()))
            fmt::print(stderr, "Left: {} '{}', {}{}\n", to_string(p.kind), printable(p.name), to_string(p.stand),
                       p.words.empty() ? "." : ": " + printable(p.words.front()) + ".");
}

void list_found(const BundleOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const FoundBundle& b : store.found_bundles().waiting()) {
        out.push_back({{"file", b.path.string()}, {"hash", b.hash}});
        if (!o.json) fmt::print("{}\n", printable(b.path.string()));
    }
    end_list(out, o.json, "No bundle was found.");
}

void add_bundle_pack(CLI::App& bundle, const std::shared_ptr<BundleOptions>& o) {
    auto* packing = add_command(bundle, "pack", "Pack what a job, a colleague or an archive needs into one file",
                                "bundle pack --folder /shoots/seaweeds --out seaweeds.optrel.zip");
    add_store_option(*packing, o->store);
    packing->add_option("--out", o->file, fmt::format("File to write; its name ends in {}", bundle_ending))->required();
    packing->add_option("--profile", o->list.profiles, "A profile: id, ID@VERSION or its lens");
    packing->add_option("--set", o->list.sets, "A set of the draft");
    packing->add_option("--tier", o->list.tiers, "A tier of the draft");
    packing->add_option("--with-body", o->list.bodies, "A body of the register");
    packing->add_option("--with-lens", o->list.lenses, "A lens of the register");
    packing->add_option("--colour", o->list.colours, "A colour file");
    packing->add_option("--measurement", o->list.measurements,
                        "A measurement of any kind: id, or ID@VERSION ('store measurements' lists them)");
    packing->add_option("--revision", o->list.baseline, "A published baseline, whole")->check(whole(1, 1000000000));
    packing->add_flag("--all-frames", o->all_frames, "All that the frames of the store need");
    add_scope_options(*packing, o->scope);
    packing->add_option("--title", o->label.title, "What it is called [default: the name of the file]");
    packing->add_option("--note", o->label.note, "A note for who gets it");
    packing->add_option("--sender", o->label.sender, "How you, or your studio, want to be called in it");
    packing->add_flag("--unsigned", o->unsigned_, "Do not sign it");
    add_overwrite_flag(*packing, o->overwrite);
    packing->add_flag("--json", o->json, "Print JSON");
    packing->callback([o] { pack_bundle(*o); });
}

void add_size_option(CLI::App& command, BundleOptions& o) {
    command
        .add_option("--up-to-mb", o.up_to_mb,
                    "How much the bundle may unpack to, in MB; more only from whom you expect it")
        ->capture_default_str()
        ->check(whole(1, bundle_limit >> 20));
}

void add_bundle_reading(CLI::App& bundle, const std::shared_ptr<BundleOptions>& o) {
    auto* showing =
        add_command(bundle, "show", "What a bundle holds, who signed it, and how it differs from what is here",
                    "bundle show seaweeds.optrel.zip");
    add_store_option(*showing, o->store);
    showing->add_option("file", o->file, "The bundle")->required();
    add_size_option(*showing, *o);
    showing->add_flag("--json", o->json, "Print JSON");
    showing->callback([o] { show_bundle(*o); });

    auto* taking = add_command(bundle, "take", "Take parts of a bundle in; all that is new unless --take names some",
                               "bundle take seaweeds.optrel.zip --take set:\"Dry fronds\" --take profile");
    add_store_option(*taking, o->store);
    taking->add_option("file", o->file, "The bundle")->required();
    add_size_option(*taking, *o);
    taking->add_option("--take", o->take, "A part as KIND:ID, or all of a KIND, as 'bundle show' tells them");
    taking->add_option("--as", o->renamed, "OLD=NEW: take a set under another name");
    taking->add_flag("--replace", o->replace, "Replace what is here of the same name and says something else");
    taking->add_flag("--anyway", o->anyway, "Also when it is not signed, or its key was withdrawn");
    taking->add_flag("--json", o->json, "Print JSON");
    taking->callback([o] { take_bundle(*o); });
}

json key_json(const Measurer& m) {
    return {{"key", m.key},       {"name", m.name}, {"trusted", m.trusted}, {"withdrawn", m.withdrawn},
            {"author", m.author}, {"time", m.time}};
}

void list_keys(const BundleOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const Measurer& m : store.measurers().all()) {
        out.push_back(key_json(m));
        if (!o.json) fmt::print("{}  {:<30} {}\n", m.key, printable(m.name), to_string(m.standing()));
    }
    end_list(out, o.json, "No key is known.");
}

void settle_key(const BundleOptions& o, bool trusted) {
    Store store = open_store(o.store, Access::write);
    const std::string key = required_key(o.key);
    Measurer m = store.measurers().of(key).value_or(Measurer{key, ""});
    if (!o.name.empty()) m.name = o.name;
    m.trusted = trusted;
    store.measurers().put(m, author_or_me(""));
}

}  // namespace

void add_bundle(CLI::App& app) {
    auto* bundle = add_command(app, "bundle", "What travels with a job: profiles, sets, baselines in one signed file",
                               "bundle show seaweeds.optrel.zip");
    bundle->require_subcommand(1);
    auto o = std::make_shared<BundleOptions>();
    add_bundle_pack(*bundle, o);
    add_bundle_reading(*bundle, o);
    auto* finding = add_command(*bundle, "found", "Bundles that lie in folders of frames and wait to be looked at",
                                "bundle found --json");
    add_store_option(*finding, o->store);
    finding->add_flag("--json", o->json, "Print JSON");
    finding->callback([o] { list_found(*o); });
    auto* leaving = add_command(*bundle, "put-aside", "Do not ask again about a bundle in a folder",
                                "bundle put-aside /shoots/seaweeds/job.optrel.zip");
    add_store_option(*leaving, o->store);
    leaving->add_option("file", o->file, "The bundle")->required();
    leaving->callback([o] {
        Store store = open_store(o->store, Access::write);
        const std::filesystem::path path = plain_path(o->file);
        const std::vector<FoundBundle> waiting = store.found_bundles().waiting();
        if (std::none_of(waiting.begin(), waiting.end(), [&](const FoundBundle& b) { return b.path == path; }))
            throw input_error(fmt::format("{} does not wait; 'bundle found' lists those that do.", path.string()));
        store.found_bundles().settle(path, "put aside", author_or_me(""));
    });
}

void add_key(CLI::App& app) {
    auto* command = add_command(app, "key", "Whose signatures this studio knows and trusts, and your own", "key own");
    command->require_subcommand(1);
    auto o = std::make_shared<BundleOptions>();
    auto* own = add_command(*command, "own", "Print your public key, which others need to trust you", "key own");
    own->callback([] { fmt::print("{}\n", own_key().public_key()); });
    auto* listing = add_command(*command, "list", "The keys that this studio knows", "key list --json");
    add_store_option(*listing, o->store);
    listing->add_flag("--json", o->json, "Print JSON");
    listing->callback([o] { list_keys(*o); });
    const auto settling = [&](const char* name, const char* what, bool trusted) {
        auto* c = add_command(*command, name, what, fmt::format("key {} 3f2a... --name \"Shore Museum\"", name));
        add_store_option(*c, o->store);
        c->add_option("key", o->key, "The public key, 64 digits")->required();
        c->add_option("--name", o->name, "What this studio calls its owner");
        c->callback([o, trusted] { settle_key(*o, trusted); });
    };
    settling("trust", "What this key signed may be taken by itself, as what was measured here", true);
    settling("distrust", "What this key signed is only taken where a person assigns it", false);
    auto* forgetting = add_command(*command, "forget", "Know a key no more", "key forget 3f2a...");
    add_store_option(*forgetting, o->store);
    forgetting->add_option("key", o->key, "The public key")->required();
    forgetting->callback(
        [o] { open_store(o->store, Access::write).measurers().remove(required_key(o->key), author_or_me("")); });
}

}  // namespace optrel::cli

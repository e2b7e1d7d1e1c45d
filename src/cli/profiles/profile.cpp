// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <functional>

#include "base/error.h"
#include "base/station.h"
#include "cli/commands.h"
#include "cli/confirm.h"
#include "cli/rollout/difference_json.h"
#include "optics/compare_profiles.h"
#include "optics/profile_versions.h"
#include "studio/baselines/naming.h"
#include "studio/calibration/embedded_profile.h"
#include "studio/calibration/hand_profile.h"
#include "studio/profiles/frame_profile.h"
#include "studio/profiles/profile_file.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct ProfileOptions {
    std::string store, a, b, out, frame, author;
    std::string reason;
    LensSetting setting;
    bool json = false, overwrite = false, publish = false, yes = false;
};

/// Reads a profile from a file if the text names one, otherwise from the store.
Profile profile_of(const ProfileOptions& o, const std::string& text) {
    if (std::error_code none; std::filesystem::is_regular_file(text, none)) return read_profile(text);
    return profile_named(open_store(o.store, Access::read).profiles().all_versions(), text);
}

void compare(const ProfileOptions& o) {
    const Profile a = profile_of(o, o.a), b = profile_of(o, o.b);
    if (a.id == b.id && a.version == b.version && !a.id.empty() && a.version > 0)
        throw input_error(
            fmt::format("Both are version {} of {}; name two versions, or two profiles.", a.version, a.name));
    LensSetting at = o.setting;
    const ProfileDifference d = compare_profiles(a, b, at);
    if (!o.json) {
        fmt::print("{}\n", d.sentence());
        return;
    }
    json points = json::array();
    for (std::size_t i = 0; i < d.places.size(); ++i) {
        json point = {{"at", {d.places[i].x(), d.places[i].y()}},
                      {"px", {d.px[i].x(), d.px[i].y()}},
                      {"sigma_px", d.px_sigma[i]}};
        if (!d.ev.empty()) point["ev"] = d.ev[i];
        points.push_back(std::move(point));
    }
    print_json(
        {{"sentence", d.sentence()},
         {"verdict", to_string(d.verdict)},
         {"rms_px", d.rms_px},
         {"largest_px", d.largest_px},
         {"one_sided_px", d.one_sided_px},
         {"in_sigmas", d.in_sigmas},
         {"largest_ev", d.largest_ev},
         {"focal_mm", {{"value", d.focal_mm}, {"sigma", d.focal_sigma_mm}}},
         {"centre_px",
          {{"value", {d.centre_px.x(), d.centre_px.y()}}, {"sigma", {d.centre_sigma_px.x(), d.centre_sigma_px.y()}}}},
         {"setting", to_string(at)},
         {"points", points}});
}

void make_by_hand(const ProfileOptions& o) {
    Store store = open_store(o.store, Access::write);
    const HandProfile made = profile_by_hand(o.frame, development_from_store(store, o.frame), o.author);
    const Profile p = store.profiles().publish(made.profile, OtherSettings::keep);
    if (o.json)
        print_json({{"id", p.id}, {"version", p.version}, {"name", p.name}, {"light_off_ev", made.light_off_ev}});
    else
        fmt::print("{} version {} ({}): made by hand, to be assigned where it is wanted.\n", p.name, p.version, p.id);
}

/// Parses "ID@VERSION"; the version is required, because the command changes what frames get.
Profile version_named(const Store& store, const std::string& text) {
    if (ProfileReference::parse(text).version == 0)
        throw usage_error(
            fmt::format("Name the version as ID@VERSION, not '{}'; 'store list profiles' shows them.", text));
    return profile_named(store.profiles().all_versions(), text);
}

void tell_version(const ProfileOptions& o, const Profile& p, const char* what, const FramesReached& reached) {
    if (o.json)
        print_json({{"id", p.id},
                    {"version", p.version},
                    {"what", what},
                    {"frames", reached.pixels},
                    {"largest_px", reached.largest_px},
                    {"exported", reached.exported}});
    else
        fmt::print("{} version {} ({}) is {}.\n", p.name, p.version, p.id, what);
}

/// Shows the effect of `then`, the resulting versions; then `act` applies it.
void decide_version(const Store& store, const ProfileOptions& o, const Profile& p, const std::string& doing,
                    const char* what, const std::vector<Profile>& then, const std::function<void()>& act) {
    const FramesReached reached = reach_of_versions(store, then, console_progress());
    confirm(store, doing, reached, o.yes);
    act();
    tell_version(o, p, what, reached);
}

void withdraw(const ProfileOptions& o) {
    Store store = open_store(o.store, Access::write);
    const Profile p = version_named(store, o.a);
    if (!p.state.withdrawn.empty())
        throw input_error(
            fmt::format("Version {} of {} is withdrawn already ({}).", p.version, p.name, p.state.withdrawn));
    decide_version(store, o, p, fmt::format("Withdrawing {} version {}", p.name, p.version), "withdrawn",
                   with_withdrawn(store.profiles().all_versions(), p.id, p.version),
                   [&] { store.profiles().withdraw(p.id, p.version, o.reason, current_author()); });
}

void make_current(const ProfileOptions& o) {
    Store store = open_store(o.store, Access::write);
    const Profile p = version_named(store, o.a);
    if (p.state.is_current()) throw input_error(fmt::format("Version {} of {} is current already.", p.version, p.name));
    decide_version(store, o, p, fmt::format("Making {} version {} current", p.name, p.version), "current",
                   with_current(store.profiles().all_versions(), p.id, p.version),
                   [&] { store.profiles().make_current(p.id, p.version, o.reason, current_author()); });
}

void list_versions(const ProfileOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const std::vector<Profile> all = store.profiles().all_versions();
    const std::string only = o.a.empty() ? "" : profile_named(all, o.a).id;
    json out = json::array();
    for (const Profile& p : all) {
        if (!only.empty() && p.id != only) continue;
        std::string state = p.state.is_current() ? "current" : "older";
        if (!p.state.withdrawn.empty()) state = "withdrawn: " + p.state.withdrawn;
        json findings = json::array();
        for (const SeriousFinding& f : p.findings)
            findings.push_back({{"name", f.name}, {"text", f.text}, {"by", f.accepted_by}, {"reason", f.reason}});
        out.push_back({{"id", p.id},
                       {"version", p.version},
                       {"name", p.name},
                       {"time", p.provenance.time},
                       {"author", p.provenance.author},
                       {"current", p.state.is_current()},
                       {"withdrawn", p.state.withdrawn},
                       {"accepted_findings", findings}});
        if (!o.json) fmt::print("{}@{}  {}  {}  {}\n", p.id, p.version, p.name, p.provenance.time.substr(0, 10), state);
    }
    if (o.json) return print_json(out);
    if (out.empty()) fmt::print("The store has no profile yet.\n");
}

/// Shows the difference first; only --publish saves the profile.
void take_embedded(const ProfileOptions& o) {
    Store store = open_store(o.store, o.publish ? Access::write : Access::read);
    const EmbeddedComparison c = compare_carried(o.frame, development_from_store(store, o.frame), o.author);
    json out = {{"carries", c.carried.in_words()}, {"left_out", c.made.left_out}};
    if (c.made.largest_px) out["followed_to_px"] = *c.made.largest_px;
    if (c.made.largest_percent) out["followed_to_percent"] = *c.made.largest_percent;
    if (c.difference) out["difference_from_profile"] = difference_json(*c.difference);
    if (o.publish) {
        const Profile p = store.profiles().publish(c.made.profile, OtherSettings::keep);
        out.update({{"id", p.id}, {"version", p.version}, {"name", p.name}});
    }
    if (o.json) return print_json(out);
    fmt::print("{}", c.in_words());
    if (o.publish)
        fmt::print("{} is published ({}), marked as embedded, to be assigned where it is wanted.\n",
                   c.made.profile.name, c.made.profile.id);
    else
        fmt::print("Nothing was kept; --publish makes a profile of it.\n");
}

void add_version_commands(CLI::App& command, const std::shared_ptr<ProfileOptions>& o) {
    auto* versions = add_command(command, "versions", "The versions of each profile: which is current, which withdrawn",
                                 "profile versions p7");
    add_store_option(*versions, o->store);
    versions->add_option("profile", o->a, "Id, or its lens [default: all]");
    versions->add_flag("--json", o->json, "Print JSON");
    versions->callback([o] { list_versions(*o); });
    const auto changing = [&](const char* name, const char* what, const char* example) {
        auto* s = add_command(command, name, what, example);
        add_store_option(*s, o->store);
        s->add_option("profile", o->a, "ID@VERSION")->required();
        add_yes_flag(*s, o->yes);
        s->add_flag("--json", o->json, "Print JSON");
        return s;
    };
    auto* back = changing("withdraw", "Withdraw a version: frames get the newest other one, or none",
                          "profile withdraw p7@2 --reason \"The board was bent\"");
    back->add_option("--reason", o->reason, "Why; everybody sees it who had the version")->required();
    back->callback([o] { withdraw(*o); });
    auto* current = changing("make-current", "Let frames get another version; takes a withdrawal back as well",
                             "profile make-current p7@1");
    current->add_option("--reason", o->reason, "Why");
    current->callback([o] { make_current(*o); });
}

}  // namespace

void add_profile(CLI::App& app) {
    auto* command =
        add_command(app, "profile", "Published profiles: versions, export, compare, make by hand, take from a frame",
                    "profile compare \"Lumenfold 35mm f/2.8@1\" \"Lumenfold 35mm f/2.8@2\"");
    command->require_subcommand(1);
    auto o = std::make_shared<ProfileOptions>();
    auto* exporting = add_command(*command, "export", "Print a published profile as JSON, or write it to a file",
                                  "profile export p7 --out p7.json");
    add_store_option(*exporting, o->store);
    exporting->add_option("profile", o->a, "Id (ID@VERSION for an older one), or its lens")->required();
    exporting->add_option("--out", o->out, "File to write (.json)");
    add_overwrite_flag(*exporting, o->overwrite);
    exporting->callback([o] {
        const Profile p = profile_named(open_store(o->store, Access::read).profiles().all_versions(), o->a);
        write_or_print(o->out, json_output(), o->overwrite, profile_to_json(p));
    });
    add_version_commands(*command, o);
    auto* making = add_command(*command, "by-hand", "Keep what is set by hand on a frame as a profile of its lens",
                               "profile by-hand --frame SP0005.dng");
    add_store_option(*making, o->store);
    making->add_option("--frame", o->frame, "The frame")->required()->check(CLI::ExistingFile);
    making->add_option("--author", o->author, "Who made it");
    making->add_flag("--json", o->json, "Print JSON");
    making->callback([o] { make_by_hand(*o); });
    auto* embedded = add_command(*command, "embedded", "Show, or keep as a profile, the correction that a DNG carries",
                                 "profile embedded --frame SP0005.dng --publish");
    add_store_option(*embedded, o->store);
    embedded->add_option("--frame", o->frame, "The frame")->required()->check(CLI::ExistingFile);
    embedded->add_option("--author", o->author, "Who takes it");
    embedded->add_flag("--publish", o->publish, "Keep it; without, its difference from the profile in use is shown");
    embedded->add_flag("--json", o->json, "Print JSON");
    embedded->callback([o] { take_embedded(*o); });
    auto* comparing =
        add_command(*command, "compare", "The difference of two profiles over the picture, in pixels and sigmas",
                    "profile compare p7@1 p7@2 --json");
    add_store_option(*comparing, o->store);
    comparing->add_option("a", o->a, "A file, or a published profile: id, ID@VERSION or its lens")->required();
    comparing->add_option("b", o->b, "The other")->required();
    comparing->add_option("--focal", o->setting.focal_mm, "Focal length in mm [default: the first that both have]")
        ->check(between(0.5, 5000));
    comparing->add_option("--aperture", o->setting.aperture, "f-number")->check(between(0.3, 512));
    comparing->add_option("--distance", o->setting.distance_m, "Focus distance in m")->check(between(0.001, 1e5));
    comparing->add_flag("--json", o->json, "Print JSON with the difference over a grid");
    comparing->callback([o] { compare(*o); });
}

}  // namespace optrel::cli

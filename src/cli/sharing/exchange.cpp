// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli exchange: search and publish in a profile exchange.
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/paths.h"
#include "base/words.h"
#include "cli/commands.h"
#include "frames/metadata.h"
#include "studio/baselines/naming.h"
#include "studio/frames/knowledge.h"
#include "studio/profiles/frame_profile.h"
#include "studio/sharing/exchanging.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct ExchangeOptions {
    std::string store, at, address, frame, id, profile, measurer, reason;
    ExchangeQuestion question;
    bool json = false, compare = false, send = false, none = false, show = false;
};

std::string address_for(const ExchangeOptions& o, const Store& store) {
    const std::string address = o.at.empty() ? exchange_of(store) : o.at;
    if (address.empty())
        throw input_error(
            "This studio asks no profile exchange; settle one with 'exchange use ADDRESS', or name one "
            "with --at.");
    return address;
}

ExchangeQuestion question_from(const ExchangeOptions& o, const Store& store) {
    if (o.frame.empty()) return o.question;
    const Metadata m =
        know(plain_path(o.frame), read_metadata(std::filesystem::path(o.frame)), *store.registry().fleet()).metadata;
    ExchangeQuestion q = question_for(m, geometry_of(m));
    if (!o.question.lens.empty()) q.lens = o.question.lens;
    if (q.lens.empty())
        throw input_error(fmt::format("Nobody knows which lens took {}; name it with --lens.", printable(o.frame)));
    q.most_rms_px = o.question.most_rms_px;
    return q;
}

json candidate_json(const ExchangeCandidate& c) {
    json out = json::parse(entry_to_json(c.entry));
    out["measurer"] = c.measurer;
    out["signature"] = to_string(c.standing);
    out["taken_as"] = c.worth();
    out["half_diagonal_mm"] = c.entry.geometry.half_diagonal_mm();
    return out;
}

json consensus_json(const ModelConsensus& c) {
    const CopySpread& s = c.spread;
    json out = {{"lens", c.lens},
                {"copies", c.copies},
                {"rms_px", s.rms_px},
                {"interval_px", {s.low_px, s.high_px}},
                {"largest_px", s.largest_px},
                {"measured_px", s.measured_px},
                {"one_for_another_px", s.one_for_another_px()},
                {"from_others_px", s.from_others_px},
                {"from_others_sigma_px", s.from_others_sigma_px},
                {"sentences", c.sentences()}};
    if (s.corner_ev) out["corner_ev"] = *s.corner_ev;
    return out;
}

void run_search(const ExchangeOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const ExchangeAnswer answer =
        ask_exchange(store, address_for(o, store), question_from(o, store), console_progress());
    std::optional<ModelConsensus> consensus;
    if (o.compare) consensus = consensus_of(answer, console_progress());
    if (o.json) {
        json list = json::array();
        for (const ExchangeCandidate& c : answer.candidates) list.push_back(candidate_json(c));
        json out = {{"exchange", answer.address}, {"total", answer.total}, {"profiles", list}};
        if (consensus) out["consensus"] = consensus_json(*consensus);
        return print_json(out);
    }
    for (const ExchangeCandidate& c : answer.candidates) {
        const ExchangeEntry& e = c.entry;
        fmt::print("{}  {}, {} half-diagonal, {} setting{}, {} frames, {} RMS, {} covered, {}\n", e.id.substr(0, 12),
                   printable(e.lens), figure_text(figures::sensor_side, e.geometry.half_diagonal_mm()), e.settings,
                   e.settings == 1 ? "" : "s", e.frames, figure_text(figures::reprojection_error, e.rms_px),
                   figure_text(figures::share, 100 * e.coverage), e.measured);
        fmt::print("              by {} ({}), {}: {}\n", c.measurer.empty() ? "somebody" : printable(c.measurer),
                   key_words(e.key), to_string(c.standing), c.worth());
        if (e.agreement)
            fmt::print("              {} RMS from the mean of {} other{} (one sigma of that: {})\n",
                       figure_text(figures::shift, e.agreement->from_others_px), e.agreement->others,
                       e.agreement->others == 1 ? "" : "s", figure_text(figures::shift, e.agreement->sigma_px));
    }
    fmt::print("{} of {} profiles at {}.\n", answer.candidates.size(), answer.total, answer.address);
    if (consensus)
        for (const std::string& sentence : consensus->sentences()) fmt::print("{}\n", sentence);
    else if (o.compare)
        fmt::print("There are no two copies of one lens to be compared.\n");
}

/// Finds a profile by the beginning of its id; a complete id needs no search.
std::pair<std::string, std::string> id_and_key(const ExchangeOptions& o, const Store& store,
                                               const std::string& address) {
    const std::string id = lowered(trimmed(o.id));
    if (id.size() == 64) return {id, ""};
    std::vector<ExchangeEntry> found;
    for (const ExchangeCandidate& c : ask_exchange(store, address, o.question, console_progress()).candidates)
        if (!id.empty() && c.entry.id.rfind(id, 0) == 0) found.push_back(c.entry);
    if (found.size() != 1)
        throw input_error(
            fmt::format("The search finds {} whose id begins with '{}'; search again and copy more of it.",
                        found.empty() ? "no profile" : "several profiles", printable(o.id)));
    return {found[0].id, found[0].key};
}

void run_take(const ExchangeOptions& o) {
    Store store = open_store(o.store, Access::write);
    const std::string address = address_for(o, store);
    const auto [id, key] = id_and_key(o, store, address);
    const BundleView view = fetch_candidate(store, address, id, key, console_progress());
    const bool trusted = view.standing == Standing::trusted;
    for (const Measurement& p : take_from(store, view, all_of(view, false), author_or_me("")).measurements) {
        if (o.json)
            print_json({{"id", p.id},
                        {"version", p.version},
                        {"name", p.name},
                        {"taken_as", trusted ? "same model" : "stand-in"}});
        else
            fmt::print("{} version {} ({}) is taken in as {}.\n", p.name, p.version, p.id,
                       trusted ? "same model: its measurer is trusted" : "a stand-in: assign it where it is wanted");
    }
}

void run_publish(const ExchangeOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const SigningKey key = SigningKey::load_or_make(own_key_path());
    const ExchangeOffer offer = offer_of(profile_named(store.profiles().all_versions(), o.profile), o.measurer, key);
    if (!o.send) {
        fmt::print("{}", offer.shown);
        fmt::print(stderr, "This is all that would be sent; nothing was. --send sends it.\n");
        return;
    }
    const std::string address = address_for(o, store);
    const std::string id = send_offer(address, offer, console_progress());
    if (o.json)
        print_json({{"id", id}, {"exchange", address}});
    else
        fmt::print("It is at {} as {}.\n", address, id);
}

void run_use(const ExchangeOptions& o) {
    if (o.none && !o.address.empty()) throw usage_error("Give an address, or --none, not both.");
    if (o.none || !o.address.empty()) {
        Store store = open_store(o.store, Access::write);
        settle_exchange(store, o.address);
    }
    const Store store = open_store(o.store, Access::read);
    const std::string now = exchange_of(store);
    fmt::print("{}\n", now.empty() ? "This studio asks no profile exchange." : "This studio asks " + now + ".");
}

void check_keys(const ExchangeOptions& o) {
    Store store = open_store(o.store, Access::write);
    const std::vector<std::string> news =
        learn_withdrawn(store, address_for(o, store), author_or_me(""), console_progress());
    if (o.json) return print_json(news);
    for (const std::string& sentence : news) fmt::print("{}\n", sentence);
    if (news.empty()) fmt::print("None of the keys that this studio met was withdrawn.\n");
}

void run_withdraw(const ExchangeOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const std::string address = address_for(o, store);
    const SigningKey key = SigningKey::load_or_make(own_key_path());
    if (!o.send)
        throw usage_error(
            fmt::format("Withdrawing your key {} cannot be undone, and nobody will find your profiles any more; "
                        "give --send to confirm.",
                        key_words(key.public_key())));
    ExchangeClient(address).withdraw(withdraw_key(key, o.reason), console_progress());
    fmt::print("The key {} is withdrawn at {}. Move {} away; a new one is made when it is needed.\n",
               key_words(key.public_key()), address, own_key_path().string());
}

void add_question(CLI::App& command, ExchangeOptions& o) {
    command.add_option("--lens", o.question.lens, "Words of its lens");
    command
        .add_option("--half-diagonal", o.question.half_diagonal_mm,
                    "Reaching at least so far: half the diagonal of "
                    "the sensor, in mm")
        ->check(between(0.5, 1000));
    command.add_option("--focal", o.question.setting.focal_mm, "Measured at this focal length, in mm")
        ->check(between(0.5, 5000));
    command.add_option("--aperture", o.question.setting.aperture, "Measured at this f-number")
        ->check(between(0.3, 512));
    command.add_option("--distance", o.question.setting.distance_m, "Measured at this focus distance, in m")
        ->check(between(0.001, 1e5));
    command.add_option("--most-rms", o.question.most_rms_px, "No worse than this residual, in px RMS")
        ->check(between(0.001, 100));
}

}  // namespace

void add_exchange(CLI::App& app) {
    auto* command = add_command(app, "exchange", "Profiles that others measured, and yours for them",
                                "exchange search --lens \"Lumenfold 35mm\"");
    command->require_subcommand(1);
    auto o = std::make_shared<ExchangeOptions>();
    const auto sub = [&](const char* name, const char* what, const std::string& example, auto run) {
        auto* s = add_command(*command, name, what, example);
        add_store_option(*s, o->store);
        s->add_option("--at", o->at, "Address of the exchange [default: the one that this studio asks]");
        s->add_flag("--json", o->json, "Print JSON");
        s->callback([o, run] { run(*o); });
        return s;
    };
    auto* using_ = sub("use", "Settle which exchange this studio asks; without an address, print it",
                       "exchange use http://127.0.0.1:8417", run_use);
    using_->add_option("address", o->address, "http://HOST:PORT or https://HOST");
    using_->add_flag("--none", o->none, "Ask none");
    auto* searching = sub("search", "Look for profiles by lens, sensor, lens setting and quality",
                          "exchange search --lens \"Lumenfold 35mm\" --compare", run_search);
    add_question(*searching, *o);
    searching->add_option("--frame", o->frame, "Take lens, sensor and focal length from this frame")
        ->check(CLI::ExistingFile);
    searching->add_flag("--compare", o->compare, "Fetch the copies of the first lens and tell how they differ");
    auto* taking = sub("take", "Take one in, as a stand-in or, from a trusted key, as same model",
                       "exchange take 4be1c09d22f0 --lens \"Lumenfold 35mm\"", run_take);
    taking->add_option("id", o->id, "The id that the search told, or its beginning")->required();
    add_question(*taking, *o);
    auto* publishing = sub("publish", "Show what would be sent of a profile of this studio, and with --send, send it",
                           "exchange publish \"Lumenfold 35mm f/2.8\" --measurer \"Shore Museum\" --send", run_publish);
    publishing->add_option("profile", o->profile, "Id, ID@VERSION, or its lens")->required();
    publishing->add_option("--measurer", o->measurer, "How your studio wants to be called there [default: not at all]");
    publishing->add_flag("--send", o->send, "Send it");
    sub("check-keys", "Ask which keys that this studio met were withdrawn", "exchange check-keys", check_keys);
    auto* withdrawing = sub("withdraw-key", "Withdraw your own key, when another person may have it",
                            "exchange withdraw-key --reason \"laptop lost\" --send", run_withdraw);
    withdrawing->add_option("--reason", o->reason, "Why, for all to read");
    withdrawing->add_flag("--send", o->send, "Do it; it cannot be taken back");
}

}  // namespace optrel::cli

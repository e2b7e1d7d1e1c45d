// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/sharing/exchanging.h"
#include "optics/plausible.h"
#include "optics/profile_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/times.h"
#include "base/words.h"
#include "sharing/shared_profile.h"
#include "sharing/zip_parts.h"

namespace optrel {
namespace {

constexpr const char* address_setting = "profile exchange";
constexpr std::size_t most_compared = 12;

Profile profile_of(const std::string& bundle, const std::string& where) {
    const Bundle b = bundle_from(bundle, where);
    if (b.parts.size() != 1 || b.parts[0].kind != BundleKind::of(lens_profile_kind()))
        throw input_error(where + " gave something else than a lens profile; nothing was taken.");
    return profile_from_json(b.parts[0].document, "The profile from " + where);
}

std::string copy_words(const ExchangeCandidate& c) {
    std::string who = c.measurer.empty() ? key_words(c.entry.key) : c.measurer;
    return c.entry.copy.empty() ? who : who + ", " + c.entry.copy;
}

}  // namespace

std::string exchange_of(const Store& store) { return store.settings().get(address_setting); }

void settle_exchange(Store& store, const std::string& address) {
    store.settings().put(address_setting, trimmed(address).empty() ? "" : ExchangeClient(address).address());
}

ExchangeQuestion question_for(const Metadata& frame, const PictureGeometry& geometry) {
    ExchangeQuestion q;
    q.lens = frame.lens;
    q.half_diagonal_mm = frame.pitch_um > 0 ? geometry.half_diagonal_mm() : 0;
    q.setting.focal_mm = frame.focal_mm;
    return q;
}

ExchangeAnswer ask_exchange(const Store& store, const std::string& address, const ExchangeQuestion& question,
                            const Progress& progress) {
    const ExchangeClient client(address);
    ExchangeClient::Found found = client.search(question, progress);
    ExchangeAnswer out{client.address(), question, {}, found.total};
    std::map<std::string, Measurer> known;
    for (Measurer& m : store.measurers().all()) known.emplace(m.key, m);
    for (ExchangeEntry& e : found.entries) {
        ExchangeCandidate c{std::move(e), Standing::unknown, ""};
        c.measurer = c.entry.measurer;
        if (const auto m = known.find(c.entry.key); m != known.end()) {
            c.measurer = m->second.name;
            c.standing = m->second.standing();
        }
        out.candidates.push_back(std::move(c));
    }
    return out;
}

std::optional<ModelConsensus> consensus_of(const ExchangeAnswer& answer, const Progress& progress) {
    if (answer.candidates.empty()) return std::nullopt;
    const ExchangeClient client(answer.address);
    ModelConsensus out;
    out.lens = answer.candidates.front().entry.lens;
    std::set<std::pair<std::string, std::string>> known;
    std::vector<Profile> profiles;
    for (const ExchangeCandidate& c : answer.candidates) {
        if (canonical_lens_text(c.entry.lens) != canonical_lens_text(out.lens) || profiles.size() >= most_compared ||
            !known.insert({c.entry.key, c.entry.copy}).second)
            continue;
        profiles.push_back(profile_of(client.fetch(c.entry.id, progress), client.called()));
        require_unfolded(profiles.back());
        out.copies.push_back(copy_words(c));
    }
    std::vector<const Profile*> all;
    for (const Profile& p : profiles) all.push_back(&p);
    const std::optional<CopySpread> spread = spread_of_profiles(all, answer.question.setting);
    if (!spread) return std::nullopt;
    out.spread = *spread;
    out.geometry = smallest_of(all);
    out.setting = compared_at(all, answer.question.setting);
    return out;
}

std::vector<std::string> ModelConsensus::sentences() const {
    const CopySpread& s = spread;
    std::vector<std::string> out;
    out.push_back(
        fmt::format("{} copies of {} at {} differ from one another by {} RMS over a picture of {} x {} px (one sigma; "
                    "95 percent: {} to "
                    "{}), by {} where they differ most; the measurements themselves account for {} beside that.",
                    s.copies, lens, to_string(setting), figure_text(figures::shift, s.rms_px), geometry.width,
                    geometry.height, number_text(figures::shift, s.low_px), figure_text(figures::shift, s.high_px),
                    figure_text(figures::shift, s.largest_px), figure_text(figures::shift, s.measured_px)));
    out.push_back(fmt::format("So the profile of one copy leaves about {} RMS on another that was not measured.",
                              figure_text(figures::shift, s.one_for_another_px())));
    if (s.corner_ev)
        out.push_back(fmt::format("In the corner their falloff differs by {} (one sigma).",
                                  figure_text(figures::falloff_size, *s.corner_ev)));
    if (s.copies < 4) out.push_back("So few copies say little of the others: mind the interval.");
    return out;
}

BundleView fetch_candidate(const Store& store, const std::string& address, const std::string& id,
                           const std::string& key, const Progress& progress) {
    const ExchangeClient client(address);
    const std::string bytes = client.fetch(id, progress);
    Bundle bundle = bundle_from(bytes, "The profile from " + client.address());
    if (!key.empty() && bundle.key != key)
        throw input_error(
            fmt::format("{} names {} as the measurer of this profile, but another key signed it; nothing was "
                        "taken.",
                        client.called(), key_words(key)));
    check_shareable(profile_of(bytes, client.called()));
    BundleView view = look_at(store, std::move(bundle));
    view.way = "exchange";
    view.source = client.address();
    return view;
}

ExchangeOffer offer_of(const Profile& profile, const std::string& measurer, const SigningKey& key) {
    ExchangeOffer out;
    out.profile = shareable(profile, key);
    Bundle bundle;
    bundle.title = out.profile.lens;
    bundle.sender = trimmed(measurer);
    bundle.time = utc_now().substr(0, 10);
    bundle.program = "Optrel " OPTREL_VERSION;
    bundle.parts = {
        {BundleKind::of(lens_profile_kind()), out.profile.id, out.profile.name, profile_to_json(out.profile)}};
    out.bundle = bundle_bytes(bundle, &key);
    for (const ZipPart& part : parts_of_zip(out.bundle, "The offer"))
        out.shown += fmt::format("{}:\n{}\n", part.name, part.bytes);
    return out;
}

std::string send_offer(const std::string& address, const ExchangeOffer& offer, const Progress& progress) {
    return ExchangeClient(address).publish(offer.bundle, progress);
}

std::vector<std::string> learn_withdrawn(Store& store, const std::string& address, const std::string& author,
                                         const Progress& progress) {
    std::map<std::string, Measurer> known;
    for (Measurer& m : store.measurers().all()) known.emplace(m.key, m);
    for (const Profile& p : store.profiles().all_versions())
        if (p.taken_in && !p.taken_in->key.empty())
            known.emplace(p.taken_in->key,
                          Measurer{p.taken_in->key,
                                   p.taken_in->signer.empty() ? key_words(p.taken_in->key) : p.taken_in->signer});
    std::vector<std::string> keys, out;
    for (const auto& [key, m] : known)
        if (m.withdrawn.empty()) keys.push_back(key);
    for (const Withdrawal& w : ExchangeClient(address).withdrawn(keys, progress)) {
        Measurer m = known.at(w.key);
        m.withdrawn = w.time;
        m.trusted = false;
        store.measurers().put(m, author);
        out.push_back(fmt::format(
            "The key of {} ({}) was withdrawn on {}{}; its profiles are no longer used automatically.", m.name,
            key_words(w.key), w.time.substr(0, 10), w.reason.empty() ? "" : ": " + printable(w.reason)));
    }
    return out;
}

}  // namespace optrel

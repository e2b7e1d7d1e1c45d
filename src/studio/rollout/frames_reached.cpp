// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rollout/frames_reached.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/numbers.h"
#include "base/words.h"
#include "measurement/set_states.h"
#include "optics/profile_versions.h"
#include "studio/frames/knowledge.h"
#include "studio/profiles/frame_profile.h"
#include "studio/profiles/profile_chooser.h"

namespace optrel {
namespace {

/// Smaller displacements are invisible.
constexpr double least_move_px = 0.002;
constexpr int default_limit = 20;
constexpr const char* limit_setting = "frames without asking";

/// One state, prepared for lookups by frame.
class Asked {
public:
    explicit Asked(const StudioState& state)
        : fleet_(*state.fleet), resolver_(*state.revision), chooser_(state.profiles) {}

    FrameKnowledge know(const FrameRecord& f) const { return optrel::know(f.path, f.metadata, fleet_); }
    ResolvedFrame fields(const Sheet& sheet, const FrameFacts& facts) const {
        return fields_of(sheet, facts, resolver_);
    }
    ProfileMatch profile(const Sheet& sheet, const ResolvedFrame& fields, const Metadata& frame) const {
        if (sheet.exempt || (!frame.corrected.empty() && !sheet.hand.count(Field::lens_profile))) return {};
        return chooser_.of(fields, frame);
    }

private:
    const Fleet& fleet_;
    Resolver resolver_;
    ProfileChooser chooser_;
};

bool same_values(const ResolvedFrame& a, const ResolvedFrame& b) {
    for (int f = 0; f < field_count; ++f)
        if (!(a.fields[f].value == b.fields[f].value)) return false;
    return true;
}

Sheet sheet_or_empty(const std::filesystem::path& frame) {
    try {
        return read_sheet(frame);
    } catch (const Error&) {
        return {};  // a damaged sidecar is reported by the sidecar check
    }
}

/// Adds the changes of one frame.
class Counter {
public:
    Counter(const StudioState& before, const StudioState& after) : before_(before), after_(after) {}

    void add(const FrameRecord& frame, FramesReached& out) {
        const FrameKnowledge was = before_.know(frame), is = after_.know(frame);
        const bool body = was.facts.body != is.facts.body || was.facts.body_knowledge != is.facts.body_knowledge;
        const bool lens = was.facts.lens_copy != is.facts.lens_copy || was.facts.lens != is.facts.lens ||
                          was.metadata.focal_mm != is.metadata.focal_mm;
        const bool numbered_body = body && was.body.knowledge == BodyAnswer::Knowledge::known && !was.body.claimed;
        const bool numbered_lens =
            lens && was.lens.registered && !was.lens.claimed && !frame.metadata->lens_serial.empty();
        const Sheet sheet = sheet_or_empty(frame.path);
        const ResolvedFrame fields_were = before_.fields(sheet, was.facts), fields_are = after_.fields(sheet, is.facts);
        const double moved = move(before_.profile(sheet, fields_were, was.metadata),
                                  after_.profile(sheet, fields_are, is.metadata), is.metadata);
        const bool looks = moved > least_move_px || !same_values(fields_were, fields_are);
        ++out.looked_at;
        if (!body && !lens && !looks) return;
        ++out.frames;
        out.bodies += body;
        out.lenses += lens;
        out.off_register += numbered_body || numbered_lens;
        out.pixels += looks;
        out.largest_px = std::max(out.largest_px, moved);
        const std::filesystem::path path = frame.path;
        ++out.folders[path.parent_path()];
        if (numbered_body || numbered_lens) out.examples.insert(out.examples.begin(), path);
        if (out.examples.size() < 5) out.examples.push_back(path);
        if (out.examples.size() > 5) out.examples.resize(5);
        if (looks) changed_.insert(path.string());
    }
    const std::set<std::string>& changed() const { return changed_; }

private:
    double move(const ProfileMatch& was, const ProfileMatch& is, const Metadata& frame) {
        const std::string a = version_in_use(was), b = version_in_use(is);
        if (a == b) return 0;
        const std::string key =
            fmt::format("{} {} {:.3g} {:.3g} {:.2g} {} {} {:.4g}", a, b, frame.focal_mm, frame.aperture,
                        frame.distance_m, frame.width, frame.height, frame.pitch_um);
        const auto [it, fresh] = moves_.try_emplace(key, 0);
        if (fresh)
            it->second =
                largest_move_px(was.usable() ? was.profile : nullptr, is.usable() ? is.profile : nullptr, frame);
        return it->second;
    }

    Asked before_, after_;
    std::map<std::string, double> moves_;
    std::set<std::string> changed_;
};

template <class T>
void apply(const std::vector<EntryEdit<T>>& edits, std::vector<T>& entries) {
    for (const EntryEdit<T>& e : edits) {
        if (e.before) std::erase_if(entries, [&](const T& t) { return t.id == e.before->id; });
        if (e.after) entries.push_back(*e.after);
    }
}

/// The versions after one more event.
std::vector<Profile> after_event(std::vector<Profile> versions, const VersionEvent& event) {
    // Marks the current version as no longer current, then applies the event.
    std::vector<Profile> of_one;
    std::vector<VersionEvent> events;
    for (const Profile& p : versions)
        if (p.id == event.measurement) of_one.push_back(p);
    for (const Profile& p : of_one) {
        if (!p.state.withdrawn.empty())
            events.push_back({VersionEvent::What::withdraw, p.id, p.version, "", "", p.state.withdrawn});
        if (p.state.is_current()) events.push_back({VersionEvent::What::make_current, p.id, p.version, "", "", ""});
    }
    events.push_back(event);
    set_states(of_one, events);
    for (Profile& p : versions)
        for (const Profile& now : of_one)
            if (now.id == p.id && now.version == p.version) p.state = now.state;
    return versions;
}

}  // namespace

StudioState studio_state(const Store& store) {
    return {store.registry().fleet(), std::make_shared<const std::vector<Profile>>(store.profiles().all_versions()),
            std::make_shared<const Revision>(store.baselines().current())};
}

std::string FramesReached::sentence() const {
    if (frames == 0) return fmt::format("none of the {} frames that the store knows changes", looked_at);
    std::vector<std::string> parts;
    const auto get = [](int n, const char* what) { return fmt::format("{} {} {}", n, n == 1 ? "gets" : "get", what); };
    if (bodies > 0) parts.push_back(get(bodies, "another body"));
    if (lenses > 0) parts.push_back(get(lenses, "another lens"));
    if (pixels > 0) {
        std::string how;
        if (largest_px > least_move_px) how = "by up to " + figure_text(figures::shift, largest_px);
        if (exported > 0)
            how += fmt::format("{}{} of them {} exported", how.empty() ? "" : "; ", exported,
                               exported == 1 ? "was" : "were");
        parts.push_back(fmt::format("{} {} different{}", pixels, pixels == 1 ? "looks" : "look",
                                    how.empty() ? "" : " (" + how + ")"));
    }
    return fmt::format("{} of {} frames {}: {}", frames, looked_at, frames == 1 ? "changes" : "change", all_of(parts));
}

std::vector<std::string> FramesReached::folder_lines(std::size_t most) const {
    std::vector<std::pair<int, std::string>> order;
    for (const auto& [folder, n] : folders) order.emplace_back(-n, printable(folder.string()));
    std::sort(order.begin(), order.end());
    std::vector<std::string> out;
    for (std::size_t i = 0; i < order.size() && i < most; ++i)
        out.push_back(fmt::format("{}: {} frame{}", order[i].second, -order[i].first, order[i].first == -1 ? "" : "s"));
    if (order.size() > most)
        out.push_back(fmt::format("and {} more folder{}", order.size() - most, order.size() == most + 1 ? "" : "s"));
    return out;
}

FramesReached reach_between(const Store& store, const StudioState& before, const StudioState& after,
                            Progress& progress) {
    FramesReached out;
    const std::vector<FrameRecord> frames = store.frames().all();
    Counter counter(before, after);
    progress.start(static_cast<int>(frames.size()), "Looking what would change");
    for (const FrameRecord& f : frames) {
        progress.check();
        counter.add(f, out);
        progress.step();
    }
    for (const std::filesystem::path& frame : store.exports().frames_done())
        out.exported += counter.changed().count(frame.string()) > 0;
    return out;
}

FramesReached reach_of(const Store& store, const FleetEdit& edit, Progress& progress) {
    const StudioState before = studio_state(store);
    Register entries = before.fleet->entries();
    std::vector<Claim> claims = before.fleet->claims();
    apply(edit.models, entries.models);
    apply(edit.bodies, entries.bodies);
    apply(edit.lenses, entries.lenses);
    apply(edit.claims, claims);
    StudioState after = before;
    after.fleet = std::make_shared<const Fleet>(std::move(entries), std::move(claims), before.fleet->numbering());
    return reach_between(store, before, after, progress);
}

void require_register_kept(const FramesReached& reached) {
    if (reached.off_register == 0) return;
    throw input_error(fmt::format(
        "{} of these frames report{} a number that the register holds for another body or lens ({} is the first); "
        "nothing was claimed. Merge the entries if they are one thing, or claim them all the same (--over-register).",
        reached.off_register, reached.off_register == 1 ? "s" : "", printable(reached.examples.front().string())));
}

std::vector<Profile> with_next_version(std::vector<Profile> versions, const Profile& published) {
    Profile next = published;
    if (next.id.empty()) next.id = "proposed";
    next.version = 1;
    for (const Profile& p : versions)
        if (same_subject(p, published) && p.version >= next.version) {
            next.id = p.id;
            next.version = p.version + 1;
        }
    next.state = {false, {}, ""};
    versions.push_back(next);
    return after_event(std::move(versions), {VersionEvent::What::make_current, next.id, next.version, "", "", ""});
}

std::vector<Profile> with_withdrawn(std::vector<Profile> versions, const std::string& id, int version) {
    return after_event(std::move(versions), {VersionEvent::What::withdraw, id, version, "", "", "withdrawn"});
}

std::vector<Profile> with_current(std::vector<Profile> versions, const std::string& id, int version) {
    return after_event(std::move(versions), {VersionEvent::What::make_current, id, version, "", "", ""});
}

FramesReached reach_of_versions(const Store& store, std::vector<Profile> versions, Progress& progress) {
    const StudioState before = studio_state(store);
    StudioState after = before;
    after.profiles = std::make_shared<const std::vector<Profile>>(std::move(versions));
    return reach_between(store, before, after, progress);
}

FramesReached reach_of_revision(const Store& store, const Revision& revision, Progress& progress) {
    const StudioState before = studio_state(store);
    StudioState after = before;
    after.revision = std::make_shared<const Revision>(revision);
    return reach_between(store, before, after, progress);
}

int frames_without_asking(const Store& store) {
    const auto kept = parse_integer(store.settings().get(limit_setting));
    return kept && *kept >= 0 ? static_cast<int>(*kept) : default_limit;
}

void put_frames_without_asking(Store& store, int frames) {
    if (frames < 0) throw input_error("A number of frames is 0 or more; give another one.");
    store.settings().put(limit_setting, std::to_string(frames));
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/sharing/packing.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include "base/error.h"
#include "base/times.h"
#include "base/words.h"
#include "fleet/look_up.h"
#include "fleet/matching.h"
#include "fleet/register_files.h"
#include "kinds/measurement_kinds.h"
#include "optics/profile_kind.h"
#include "optics/profile_versions.h"
#include "sensor/defect_kind.h"
#include "sensor/fingerprint_kind.h"
#include "sensor/noise_kind.h"
#include "studio/baselines/naming.h"
#include "studio/baselines/references.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/measured_facts.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {
namespace {

class Packing {
public:
    explicit Packing(const Store& store)
        : store_(store),
          fleet_(store.registry().fleet()),
          profiles_(store.profiles().all_versions()),
          colours_(store.colours().all()) {}

    void add_named(const PackingList& list) {
        if (!list.sets.empty() || !list.tiers.empty()) {
            const Revision draft = store_.baselines().draft();
            for (const std::string& name : list.sets) add_set(draft, set_named(draft, name));
            for (const std::string& name : list.tiers) add_tier(draft, tier_named(draft, name));
        }
        for (const std::string& name : list.profiles) add_profile(profile_named(profiles_, name));
        for (const std::string& name : list.colours) add_colours(colour_file_named(colours_, name));
        for (const std::string& name : list.measurements) add_measurement(measurement_named(store_, name));
        const Naming naming(store_);
        for (const std::string& name : list.bodies) {
            const std::string id = naming.body(name);
            add_body(id);
            add_measurements_of(id);
        }
        for (const std::string& name : list.lenses) add_lens(naming.lens_copy(name));
        if (list.baseline > 0) add_baseline(list.baseline);
    }

    void add_needed_by(const std::vector<FrameRecord>& frames, const Progress& progress) {
        if (frames.empty()) return;
        const Resolver resolver(store_.baselines().current());
        // Defect maps and noise act on the frames of their body without a pin.
        std::vector<Measurement> acting;
        for (const Measurement& m : measurements())
            if (m.state.is_current() && (m.kind == defect_kind().id || m.kind == noise_kind().id)) acting.push_back(m);
        std::set<std::string> known;
        for (const FrameRecord& f : frames) {
            progress.check();
            const FrameKnowledge k = know(f.path, f.metadata, *fleet_);
            const Metadata& m = k.metadata;
            // Handled already.
            if (!known
                     .insert(fmt::format("{}|{}|{}|{}|{}|{}|{}|{}|{}|{}|{}", k.facts.body, k.facts.model, m.lens,
                                         m.lens_serial, m.focal_mm, m.aperture, m.distance_m, m.width, m.pitch_um,
                                         k.facts.iso, k.facts.raw))
                     .second)
                continue;
            add_body(k.body.id);
            add_lens(k.lens.id);
            for (const Tier* t : resolver.applying(k.facts)) add_tier(resolver.revision(), *t);
            ResolvedFrame fields;
            resolver.resolve(k.facts, fields);
            add_profile_for(m, fields);
            for (const MeasurementReference& r : measured_facts(k.facts, *fleet_, acting)) add_referred_measurement(r);
        }
    }

    std::vector<BundlePart> parts() {
        std::vector<BundlePart> out;
        for (auto& [key, part] : parts_) out.push_back(std::move(part));
        return out;
    }

private:
    /// Returns false when it is included already.
    bool add(BundleKind kind, const std::string& id, const std::string& name, const std::string& document) {
        return parts_.emplace(std::pair(kind, id), BundlePart{kind, id, name, document}).second;
    }

    void add_measurement(const Measurement& m) {
        const MeasurementKind* kind = find_measurement_kind(m.kind);
        if (!kind) return;
        add(BundleKind::of(*kind), m.version > 1 ? fmt::format("{}@{}", m.id, m.version) : m.id,
            m.subject.serial.empty() ? m.name : fmt::format("{} {}", m.name, m.subject.serial), m.document);
    }

    void add_profile(const Profile& p) {
        add(BundleKind::of(lens_profile_kind()), p.version > 1 ? fmt::format("{}@{}", p.id, p.version) : p.id,
            p.lens_serial.empty() ? p.name : fmt::format("{} {}", p.name, p.lens_serial), profile_to_json(p));
    }

    void add_profile_for(const Metadata& m, const ResolvedFrame& fields) {
        const ProfileMatch match = profile_for(fields, m, profiles_);
        if (match.usable()) add_profile(*match.profile);
    }

    void add_colours(const ColourFile& file) {
        const auto profile = store_.colours().fetch(file.value());
        if (profile) add(BundleKind::colours, file.hash, file.name, profile->bytes);
    }

    /// Adds what pins refer to.
    void add_referred(const Revision& revision, const Pins& pins) {
        for (const auto& [field, pin] : pins) {
            if (pin.measured) add_referred_measurement(*pin.measured);
            for (const auto& [iso, value] : pin.knots) {
                if (field == Field::lens_profile)
                    if (const Profile* p = referred_profile(profiles_, ProfileReference::parse(value.text)))
                        add_profile(*p);
                if (field == Field::colour_source)
                    for (const ColourFile& c : colours_)
                        if (c.value() == value) add_colours(c);
                if (const std::string set = set_named_by(value); !set.empty() && field == Field::start)
                    add_set(revision, set);
            }
        }
    }

    /// A fingerprint tells who took a picture, so it only goes along by name.
    void add_measurements_of(const std::string& body) {
        const Body* b = fleet_->body(body);
        if (!b) return;
        for (const Measurement& m : measurements())
            if (m.state.is_current() && m.kind != fingerprint_kind().id &&
                m.subject.kind == MeasuredSubject::Kind::body && m.subject.name == b->camera() &&
                m.subject.serial == b->measured_serial())
                add_measurement(m);
    }

    /// A measurement that the store no longer has is left out.
    void add_referred_measurement(const MeasurementReference& reference) {
        for (const Measurement& m : measurements())
            if (m.id == reference.id && m.version == reference.version) add_measurement(m);
    }

    /// All versions of all kinds. They are read when the first one is needed, because defect maps are large.
    const std::vector<Measurement>& measurements() {
        if (measurements_) return *measurements_;
        measurements_.emplace();
        for (const MeasurementKind* kind : measurement_kinds())
            for (Measurement& m : store_.measurements().all_versions(*kind)) measurements_->push_back(std::move(m));
        return *measurements_;
    }

    void add_set(const Revision& revision, const std::string& name) {
        const PinSet* set = revision.set(name);
        if (!set || !add(BundleKind::set, set->name, set->name, set_to_text(*set))) return;
        for (const std::string& below : set->sets) add_set(revision, below);
        add_referred(revision, set->pins);
    }

    static const Tier& tier_named(const Revision& draft, const std::string& text) {
        std::vector<Named> things;
        for (const Tier& t : draft.tiers) things.push_back({t.id, {t.id, t.name}});
        return *draft.tier(look_up("tier", text, things, "'baseline tiers' lists them all"));
    }

    void add_tier(const Revision& revision, const Tier& tier) {
        if (!add(BundleKind::tier, tier.id, tier.name, tier_to_text(tier))) return;
        for (const std::string& set : tier.sets) add_set(revision, set);
        add_referred(revision, tier.pins);
        if (tier.scope == Scope::body) add_body(tier.target);
        if (tier.scope == Scope::model) add_model(tier.target);
    }

    void add_baseline(int number) {
        const std::optional<Revision> r = store_.baselines().revision(number);
        if (!r)
            throw input_error(fmt::format(
                "There is no revision {}; 'store list revisions' shows those that were published.", number));
        add(BundleKind::baseline, std::to_string(number), fmt::format("Revision {}", number), revision_to_json(*r));
        for (const PinSet& s : r->sets) add_referred(*r, s.pins);
        for (const Tier& t : r->tiers) add_referred(*r, t.pins);
    }

    void add_model(const std::string& id) {
        if (const ModelEntry* m = fleet_->model(id))
            add(BundleKind::model, m->id, m->id, register_to_json({{*m}, {}, {}}, {}));
    }

    void add_claims_of(Claim::Of of, const std::string& id) {
        for (const Claim& c : fleet_->claims())
            if (c.of == of && c.target == id && c.folder.empty() && c.frames.empty() && c.from.empty() &&
                c.to.empty() && c.says_what_files_report())
                add(BundleKind::claim, c.id, describe(c), register_to_json({}, {c}));
    }

    void add_body(const std::string& id) {
        const Body* b = fleet_->body(id);
        if (!b || !add(BundleKind::body, b->id, b->label(), register_to_json({{}, {*b}, {}}, {}))) return;
        add_model(b->camera());
        add_claims_of(Claim::Of::body, id);
    }

    void add_lens(const std::string& id) {
        const LensEntry* l = fleet_->lens(id);
        if (l && add(BundleKind::lens, l->id, l->label(), register_to_json({{}, {}, {*l}}, {})))
            add_claims_of(Claim::Of::lens, id);
    }

    const Store& store_;
    std::shared_ptr<const Fleet> fleet_;
    std::vector<Profile> profiles_;
    std::vector<ColourFile> colours_;
    std::optional<std::vector<Measurement>> measurements_;
    std::map<std::pair<BundleKind, std::string>, BundlePart> parts_;
};

}  // namespace

Bundle packed(const Store& store, const PackingList& list, const BundleLabel& label, const Progress& progress) {
    if (list.empty())
        throw input_error(
            "Nothing was chosen to pack; name profiles, sets, tiers, bodies, lenses, colour files, measurements, a "
            "revision, or frames.");
    Packing packing(store);
    packing.add_named(list);
    packing.add_needed_by(list.frames, progress);
    Bundle out;
    out.title = trimmed(label.title);
    out.note = trimmed(label.note);
    out.sender = trimmed(label.sender);
    out.time = utc_now();
    out.program = "Optrel " OPTREL_VERSION;
    if (const HistoryMark newest = store.history().newest(); !newest.seal.empty())
        out.anchor = Bundle::Anchor{store.history().first_seal(), newest.id, newest.seal};
    out.parts = packing.parts();
    if (out.parts.empty())
        throw input_error(
            "These frames need nothing that could be packed: no body, lens or profile of theirs is known "
            "here, and no tier applies to them.");
    return out;
}

std::string contents_of(const Bundle& bundle) {
    std::map<BundleKind, int> counts;
    for (const BundlePart& p : bundle.parts) ++counts[p.kind];
    std::string out;
    for (const auto& [kind, count] : counts) out += (out.empty() ? "" : ", ") + counted(kind, count);
    return out.empty() ? "nothing" : out;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Imports parts of a bundle.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>

#include "base/error.h"
#include "base/times.h"
#include "base/words.h"
#include "fleet/register_files.h"
#include "frames/colour_profile.h"
#include "optics/profile_kind.h"
#include "optics/profile_versions.h"
#include "studio/baselines/drafting.h"
#include "studio/sharing/bundle_needs.h"
#include "studio/sharing/unpacking.h"

namespace optrel {
namespace {

class Taking {
public:
    Taking(Store& store, const BundleView& view, const BundleChoice& choice, const std::string& author)
        : store_(store), view_(view), choice_(choice), author_(author) {
        for (const auto& [kind, id] : choice.parts) chosen_.push_back(checked(kind, id));
        std::stable_sort(chosen_.begin(), chosen_.end(),
                         [](const BundlePart* a, const BundlePart* b) { return a->kind < b->kind; });
    }

    BundleImport take() {
        // Locks these parts of the store, in the order that all writers use.
        Transaction fleet(store_.engine(), "fleet"), profiles(store_.engine(), "profiles"),
            draft(store_.engine(), "draft");
        now_.emplace(store_);
        require_as_seen();
        take_register();
        for (const BundlePart* p : chosen_) {
            if (p->kind == BundleKind::colours)
                store_.colours().put(colour_profile_from(p->document, where_in(*p)), view_.source_words(), author_);
            if (p->kind.measurement()) take_measurement(*p->kind.measurement(), *p);
        }
        take_draft();
        for (Transaction* t : {&draft, &profiles, &fleet}) t->commit();
        return std::move(out_);
    }

private:
    const BundlePart* checked(BundleKind kind, const std::string& id) const {
        for (std::size_t i = 0; i < view_.parts.size(); ++i) {
            const UnpackedPart& u = view_.parts[i];
            if (u.kind != kind || u.id != id) continue;
            const std::string what = where_in(view_.bundle.parts[i]);
            if (u.stand == UnpackedPart::Stand::unusable)
                throw input_error(fmt::format("{} cannot be taken: {}.", capitalised(what), u.words.front()));
            if (u.replaces() && !choice_.replace && !(kind == BundleKind::set && choice_.set_names.count(id)))
                throw input_error(
                    fmt::format("{} would replace another one that is here; take it under another name, "
                                "or ask for that to be replaced.",
                                capitalised(what)));
            return &view_.bundle.parts[i];
        }
        std::vector<std::string> names;
        for (const UnpackedPart& u : view_.parts)
            if (u.kind == kind) names.push_back(u.id);
        throw input_error(
            fmt::format("The bundle has no {} '{}'{}.", to_string(kind), printable(id), nearest_clause(id, names)));
    }

    static const char* seen_as(UnpackedPart::Stand stand) {
        return stand == UnpackedPart::Stand::fresh ? "new" : "different from what is here";
    }

    /// The parts are still as the user saw them.
    void require_as_seen() {
        const BundleView again = look_at(store_, view_.bundle, *now_);
        for (std::size_t i = 0; i < again.parts.size(); ++i)
            for (const BundlePart* p : chosen_)
                if (p == &view_.bundle.parts[i] && again.parts[i].stand != view_.parts[i].stand)
                    throw input_error(fmt::format(
                        "{} was {} when you looked, and is not any more, since somebody changed the studio meanwhile; "
                        "look at the bundle again.",
                        capitalised(where_in(*p)), seen_as(view_.parts[i].stand)));
    }

    void take_register() {
        RegisterImport all;
        for (const BundlePart* p : chosen_) {
            if (p->kind > BundleKind::claim) continue;
            const RegisterImport one = register_from_json(p->document, where_in(*p), now_->entries);
            all.models.insert(all.models.end(), one.models.begin(), one.models.end());
            all.bodies.insert(all.bodies.end(), one.bodies.begin(), one.bodies.end());
            all.lenses.insert(all.lenses.end(), one.lenses.begin(), one.lenses.end());
            all.claims.insert(all.claims.end(), one.claims.begin(), one.claims.end());
        }
        FleetEdit edit = store_.registry().edit_for(all);
        if (edit.empty()) return;
        edit.what = "take in from " + view_.source_words();
        store_.registry().edit(edit, author_);
        out_.told.push_back("Bodies and lenses of the bundle are in the register now.");
    }

    void take_measurement(const MeasurementKind& kind, const BundlePart& part) {
        const Measurement given = kind.read(part.document, where_in(part));
        MeasurementSource source{view_.way, view_.source, view_.bundle.key, view_.bundle.sender, author_, utc_now(),
                                 {}};
        if (given.taken_in) source.signer += ", who had it from " + describe_source(*given.taken_in);
        // A baseline replaces the draft as a whole, as its author signed it.
        const Measurement published =
            store_.measurements().publish(kind, kind.with_source(part.document, source), OtherSettings::drop);
        ids_[given.id] = published.id;
        versions_[{given.id, given.version}] = published.version;
        out_.told.push_back(fmt::format("{} is {} version {} now.", published.name, published.id, published.version));
        out_.measurements.push_back(published);
    }

    static std::string describe_source(const MeasurementSource& s) {
        return s.signer.empty() ? (s.key.empty() ? "nobody who signed it" : key_words(s.key)) : s.signer;
    }

    /// Sets and tiers of the bundle in the form for the draft.
    Revision incoming() {
        Revision in;
        for (const BundlePart* p : chosen_) {
            if (p->kind == BundleKind::set) in.sets.push_back(set_from_text(p->document, where_in(*p)));
            if (p->kind == BundleKind::tier) in.tiers.push_back(tier_from_text(p->document, where_in(*p)));
        }
        const BundleNeeds needs(*now_, view_, choice_.parts);
        for (const BundlePart* p : chosen_)
            if (const std::string what = needs.missing(*p); !what.empty())
                throw input_error(fmt::format("{} names {}, which is not here and was not chosen; choose it as well.",
                                              capitalised(where_in(*p)), what));
        for (const auto& [from, to] : choice_.set_names) {
            check_set_name(to);
            if (!in.set(from))
                throw input_error(
                    fmt::format("The set '{}' was not chosen, so it gets no other name.", printable(from)));
            if (in.set(to) || (now_->draft.set(to) && !choice_.replace))
                throw input_error(fmt::format("There is a set '{}' already; choose another name.", to));
            rename_set(in, from, to);
        }
        return in;
    }

    /// Replaces ids and versions of measurements of the bundle by those of this store.
    void point_to_own(Pins& pins) const {
        for (auto& [field, pin] : pins) {
            if (!pin.measured) continue;
            const auto version = versions_.find({pin.measured->id, pin.measured->version});
            if (version != versions_.end()) pin.measured = {ids_.at(pin.measured->id), version->second};
        }
        const auto pin = pins.find(Field::lens_profile);
        if (pin == pins.end()) return;
        for (auto& [iso, value] : pin->second.knots) {
            ProfileReference reference = ProfileReference::parse(value.text);
            const auto id = ids_.find(reference.id);
            if (id == ids_.end()) continue;
            if (const auto version = versions_.find({reference.id, reference.version}); version != versions_.end())
                reference.version = version->second;
            reference.id = id->second;
            value.text = reference.text();
        }
    }

    /// For a measurement of the bundle that this store has already.
    void know_as_own(const MeasurementKind& kind, const std::string& document) {
        const Measurement given = kind.read(document, "the bundle");
        const auto know = [&](const std::string& id, int version) {
            ids_.emplace(given.id, id);
            versions_.emplace(std::pair(given.id, given.version), version);
        };
        if (&kind == &lens_profile_kind()) {
            const Profile* same = now_->same_profile(profile_from_json(document, "the bundle"));
            if (same) know(same->id, same->version);
        } else if (const Measurement* same = now_->same_measurement(kind, given)) {
            know(same->id, same->version);
        }
    }

    void take_draft() {
        for (std::size_t i = 0; i < view_.parts.size(); ++i)
            if (view_.parts[i].kind.measurement() && view_.parts[i].stand == UnpackedPart::Stand::same)
                know_as_own(*view_.parts[i].kind.measurement(), view_.bundle.parts[i].document);
        Revision in = incoming();
        const auto whole = std::find_if(chosen_.begin(), chosen_.end(),
                                        [](const BundlePart* p) { return p->kind == BundleKind::baseline; });
        if (in.sets.empty() && in.tiers.empty() && whole == chosen_.end()) return;
        store_.baselines().change_draft([&](Revision& draft) {
            if (whole != chosen_.end()) take_baseline(draft, **whole);
            for (PinSet& s : in.sets) {
                point_to_own(s.pins);
                s.origin = view_.source_words();
            }
            take_in_sets(draft, in.sets, choice_.replace ? TakeIn::replace : TakeIn::refuse_others);
            for (Tier& t : in.tiers) take_tier(draft, t);
            check_sets(draft);
        });
        out_.told.push_back("Baselines of the bundle are in the draft now; check and publish them.");
    }

    void take_baseline(Revision& draft, const BundlePart& part) {
        Revision wanted = revision_from_json(part.document, where_in(part));
        for (PinSet& s : wanted.sets) {
            point_to_own(s.pins);
            s.origin = view_.source_words();
        }
        for (Tier& t : wanted.tiers) {
            point_to_own(t.pins);
            t.origin = view_.source_words();
        }
        take_in_draft(draft, wanted, now_->current, choice_.replace ? TakeIn::replace : TakeIn::refuse_others);
    }

    void take_tier(Revision& draft, Tier& t) {
        point_to_own(t.pins);
        t.origin = view_.source_words();
        if (const Tier* there = tier_of_conditions(draft, t)) {
            t.id = there->id;
            *draft.tier(t.id) = t;
            return;
        }
        for (int n = 2; draft.tier(t.id); ++n) t.id = fmt::format("{}-{}", t.id.substr(0, t.id.find('-')), n);
        add_tier(draft, t);
    }

    Store& store_;
    const BundleView& view_;
    const BundleChoice& choice_;
    const std::string author_;
    std::optional<StudioSnapshot> now_;  ///< read while the parts are locked
    std::vector<const BundlePart*> chosen_;
    std::map<std::string, std::string> ids_;  ///< ids of measurements: bundle to store
    std::map<std::pair<std::string, int>, int>
        versions_;  ///< id and version of a measurement in the bundle, to version here
    BundleImport out_;
};

}  // namespace

BundleImport take_from(Store& store, const BundleView& view, const BundleChoice& choice, const std::string& author) {
    if (choice.parts.empty())
        throw input_error("Nothing of the bundle was chosen, or all of it is here already; nothing was taken.");
    if (!choice.anyway && view.standing == Standing::not_signed)
        throw input_error(
            "This bundle is not signed, so its origin is not proved; take it only if you know where "
            "it comes from (--anyway).");
    if (!choice.anyway && view.standing == Standing::withdrawn)
        throw input_error(
            fmt::format("The key that signed this bundle was withdrawn, so {} may not have made it; ask "
                        "them for a new one (or --anyway).",
                        view.signer));
    return Taking(store, view, choice, author).take();
}

}  // namespace optrel

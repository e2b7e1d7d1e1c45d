// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/unpacking.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/choose.h"
#include "base/error.h"
#include "base/times.h"
#include "base/words.h"
#include "fleet/register_files.h"
#include "frames/colour_profile.h"
#include "optics/compare_profiles.h"
#include "studio/drafting.h"
#include "travel/shared_profile.h"

namespace optrel {
namespace {

using Stand = UnpackedPart::Stand;

/// What is here, read once.
struct Here {
    explicit Here(Store& store)
        : profiles(store.profiles().all_versions()),
          draft(store.baselines().draft()),
          current(store.baselines().current()),
          entries(store.registry().entries()),
          claims(store.registry().claims()) {
        for (const ColourFile& c : store.colours().all()) colours.insert(c.hash);
    }
    std::vector<Profile> profiles;
    Revision draft, current;
    Register entries;
    std::vector<Claim> claims;
    std::set<std::string> colours;
};

std::string where_in(const BundlePart& p) { return fmt::format("the {} '{}'", to_string(p.kind), printable(p.name)); }

/// What a profile says, without what a store calls it and how it came there.
std::string content_of(Profile p) {
    p.id.clear();
    p.version = 0;
    p.taken_in.reset();
    return profile_to_json(p);
}

Profile profile_in(const BundlePart& part) {
    Profile p = profile_from_json(part.document, where_in(part));
    check_unfolded(p);
    return p;
}

const Profile* same_profile(const std::vector<Profile>& here, const Profile& p) {
    const std::string wanted = content_of(p);
    for (const Profile& h : here)
        if (h.lens == p.lens && content_of(h) == wanted) return &h;
    return nullptr;
}

/// A set without where it came from: that is no difference.
PinSet plain(PinSet s) {
    s.origin.clear();
    return s;
}
Tier plain(Tier t) {
    t.origin.clear();
    t.id.clear();
    return t;
}

/// The differences of two entries of the draft, in words.
template <class Entry>
std::vector<std::string> differences(const Entry& here, const Entry& there, std::vector<Entry> Revision::*list) {
    Revision before, after;
    (before.*list) = {here};
    (after.*list) = {there};
    const auto said = [](const std::string& value) { return value.empty() ? std::string("nothing") : value; };
    std::vector<std::string> out;
    for (const RevisionChange& c : difference(before, after))
        out.push_back(
            fmt::format("{}: here {}, there {}", c.field.empty() ? c.tier : c.field, said(c.before), said(c.after)));
    return out;
}

/// The same of two entries of the register, by their documents.
std::vector<std::string> differences(const std::string& here, const std::string& there) {
    std::vector<std::string> out;
    for (const EntryChange& c : entry_changes(here, there))
        out.push_back(fmt::format("{}: here {}, there {}", c.property, c.before, c.after));
    return out;
}

std::string document_of(const Claim& claim) { return claim_to_json(claim); }
template <class Entry>
std::string document_of(const Entry& entry) {
    return to_json(entry);
}

std::string lower_first(std::string text) {
    if (!text.empty()) text[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(text[0])));
    return text;
}

void look_at_profile(const Here& here, const BundlePart& part, UnpackedPart& out) {
    const Profile p = profile_in(part);
    double rms = 0;
    for (const ProfileNode& n : p.nodes) rms = std::max(rms, n.quality.rms_px);
    out.words.push_back(fmt::format("{} of {}, {} lens setting{}{}, measured {}", to_string(p.origin), p.lens,
                                    p.nodes.size(), p.nodes.size() == 1 ? "" : "s",
                                    p.measured() ? fmt::format(", {:.3f} px RMS", rms) : "",
                                    p.provenance.time.substr(0, 10)));
    if (const Profile* same = same_profile(here.profiles, p)) {
        out.stand = Stand::same;
        out.words = {fmt::format("it is here as {} version {}", same->id, same->version)};
        return;
    }
    for (const Profile& h : here.profiles) {
        if (canonical_lens_text(h.lens) != canonical_lens_text(p.lens) || h.lens_serial != p.lens_serial) continue;
        out.stand = Stand::differs;
        out.words.push_back(fmt::format("here is {} version {} of the same lens; both are kept", h.id, h.version));
        try {
            const ProfileNode& n = p.nodes.front();
            const ProfileDifference d = compare_nodes(node_at(h, n.setting).node, n, p.geometry);
            out.words.push_back("beside it " + lower_first(without_stop(d.sentence())));
        } catch (const Error&) {
            out.words.push_back("they have too little of the picture in common to be compared");
        }
        return;
    }
}

template <class T>
void look_at_entry(const RegisterImport& import, const std::vector<T>& fresh, const T* there, UnpackedPart& out) {
    // What is here already is not among what an import would change.
    if (fresh.empty() && import.same == 1) {
        out.stand = Stand::same;
        return;
    }
    if (fresh.size() != 1) throw input_error("it holds something else than one entry of the register");
    if (!there) return;
    if (*there == fresh.front()) {
        out.stand = Stand::same;
        return;
    }
    out.stand = Stand::differs;
    out.words = differences(document_of(*there), document_of(fresh.front()));
}

void look_at_register(const Here& here, const BundlePart& part, UnpackedPart& out) {
    const RegisterImport i = register_from_json(part.document, where_in(part), here.entries);
    if (part.kind == BundleKind::model) {
        look_at_entry(i, i.models, i.models.empty() ? nullptr : here.entries.model(i.models[0].id), out);
    } else if (part.kind == BundleKind::body) {
        look_at_entry(i, i.bodies, i.bodies.empty() ? nullptr : here.entries.body(i.bodies[0].id), out);
    } else if (part.kind == BundleKind::lens) {
        look_at_entry(i, i.lenses, i.lenses.empty() ? nullptr : here.entries.lens(i.lenses[0].id), out);
    } else {
        const auto there = std::find_if(here.claims.begin(), here.claims.end(),
                                        [&](const Claim& c) { return !i.claims.empty() && c.id == i.claims[0].id; });
        look_at_entry(i, i.claims, there == here.claims.end() ? nullptr : &*there, out);
    }
}

void look_at_set(const Here& here, const BundlePart& part, UnpackedPart& out) {
    const PinSet s = set_from_text(part.document, where_in(part));
    const PinSet* there = here.draft.set(s.name);
    out.words.push_back(fmt::format("pins {} field{}", s.pins.size(), s.pins.size() == 1 ? "" : "s"));
    if (!there) return;
    out.stand = plain(*there) == plain(s) ? Stand::same : Stand::differs;
    if (out.stand == Stand::differs) out.words = differences(*there, s, &Revision::sets);
}

const Tier* tier_of_conditions(const Revision& draft, const Tier& t) {
    for (const Tier& there : draft.tiers)
        if (describe_conditions(there) == describe_conditions(t)) return &there;
    return nullptr;
}

void look_at_tier(const Here& here, const BundlePart& part, UnpackedPart& out) {
    const Tier t = tier_from_text(part.document, where_in(part));
    if (t.name != describe_conditions(t)) out.words.push_back(describe_conditions(t));
    const Tier* there = tier_of_conditions(here.draft, t);
    if (!there) return;
    Tier renamed = *there;
    renamed.name = t.name;
    out.stand = plain(renamed) == plain(t) ? Stand::same : Stand::differs;
    if (out.stand == Stand::differs) {
        renamed.id = t.id;
        out.words = differences(renamed, t, &Revision::tiers);
    }
}

void look_at_baseline(const Here& here, const BundlePart& part, UnpackedPart& out) {
    const Revision r = revision_from_json(part.document, where_in(part));
    const std::size_t changes = difference(here.draft, r).size();
    out.words.push_back(fmt::format("{} tiers, {} sets; it would replace the whole draft ({} changes)", r.tiers.size(),
                                    r.sets.size(), changes));
    const bool empty = here.draft.tiers.empty() && here.draft.sets.empty();
    out.stand = first_of<Stand>({{changes == 0, Stand::same}, {empty, Stand::fresh}}, Stand::differs);
}

void look_at_part(const Here& here, const BundlePart& part, UnpackedPart& out) {
    switch (part.kind) {
        case BundleKind::profile: return look_at_profile(here, part, out);
        case BundleKind::set: return look_at_set(here, part, out);
        case BundleKind::tier: return look_at_tier(here, part, out);
        case BundleKind::baseline: return look_at_baseline(here, part, out);
        case BundleKind::colours: {
            const ColourProfile c = colour_profile_from(part.document, where_in(part));
            out.words.push_back(c.contents());
            if (here.colours.count(bytes_hash(part.document))) out.stand = Stand::same;
            return;
        }
        default: return look_at_register(here, part, out);
    }
}

/// What pins refer to has to be here, or come along.
class Needs {
public:
    Needs(const Here& here, const BundleView& view, const std::vector<std::pair<BundleKind, std::string>>& coming) {
        for (const Profile& p : here.profiles) profiles_.insert(p.id);
        for (const std::string& hash : here.colours) colours_.insert(hash);
        for (const PinSet& s : here.draft.sets) sets_.insert(s.name);
        for (const BundlePart& p : view.bundle.parts) {
            const bool comes = std::find(coming.begin(), coming.end(), std::pair(p.kind, p.id)) != coming.end();
            const bool there = std::any_of(view.parts.begin(), view.parts.end(), [&](const UnpackedPart& u) {
                return u.kind == p.kind && u.id == p.id && u.stand == Stand::same;
            });
            if (!comes && !there) continue;
            if (p.kind == BundleKind::profile) profiles_.insert(p.id.substr(0, p.id.find('@')));
            if (p.kind == BundleKind::colours) colours_.insert(bytes_hash(p.document));
            if (p.kind == BundleKind::set) sets_.insert(p.id);
        }
    }

    /// What a part of the draft needs and lacks, for people; empty where nothing is, and for all other parts.
    std::string missing(const BundlePart& part) const {
        if (part.kind == BundleKind::set) {
            const PinSet s = set_from_text(part.document, where_in(part));
            return missing(s.sets, s.pins);
        }
        if (part.kind == BundleKind::tier) {
            const Tier t = tier_from_text(part.document, where_in(part));
            return missing(t.sets, t.pins);
        }
        if (part.kind != BundleKind::baseline) return {};
        // Its sets are its own.
        const Revision r = revision_from_json(part.document, where_in(part));
        Needs own = *this;
        for (const PinSet& s : r.sets) own.sets_.insert(s.name);
        for (const PinSet& s : r.sets)
            if (const std::string what = own.missing(s.sets, s.pins); !what.empty()) return what;
        for (const Tier& t : r.tiers)
            if (const std::string what = own.missing(t.sets, t.pins); !what.empty()) return what;
        return {};
    }

private:
    std::string missing(const std::vector<std::string>& sets, const Pins& pins) const {
        for (const std::string& s : sets)
            if (!sets_.count(s)) return "the set '" + printable(s) + "'";
        for (const auto& [field, pin] : pins)
            for (const auto& [iso, value] : pin.knots)
                if (const std::string what = missing(field, value); !what.empty()) return what;
        return {};
    }
    std::string missing(Field field, const Value& value) const {
        if (const std::string set = field == Field::start ? set_named_by(value) : ""; !set.empty() && !sets_.count(set))
            return "the set '" + printable(set) + "'";
        if (field == Field::lens_profile && value.text != "automatic" && value.text != "none" &&
            !profiles_.count(value.text))
            return "the profile '" + printable(value.text) + "'";
        if (field == Field::colour_source)
            if (const std::string hash = colour_file_hash(value); !hash.empty()) {
                const auto begins = [&](const std::string& whole) { return whole.rfind(hash, 0) == 0; };
                if (std::none_of(colours_.begin(), colours_.end(), begins))
                    return "the colour file '" + printable(value.text) + "'";
            }
        return {};
    }

    std::set<std::string> profiles_, colours_, sets_;
};

std::vector<std::pair<BundleKind, std::string>> usable_parts(const BundleView& view) {
    std::vector<std::pair<BundleKind, std::string>> out;
    for (const UnpackedPart& p : view.parts)
        if (p.usable()) out.emplace_back(p.kind, p.id);
    return out;
}

/// Sets and tiers that name what is neither in the bundle nor here can be of no use.
void refuse_incomplete(const Here& here, BundleView& view) {
    for (bool changed = true; changed;) {
        changed = false;
        const Needs needs(here, view, usable_parts(view));
        for (std::size_t i = 0; i < view.parts.size(); ++i) {
            UnpackedPart& u = view.parts[i];
            const BundlePart& p = view.bundle.parts[i];
            const std::string missing = u.usable() ? needs.missing(p) : "";
            if (missing.empty()) continue;
            u.stand = Stand::unusable;
            u.words = {"it names " + missing + ", which is neither in the bundle nor here"};
            changed = true;
        }
    }
}

ProfileSource source_of(const BundleView& view) {
    return {view.way, view.source, view.bundle.key, view.signer, "", "", view.standing};
}

}  // namespace

std::string to_string(UnpackedPart::Stand stand) {
    switch (stand) {
        case Stand::fresh: return "new";
        case Stand::same: return "here already";
        case Stand::differs: return "differs";
        default: return "cannot be used";
    }
}

std::string BundleView::origin() const { return describe(source_of(*this)); }
std::string BundleView::source_words() const { return named_source(source_of(*this)); }

BundleView look_at(Store& store, Bundle bundle) {
    const Here here(store);
    BundleView out;
    out.source = bundle.title;
    out.signer = bundle.sender;
    out.standing = bundle.key.empty() ? Standing::not_signed : Standing::unknown;
    if (const auto known = bundle.key.empty() ? std::nullopt : store.measurers().of(bundle.key)) {
        out.signer = known->name;
        out.standing = known->standing();
    }
    for (const BundlePart& p : bundle.parts) {
        UnpackedPart& u = out.parts.emplace_back(UnpackedPart{p.kind, p.id, p.name, Stand::fresh, {}});
        try {
            look_at_part(here, p, u);
        } catch (const std::exception& error) {
            u.stand = Stand::unusable;
            u.words = {without_stop(error.what())};
        }
    }
    out.bundle = std::move(bundle);
    refuse_incomplete(here, out);
    return out;
}

BundleChoice all_of(const BundleView& view, bool replace) {
    BundleChoice out;
    out.replace = replace;
    for (const UnpackedPart& p : view.parts)
        if (p.usable() && (replace || !p.replaces())) out.parts.emplace_back(p.kind, p.id);
    return out;
}

namespace {

class Taking {
public:
    Taking(Store& store, const BundleView& view, const BundleChoice& choice, const std::string& author)
        : store_(store), view_(view), choice_(choice), author_(author), here_(store) {
        for (const auto& [kind, id] : choice.parts) chosen_.push_back(checked(kind, id));
        std::stable_sort(chosen_.begin(), chosen_.end(),
                         [](const BundlePart* a, const BundlePart* b) { return a->kind < b->kind; });
    }

    BundleTaken take() {
        // Nobody changes these until it is done; in the order in which others take them.
        Transaction fleet(store_.engine(), "fleet"), profiles(store_.engine(), "profiles"),
            draft(store_.engine(), "draft");
        require_as_seen();
        take_register();
        for (const BundlePart* p : chosen_) {
            if (p->kind == BundleKind::colours)
                store_.colours().put(colour_profile_from(p->document, where_in(*p)), view_.source_words(), author_);
            if (p->kind == BundleKind::profile) take_profile(*p);
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
            if (u.stand == Stand::unusable)
                throw input_error(fmt::format("{} cannot be taken: {}.", capital(what), u.words.front()));
            if (u.replaces() && !choice_.replace && !(kind == BundleKind::set && choice_.set_names.count(id)))
                throw input_error(
                    fmt::format("{} would replace another one that is here; take it under another name, "
                                "or ask for that to be replaced.",
                                capital(what)));
            return &view_.bundle.parts[i];
        }
        std::vector<std::string> names;
        for (const UnpackedPart& u : view_.parts)
            if (u.kind == kind) names.push_back(u.id);
        throw input_error(
            fmt::format("The bundle has no {} '{}'{}.", to_string(kind), printable(id), nearest_clause(id, names)));
    }

    static const char* seen_as(Stand stand) { return stand == Stand::fresh ? "new" : "different from what is here"; }

    /// What a person saw of the chosen parts still holds.
    void require_as_seen() {
        const BundleView now = look_at(store_, view_.bundle);
        for (std::size_t i = 0; i < now.parts.size(); ++i)
            for (const BundlePart* p : chosen_)
                if (p == &view_.bundle.parts[i] && now.parts[i].stand != view_.parts[i].stand)
                    throw input_error(fmt::format(
                        "{} was {} when you looked, and is not any more, since somebody changed the studio meanwhile; "
                        "look at the bundle again.",
                        capital(where_in(*p)), seen_as(view_.parts[i].stand)));
    }

    static std::string capital(std::string text) {
        if (!text.empty()) text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
        return text;
    }

    void take_register() {
        RegisterImport all;
        for (const BundlePart* p : chosen_) {
            if (p->kind > BundleKind::claim) continue;
            const RegisterImport one = register_from_json(p->document, where_in(*p), here_.entries);
            all.models.insert(all.models.end(), one.models.begin(), one.models.end());
            all.bodies.insert(all.bodies.end(), one.bodies.begin(), one.bodies.end());
            all.lenses.insert(all.lenses.end(), one.lenses.begin(), one.lenses.end());
            all.claims.insert(all.claims.end(), one.claims.begin(), one.claims.end());
        }
        FleetEdit edit = store_.registry().edit_for(all);
        if (edit.empty()) return;
        edit.what = "take in from " + view_.source_words();
        store_.registry().edit(edit, author_);
        out_.told.push_back("The register has what the bundle says of bodies and lenses.");
    }

    void take_profile(const BundlePart& part) {
        Profile p = profile_in(part);
        const std::string before = p.id;
        ProfileSource source{view_.way, view_.source, view_.bundle.key, view_.bundle.sender, author_, utc_now(), {}};
        if (p.taken_in) source.signer += ", who had it from " + describe_source(*p.taken_in);
        p.taken_in = source;
        const Profile published = store_.profiles().publish(p);
        ids_[before] = published.id;
        out_.profiles.push_back(published);
        out_.told.push_back(fmt::format("{} is {} version {} now.", published.name, published.id, published.version));
    }

    static std::string describe_source(const ProfileSource& s) {
        return s.signer.empty() ? (s.key.empty() ? "nobody who signed it" : key_words(s.key)) : s.signer;
    }

    /// Sets and tiers of the bundle as they are to stand in the draft.
    Revision incoming() {
        Revision in;
        for (const BundlePart* p : chosen_) {
            if (p->kind == BundleKind::set) in.sets.push_back(set_from_text(p->document, where_in(*p)));
            if (p->kind == BundleKind::tier) in.tiers.push_back(tier_from_text(p->document, where_in(*p)));
        }
        const Needs needs(here_, view_, choice_.parts);
        for (const BundlePart* p : chosen_)
            if (const std::string what = needs.missing(*p); !what.empty())
                throw input_error(fmt::format("{} names {}, which is not here and was not chosen; choose it as well.",
                                              capital(where_in(*p)), what));
        for (const auto& [from, to] : choice_.set_names) {
            check_set_name(to);
            if (!in.set(from))
                throw input_error(
                    fmt::format("The set '{}' was not chosen, so it gets no other name.", printable(from)));
            if (in.set(to) || (here_.draft.set(to) && !choice_.replace))
                throw input_error(fmt::format("There is a set '{}' already; choose another name.", to));
            rename_set(in, from, to);
        }
        return in;
    }

    /// Profiles that have other ids here.
    void point_to_own(Pins& pins) const {
        const auto pin = pins.find(Field::lens_profile);
        if (pin == pins.end()) return;
        for (auto& [iso, value] : pin->second.knots)
            if (const auto id = ids_.find(value.text); id != ids_.end()) value.text = id->second;
    }

    void take_draft() {
        for (std::size_t i = 0; i < view_.parts.size(); ++i)
            if (view_.parts[i].kind == BundleKind::profile && view_.parts[i].stand == Stand::same) {
                const Profile p = profile_from_json(view_.bundle.parts[i].document, "the bundle");
                if (const Profile* same = same_profile(here_.profiles, p)) ids_.emplace(p.id, same->id);
            }
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
        out_.told.push_back("What the bundle says of baselines stands in the draft; publish it when it is right.");
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
        take_in_draft(draft, wanted, here_.current, choice_.replace ? TakeIn::replace : TakeIn::refuse_others);
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
    Here here_;
    std::vector<const BundlePart*> chosen_;
    std::map<std::string, std::string> ids_;  ///< of profiles, from the bundle's to the store's
    BundleTaken out_;
};

}  // namespace

BundleTaken take_from(Store& store, const BundleView& view, const BundleChoice& choice, const std::string& author) {
    if (choice.parts.empty())
        throw input_error("Nothing of the bundle was chosen, or all of it is here already; nothing was taken.");
    if (!choice.anyway && view.standing == Standing::not_signed)
        throw input_error(
            "Nobody signed this bundle, so nobody stands for what is in it; take it only if you know where it comes "
            "from (--anyway).");
    if (!choice.anyway && view.standing == Standing::withdrawn)
        throw input_error(
            fmt::format("The key that signed this bundle was withdrawn, so {} may not have made it; ask "
                        "them for a new one (or --anyway).",
                        view.signer));
    return Taking(store, view, choice, author).take();
}

}  // namespace optrel

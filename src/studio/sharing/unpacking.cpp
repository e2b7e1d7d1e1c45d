// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/sharing/unpacking.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/choose.h"
#include "base/error.h"
#include "base/figure_text.h"
#include "base/words.h"
#include "fleet/register_files.h"
#include "frames/colour_profile.h"
#include "optics/compare_profiles.h"
#include "optics/plausible.h"
#include "optics/profile_kind.h"
#include "sharing/shared_profile.h"
#include "studio/sharing/bundle_needs.h"

namespace optrel {
namespace {

using Stand = UnpackedPart::Stand;

/// A set without its origin, which is no difference.
PinSet plain(PinSet s) {
    s.origin.clear();
    return s;
}
Tier plain(Tier t) {
    t.origin.clear();
    t.id.clear();
    return t;
}

/// Differences of two entries of the draft, as text.
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

/// Differences of two entries of the register, by their documents.
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

void look_at_profile(const StudioSnapshot& here, const BundlePart& part, UnpackedPart& out) {
    const Profile p = profile_from_json(part.document, where_in(part));
    require_unfolded(p);
    double rms = 0;
    for (const ProfileNode& n : p.nodes) rms = std::max(rms, n.quality.rms_px);
    out.words.push_back(fmt::format("{} of {}, {} lens setting{}{}, measured {}", to_string(p.origin), p.lens,
                                    p.nodes.size(), p.nodes.size() == 1 ? "" : "s",
                                    p.measured() ? ", " + figure_text(figures::reprojection_error, rms) + " RMS" : "",
                                    p.provenance.time.substr(0, 10)));
    if (const Profile* same = here.same_profile(p)) {
        out.stand = Stand::same;
        out.words = {fmt::format("it is here as {} version {}", same->id, same->version)};
        return;
    }
    for (const Profile& h : here.profiles) {
        if (canonical_lens_text(h.lens) != canonical_lens_text(p.lens) || h.lens_serial != p.lens_serial) continue;
        out.stand = Stand::differs;
        out.words.push_back(fmt::format("here is {} version {} of the same lens; both are kept", h.id, h.version));
        try {
            LensSetting at;
            out.words.push_back("beside it " + lower_first(without_stop(compare_profiles(h, p, at).sentence())));
        } catch (const Error&) {
            out.words.push_back("they have too little of the picture in common to be compared");
        }
        return;
    }
}

void look_at_measurement(const StudioSnapshot& here, const MeasurementKind& kind, const BundlePart& part,
                         UnpackedPart& out) {
    const Measurement m = kind.read(part.document, where_in(part));
    kind.require_plausible(part.document);
    out.words.push_back(
        fmt::format("{} of {}, measured {}", to_string(m.origin), m.subject.name, m.time.substr(0, 10)));
    for (const QualityFigure& f : m.figures) out.words.push_back(to_string(f));
    if (const Measurement* same = here.same_measurement(kind, m)) {
        out.stand = Stand::same;
        out.words = {fmt::format("it is here as {} version {}", same->id, same->version)};
        return;
    }
    for (const Measurement& h : here.measurements) {
        if (h.kind != kind.id || h.subject.name != m.subject.name || h.subject.serial != m.subject.serial) continue;
        const std::vector<std::string> differences = kind.differences(h.document, part.document);
        out.stand = Stand::differs;
        out.words.insert(out.words.end(), differences.begin(), differences.end());
    }
}

template <class T>
void look_at_entry(const RegisterImport& import, const std::vector<T>& fresh, const T* there, UnpackedPart& out) {
    // What exists already is not part of an import's changes.
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

void look_at_register(const StudioSnapshot& here, const BundlePart& part, UnpackedPart& out) {
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

void look_at_set(const StudioSnapshot& here, const BundlePart& part, UnpackedPart& out) {
    const PinSet s = set_from_text(part.document, where_in(part));
    const PinSet* there = here.draft.set(s.name);
    out.words.push_back(fmt::format("pins {} field{}", s.pins.size(), s.pins.size() == 1 ? "" : "s"));
    if (!there) return;
    out.stand = plain(*there) == plain(s) ? Stand::same : Stand::differs;
    if (out.stand == Stand::differs) out.words = differences(*there, s, &Revision::sets);
}

void look_at_tier(const StudioSnapshot& here, const BundlePart& part, UnpackedPart& out) {
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

void look_at_baseline(const StudioSnapshot& here, const BundlePart& part, UnpackedPart& out) {
    const Revision r = revision_from_json(part.document, where_in(part));
    const std::size_t changes = difference(here.draft, r).size();
    out.words.push_back(fmt::format("{} tiers, {} sets; it would replace the whole draft ({} changes)", r.tiers.size(),
                                    r.sets.size(), changes));
    const bool empty = here.draft.tiers.empty() && here.draft.sets.empty();
    out.stand = first_of<Stand>({{changes == 0, Stand::same}, {empty, Stand::fresh}}, Stand::differs);
}

void look_at_part(const StudioSnapshot& here, const BundlePart& part, UnpackedPart& out) {
    if (part.kind == BundleKind::of(lens_profile_kind())) return look_at_profile(here, part, out);
    if (part.kind.measurement()) return look_at_measurement(here, *part.kind.measurement(), part, out);
    if (part.kind == BundleKind::set) return look_at_set(here, part, out);
    if (part.kind == BundleKind::tier) return look_at_tier(here, part, out);
    if (part.kind == BundleKind::baseline) return look_at_baseline(here, part, out);
    if (part.kind != BundleKind::colours) return look_at_register(here, part, out);
    const ColourProfile c = colour_profile_from(part.document, where_in(part));
    out.words.push_back(c.contents());
    if (here.colours.count(bytes_hash(part.document))) out.stand = Stand::same;
}

std::vector<std::pair<BundleKind, std::string>> usable_parts(const BundleView& view) {
    std::vector<std::pair<BundleKind, std::string>> out;
    for (const UnpackedPart& p : view.parts)
        if (p.usable()) out.emplace_back(p.kind, p.id);
    return out;
}

/// Sets and tiers with references to missing things are unusable.
void refuse_incomplete(const StudioSnapshot& here, BundleView& view) {
    for (bool changed = true; changed;) {
        changed = false;
        const BundleNeeds needs(here, view, usable_parts(view));
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

}  // namespace

std::string fault_of_anchor(const Store& store, const Bundle& bundle) {
    if (!bundle.anchor || bundle.anchor->first != store.history().first_seal()) return {};
    if (store.history().holds({bundle.anchor->row, bundle.anchor->seal})) return {};
    return fmt::format(
        "The bundle '{}' was packed here on {} when the history had row {}, which is not there as it was: the history "
        "was "
        "written anew, or the store is an older copy; compare with a copy of the store.",
        bundle.title, bundle.time.substr(0, 10), bundle.anchor->row);
}

BundleView look_at(const Store& store, Bundle bundle) {
    return look_at(store, std::move(bundle), StudioSnapshot(store));
}

BundleView look_at(const Store& store, Bundle bundle, const StudioSnapshot& here) {
    BundleView out;
    out.source = bundle.title;
    out.signer = bundle.sender;
    out.standing = bundle.key.empty() ? Standing::not_signed : Standing::unknown;
    if (const auto known = bundle.key.empty() ? std::nullopt : store.measurers().of(bundle.key)) {
        out.signer = known->name;
        out.standing = known->standing();
    }
    out.history = fault_of_anchor(store, bundle);
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

}  // namespace optrel

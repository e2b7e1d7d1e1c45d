// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/sharing/bundle_needs.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/files.h"
#include "base/words.h"
#include "kinds/measurement_kinds.h"
#include "optics/profile_kind.h"
#include "optics/profile_versions.h"
#include "sharing/shared_profile.h"

namespace optrel {

StudioSnapshot::StudioSnapshot(const Store& store)
    : profiles(store.profiles().all_versions()),
      draft(store.baselines().draft()),
      current(store.baselines().current()),
      entries(store.registry().entries()),
      claims(store.registry().claims()) {
    for (const MeasurementKind* kind : measurement_kinds())
        if (kind != &lens_profile_kind())
            for (Measurement& m : store.measurements().all_versions(*kind)) measurements.push_back(std::move(m));
    for (const ColourFile& c : store.colours().all()) colours.insert(c.hash);
}

const Profile* StudioSnapshot::same_profile(const Profile& profile) const {
    const std::string wanted = measurement_in(profile);
    for (const Profile& p : profiles)
        if (p.lens == profile.lens && measurement_in(p) == wanted) return &p;
    return nullptr;
}

const Measurement* StudioSnapshot::same_measurement(const MeasurementKind& kind, const Measurement& wanted) const {
    for (const Measurement& m : measurements)
        if (m.kind == kind.id && m.subject.name == wanted.subject.name && m.subject.serial == wanted.subject.serial &&
            kind.differences(m.document, wanted.document).empty())
            return &m;
    return nullptr;
}

std::string where_in(const BundlePart& p) { return fmt::format("the {} '{}'", to_string(p.kind), printable(p.name)); }

const Tier* tier_of_conditions(const Revision& draft, const Tier& t) {
    for (const Tier& there : draft.tiers)
        if (describe_conditions(there) == describe_conditions(t)) return &there;
    return nullptr;
}

BundleNeeds::BundleNeeds(const StudioSnapshot& now, const BundleView& view,
                         const std::vector<std::pair<BundleKind, std::string>>& coming) {
    for (const Profile& p : now.profiles) profiles_.insert(p.id);
    for (const std::string& hash : now.colours) colours_.insert(hash);
    for (const PinSet& s : now.draft.sets) sets_.insert(s.name);
    for (const BundlePart& p : view.bundle.parts) {
        const bool comes = std::find(coming.begin(), coming.end(), std::pair(p.kind, p.id)) != coming.end();
        const bool there = std::any_of(view.parts.begin(), view.parts.end(), [&](const UnpackedPart& u) {
            return u.kind == p.kind && u.id == p.id && u.stand == UnpackedPart::Stand::same;
        });
        if (!comes && !there) continue;
        if (p.kind == BundleKind::of(lens_profile_kind())) profiles_.insert(p.id.substr(0, p.id.find('@')));
        if (p.kind == BundleKind::colours) colours_.insert(bytes_hash(p.document));
        if (p.kind == BundleKind::set) sets_.insert(p.id);
    }
}

std::string BundleNeeds::missing(const BundlePart& part) const {
    if (part.kind == BundleKind::set) {
        const PinSet s = set_from_text(part.document, where_in(part));
        return missing(s.sets, s.pins);
    }
    if (part.kind == BundleKind::tier) {
        const Tier t = tier_from_text(part.document, where_in(part));
        return missing(t.sets, t.pins);
    }
    if (part.kind != BundleKind::baseline) return {};
    // A baseline brings its own sets.
    const Revision r = revision_from_json(part.document, where_in(part));
    BundleNeeds own = *this;
    for (const PinSet& s : r.sets) own.sets_.insert(s.name);
    for (const PinSet& s : r.sets)
        if (const std::string what = own.missing(s.sets, s.pins); !what.empty()) return what;
    for (const Tier& t : r.tiers)
        if (const std::string what = own.missing(t.sets, t.pins); !what.empty()) return what;
    return {};
}

std::string BundleNeeds::missing(const std::vector<std::string>& sets, const Pins& pins) const {
    for (const std::string& s : sets)
        if (!sets_.count(s)) return "the set '" + printable(s) + "'";
    for (const auto& [field, pin] : pins)
        for (const auto& [iso, value] : pin.knots)
            if (const std::string what = missing(field, value); !what.empty()) return what;
    return {};
}

std::string BundleNeeds::missing(Field field, const Value& value) const {
    if (const std::string set = field == Field::start ? set_named_by(value) : ""; !set.empty() && !sets_.count(set))
        return "the set '" + printable(set) + "'";
    if (field == Field::lens_profile && value.text != "automatic" && value.text != "none" &&
        !profiles_.count(ProfileReference::parse(value.text).id))
        return "the profile '" + printable(value.text) + "'";
    if (field == Field::colour_source)
        if (const std::string hash = colour_file_hash(value); !hash.empty()) {
            const auto begins = [&](const std::string& whole) { return whole.rfind(hash, 0) == 0; };
            if (std::none_of(colours_.begin(), colours_.end(), begins))
                return "the colour file '" + printable(value.text) + "'";
        }
    return {};
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/profile_model.h"

#include "base/station.h"
#include "kinds/measurement_kinds.h"
#include "optics/profile_kind.h"
#include "optics/profile_versions.h"
#include "studio/fleet/claim.h"
#include "studio/profiles/measurement_file.h"
#include "studio/profiles/profile_file.h"

namespace optrel {

ProfileModel::ProfileModel(Store& store, Messages& messages)
    : SessionPart(store, messages, {"profiles", "colours"}), known_() {
    take({store.profiles().all_versions(), store.colours().all()});
    remember();
}

QString ProfileModel::name(const std::string& id) const {
    const ProfileReference reference = ProfileReference::parse(id);
    const QString as_of = reference.as_of.empty() ? QString() : ", as of " + QString::fromStdString(reference.as_of);
    if (reference.kind == ProfileReference::Kind::automatic) return "automatic" + as_of;
    for (const Profile& p : known_.profiles)
        if (p.id == reference.id)
            return QString::fromStdString(p.name) +
                   (reference.version > 0 ? QString(" version %1").arg(reference.version) : as_of) +
                   (p.lens_serial.empty() ? QString() : ", " + QString::fromStdString(p.lens_serial)) +
                   (p.taken_in ? ", taken in from " + QString::fromStdString(describe(*p.taken_in)) : QString());
    return QString::fromStdString(id);
}

Profile ProfileModel::publish(const Profile& profile, OtherSettings others) {
    const Profile p = store_.profiles().publish(profile, others);
    reload();
    return p;
}

void ProfileModel::withdraw(const Profile& version, const std::string& reason) {
    store_.profiles().withdraw(version.id, version.version, reason, current_author());
    reload();
}

void ProfileModel::make_current(const Profile& version, const std::string& reason) {
    store_.profiles().make_current(version.id, version.version, reason, current_author());
    reload();
}

Profile ProfileModel::take_in(const Profile& profile) {
    const Profile p = take_in_profile(store_, profile);
    reload();
    return p;
}

Measurement ProfileModel::publish(const MeasurementKind& kind, const std::string& document, OtherSettings others) {
    const Measurement m = take_in_measurement(store_, kind, document, others);
    reload();
    return m;
}

void ProfileModel::withdraw(const Measurement& version, const std::string& reason) {
    store_.measurements().withdraw(*find_measurement_kind(version.kind), version.id, version.version, reason,
                                   current_author());
    reload();
}

void ProfileModel::make_current(const Measurement& version, const std::string& reason) {
    store_.measurements().make_current(*find_measurement_kind(version.kind), version.id, version.version, reason,
                                       current_author());
    reload();
}

std::shared_ptr<const ColourProfile> ProfileModel::colour_file(const Value& value) const {
    if (colour_file_hash(value).empty()) return nullptr;
    if (const auto it = fetched_.find(value.text); it != fetched_.end()) return it->second;
    std::shared_ptr<const ColourProfile> found;
    messages_.attempt([&] { found = store_.colours().fetch(value); });
    if (found) fetched_[value.text] = found;
    return found;
}

ColourFile ProfileModel::keep_colours(const ColourProfile& profile, const std::string& origin) {
    const ColourFile f = store_.colours().put(profile, origin, current_author());
    reload();
    return f;
}

void ProfileModel::take(References known) {
    known_ = std::move(known);
    current_.clear();
    for (const Profile& p : known_.profiles)
        if (p.state.is_current()) current_.push_back(p);
    bodies_ = body_measurements(store_);
    measurements_.clear();
    for (const Profile& p : current_) measurements_.push_back(measurement_of(p));
    // Profiles are read already.
    for (const MeasurementKind* kind : measurement_kinds())
        if (kind != &lens_profile_kind() && pins_may_follow(*kind))
            for (Measurement& m : store_.measurements().current(*kind)) measurements_.push_back(std::move(m));
}

void ProfileModel::reload() {
    messages_.attempt([this] { take({store_.profiles().all_versions(), store_.colours().all()}); });
    remember();
    emit changed();
}

}  // namespace optrel

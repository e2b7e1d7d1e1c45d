// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/profiles.h"

#include <algorithm>

#include "measurement/set_states.h"
#include "optics/profile_kind.h"
#include "store/measurements.h"
#include "store/measurers.h"

namespace optrel {

std::vector<Profile> StoredProfiles::all_versions() const {
    StoredMeasurements measurements(engine_);
    std::vector<Profile> out = parse_rows(measurements.rows(lens_profile_kind()), profile_from_json);
    const std::vector<Measurer> measurers = StoredMeasurers(engine_).all();
    for (Profile& p : out)
        if (p.taken_in) judge_source(*p.taken_in, measurers);
    set_states(out, measurements.events());
    std::stable_sort(out.begin(), out.end(), [](const Profile& a, const Profile& b) { return a.name < b.name; });
    return out;
}

std::vector<Profile> StoredProfiles::current() const {
    std::vector<Profile> out = all_versions();
    std::erase_if(out, [](const Profile& p) { return !p.state.is_current(); });
    return out;
}

void StoredProfiles::withdraw(const std::string& id, int version, const std::string& reason,
                              const std::string& author) {
    StoredMeasurements(engine_).withdraw(lens_profile_kind(), id, version, reason, author);
}

void StoredProfiles::make_current(const std::string& id, int version, const std::string& reason,
                                  const std::string& author) {
    StoredMeasurements(engine_).make_current(lens_profile_kind(), id, version, reason, author);
}

std::string proposed_profile(const Profile& profile) {
    return lens_profile_kind().numbered(profile_to_json(profile), "", 0);
}

Profile StoredProfiles::publish(const Profile& profile, OtherSettings others) {
    const Measurement published =
        StoredMeasurements(engine_).publish(lens_profile_kind(), profile_to_json(profile), others);
    return profile_from_json(published.document, "the profile");
}

}  // namespace optrel

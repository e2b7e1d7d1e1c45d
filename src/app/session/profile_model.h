// SPDX-License-Identifier: GPL-3.0-or-later
// What fields can name, as the window holds it: the published lens profiles, and the colour files.
#pragma once

#include <map>
#include <memory>

#include "session/session_part.h"
#include "studio/baselines/references.h"
#include "studio/frames/body_measurements.h"

namespace optrel {

class ProfileModel : public SessionPart {
    Q_OBJECT
public:
    ProfileModel(Store& store, Messages& messages);

    /// All versions, the newest of each first, with what became of them.
    const std::vector<Profile>& all() const { return known_.profiles; }
    /// The version of each that frames get.
    const std::vector<Profile>& current() const { return current_; }
    /// The current measurements that pins can be derived from, profiles included.
    const std::vector<Measurement>& measurements() const { return measurements_; }
    /// What was measured of bodies.
    const BodyMeasurements& bodies() const { return *bodies_; }
    /// All that fields can name: profiles and colour files.
    const References& references() const { return known_; }
    /// What a value of colour_source names, kept for the next time; null for one that is no file, or is not here.
    std::shared_ptr<const ColourProfile> colour_file(const Value& value) const;
    /// Keeps a colour profile in the store.
    ColourFile keep_colours(const ColourProfile& profile, const std::string& origin);
    /// Name of a profile by its id, for people; the id itself when it is not there.
    QString name(const std::string& id) const;

    // These ask the store each time and throw as it does.
    std::vector<Profile> versions() { return store_.profiles().all_versions(); }
    Profile publish(const Profile& profile, OtherSettings others);
    void withdraw(const Profile& version, const std::string& reason);
    void make_current(const Profile& version, const std::string& reason);
    /// A profile that came as a file; see take_in_profile().
    Profile take_in(const Profile& profile);
    // Measurements of other kinds.
    std::vector<Measurement> versions(const MeasurementKind& kind) { return store_.measurements().all_versions(kind); }
    Measurement publish(const MeasurementKind& kind, const std::string& document, OtherSettings others);
    void withdraw(const Measurement& version, const std::string& reason);
    void make_current(const Measurement& version, const std::string& reason);

    /// All of them as they are now, for a worker.
    std::shared_ptr<const std::vector<Profile>> shared() const {
        return std::make_shared<const std::vector<Profile>>(known_.profiles);
    }

    void reload();

private:
    void take(References known);

    References known_;
    std::vector<Profile> current_;
    std::vector<Measurement> measurements_;
    std::shared_ptr<const BodyMeasurements> bodies_ = std::make_shared<const BodyMeasurements>();
    mutable std::map<std::string, std::shared_ptr<const ColourProfile>> fetched_;  ///< by value
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/profile_book.h"

#include "studio/profile_file.h"

namespace optrel {

ProfileBook::ProfileBook(Store& store, Voice& voice)
    : SessionPart(store, voice, {"profiles"}), profiles_(store.profiles().newest()) {
    remember();
}

QString ProfileBook::name(const std::string& id) const {
    for (const Profile& p : profiles_)
        if (p.id == id)
            return QString::fromStdString(p.name) +
                   (p.lens_serial.empty() ? QString() : ", " + QString::fromStdString(p.lens_serial));
    return QString::fromStdString(id);
}

Profile ProfileBook::publish(const Profile& profile, bool keep_settings) {
    const Profile p = store_.profiles().publish(profile, keep_settings);
    reload();
    return p;
}

Profile ProfileBook::take_in(const Profile& profile) {
    const Profile p = take_in_profile(store_, profile);
    reload();
    return p;
}

std::function<std::vector<Profile>()> ProfileBook::versions_for_worker() const {
    return [source = store_.source()] { return source.open(Access::read).profiles().all_versions(); };
}

void ProfileBook::reload() {
    voice_.attempt([this] { profiles_ = store_.profiles().newest(); });
    remember();
    emit changed();
}

}  // namespace optrel

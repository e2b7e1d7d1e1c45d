// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/naming.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/numbers.h"
#include "fleet/look_up.h"
#include "optics/profile_versions.h"

namespace optrel {

Naming::Naming(const Store& store) : entries_(store.registry().entries()), reported_(store.frames().reported()) {}

std::string Naming::body(const std::string& text) const { return look_up_body(entries_, text); }
std::string Naming::model(const std::string& text) const { return look_up_model(entries_, text, reported_.models); }
std::string Naming::lens_copy(const std::string& text) const { return look_up_lens_copy(entries_, text); }
std::string Naming::lens_text(const std::string& text) const {
    return look_up_lens_text(entries_, text, reported_.lenses);
}

std::string set_named(const Revision& revision, const std::string& text) {
    std::vector<Named> things;
    for (const PinSet& s : revision.sets) things.push_back({s.name, {s.name}});
    return look_up("set", text, things, "Baselines and 'baseline sets list' show them all");
}

const Profile& profile_named(const std::vector<Profile>& profiles, const std::string& text) {
    std::string wanted = text;
    int version = 0;
    if (const auto at = text.rfind('@'); at != std::string::npos)
        if (const auto number = parse_integer(text.substr(at + 1)); number && *number > 0) {
            version = static_cast<int>(*number);
            wanted = text.substr(0, at);
        }
    std::vector<Named> things;
    for (const Profile& p : profiles)
        things.push_back({p.id, {p.id, p.lens_serial.empty() ? p.name : p.name + " " + p.lens_serial, p.name, p.lens}});
    const std::string id = look_up("profile", wanted, things, "Lenses and 'store list profiles' show them all");
    // Without a version, the current one; when all are withdrawn, the newest.
    const auto better = [](const Profile& p, const Profile* than) {
        if (!than || p.state.is_current() != than->state.is_current()) return !than || p.state.is_current();
        return p.version > than->version;
    };
    const Profile* found = nullptr;
    for (const Profile& p : profiles)
        if (p.id == id && (version == 0 ? better(p, found) : p.version == version)) found = &p;
    if (!found)
        throw input_error(fmt::format(
            "The profile {} has no version {}; Lenses and 'store list profiles' show them all.", id, version));
    return *found;
}

std::string profile_reference(const std::vector<Profile>& profiles, const std::string& text) {
    ProfileReference out = ProfileReference::parse(text);
    if (out.kind != ProfileReference::Kind::named || !out.as_of.empty()) return text;
    out.id = profile_named(profiles, text).id;
    return out.text();
}

}  // namespace optrel

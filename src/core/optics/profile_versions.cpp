// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/profile_versions.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/numbers.h"

namespace optrel {

ProfileReference ProfileReference::parse(const std::string& text) {
    ProfileReference out;
    std::string name = text;
    if (const std::size_t at = text.rfind('@'); at != std::string::npos) {
        const std::string rest = text.substr(at + 1);
        const auto number = parse_integer(rest);
        if (number && *number > 0 && *number < 1000000)
            out.version = static_cast<int>(*number);
        else if (rest.size() == 20 && rest[10] == 'T' && rest.back() == 'Z')
            out.as_of = rest;
        if (out.version > 0 || !out.as_of.empty()) name = text.substr(0, at);
    }
    if (name == "none" && out.version == 0) {
        out.kind = Kind::none;
    } else if (!(name == "automatic" && out.version == 0)) {
        out.kind = Kind::named;
        out.id = name;
    }
    return out;
}

std::string ProfileReference::text() const {
    if (kind == Kind::none) return "none";
    const std::string name = kind == Kind::automatic ? "automatic" : id;
    if (version > 0) return fmt::format("{}@{}", name, version);
    return as_of.empty() ? name : name + "@" + as_of;
}

bool ProfileReference::names(const Profile& profile) const {
    if (kind != Kind::named || profile.id != id) return false;
    return version > 0 ? profile.version == version : profile.state.was_current(as_of);
}

ProfileReference ProfileReference::at(const std::string& time) const {
    ProfileReference out = *this;
    if (kind != Kind::none && version == 0) out.as_of = time;
    return out;
}

const Profile* referred_profile(const std::vector<Profile>& versions, const ProfileReference& reference) {
    const auto it =
        std::find_if(versions.begin(), versions.end(), [&](const Profile& p) { return reference.names(p); });
    return it == versions.end() ? nullptr : &*it;
}

std::string fixed_at(const std::string& value, const std::string& time) {
    return ProfileReference::parse(value).at(time).text();
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/profile_versions.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/error.h"
#include "base/numbers.h"

namespace optrel {

namespace {

/// The versions of one profile as its events come.
class Replay {
public:
    explicit Replay(std::map<int, Profile*> versions) : versions_(std::move(versions)) {
        for (auto& [number, p] : versions_) p->state = {false, {}, ""};
    }

    void take(const VersionEvent& e) {
        if (versions_.count(e.version) == 0) return;
        switch (e.what) {
            case VersionEvent::What::publish:
                published_.insert(e.version);
                become(e.version, e.time);
                break;
            case VersionEvent::What::make_current:
                versions_[e.version]->state.withdrawn.clear();
                become(e.version, e.time);
                break;
            case VersionEvent::What::withdraw:
                versions_[e.version]->state.withdrawn = e.reason.empty() ? "no reason was given" : e.reason;
                if (now_ == e.version) become(newest_left(), e.time);
                break;
        }
    }

private:
    int newest_left() const {
        for (auto it = versions_.rbegin(); it != versions_.rend(); ++it)
            if (published_.count(it->first) && it->second->state.withdrawn.empty()) return it->first;
        return 0;
    }
    void become(int version, const std::string& time) {
        if (now_ == version) return;
        if (now_ != 0) {
            versions_[now_]->state.current.back().second = time;
            versions_[now_]->state.is_now = false;
        }
        now_ = version;
        if (now_ == 0) return;
        versions_[now_]->state.current.emplace_back(time, "");
        versions_[now_]->state.is_now = true;
    }

    std::map<int, Profile*> versions_;
    std::set<int> published_;
    int now_ = 0;
};

}  // namespace

void set_states(std::vector<Profile>& versions, const std::vector<VersionEvent>& events) {
    std::map<std::string, std::map<int, Profile*>> by_id;
    for (Profile& p : versions) by_id[p.id][p.version] = &p;
    std::set<std::pair<std::string, int>> told;
    for (const VersionEvent& e : events)
        if (e.what == VersionEvent::What::publish) told.emplace(e.profile, e.version);
    for (const auto& [id, of_one] : by_id) {
        Replay replay(of_one);
        for (const auto& [number, p] : of_one)
            if (told.count({id, number}) == 0) replay.take({VersionEvent::What::publish, id, number, "", "", ""});
        for (const VersionEvent& e : events)
            if (e.profile == id) replay.take(e);
    }
}

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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/set_states.h"

#include <map>
#include <set>
#include <utility>

namespace optrel {
namespace {

/// Replays the events of one measurement.
class Replay {
public:
    explicit Replay(std::map<int, VersionState*> versions) : versions_(std::move(versions)) {
        for (auto& [number, state] : versions_) *state = {false, {}, ""};
    }

    void take(const VersionEvent& e) {
        if (versions_.count(e.version) == 0) return;
        switch (e.what) {
            case VersionEvent::What::publish:
                published_.insert(e.version);
                become(e.version, e.time);
                break;
            case VersionEvent::What::make_current:
                versions_[e.version]->withdrawn.clear();
                become(e.version, e.time);
                break;
            case VersionEvent::What::withdraw:
                versions_[e.version]->withdrawn = e.reason.empty() ? "no reason was given" : e.reason;
                if (now_ == e.version) become(newest_left(), e.time);
                break;
        }
    }

private:
    int newest_left() const {
        for (auto it = versions_.rbegin(); it != versions_.rend(); ++it)
            if (published_.count(it->first) && it->second->withdrawn.empty()) return it->first;
        return 0;
    }
    void become(int version, const std::string& time) {
        if (now_ == version) return;
        if (now_ != 0) {
            versions_[now_]->current.back().second = time;
            versions_[now_]->is_now = false;
        }
        now_ = version;
        if (now_ == 0) return;
        versions_[now_]->current.emplace_back(time, "");
        versions_[now_]->is_now = true;
    }

    std::map<int, VersionState*> versions_;
    std::set<int> published_;
    int now_ = 0;
};

}  // namespace

void set_slot_states(const std::vector<VersionSlot>& versions, const std::vector<VersionEvent>& events) {
    std::map<std::string, std::map<int, VersionState*>> by_id;
    for (const VersionSlot& v : versions) by_id[v.id][v.version] = v.state;
    std::set<std::pair<std::string, int>> told;
    for (const VersionEvent& e : events)
        if (e.what == VersionEvent::What::publish) told.emplace(e.measurement, e.version);
    for (const auto& [id, of_one] : by_id) {
        Replay replay(of_one);
        for (const auto& [number, state] : of_one)
            if (told.count({id, number}) == 0) replay.take({VersionEvent::What::publish, id, number, "", "", ""});
        for (const VersionEvent& e : events)
            if (e.measurement == id) replay.take(e);
    }
}

}  // namespace optrel

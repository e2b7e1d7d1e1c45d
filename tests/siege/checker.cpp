// SPDX-License-Identifier: GPL-3.0-or-later
#include "siege/checker.h"

#include <fmt/format.h>

#include <fstream>
#include <map>
#include <regex>
#include <set>
#include <sstream>

#include "rollout/rollout.h"
#include "siege/station.h"
#include "store/engine.h"
#include "store/store.h"

namespace optrel::siege {
namespace fs = std::filesystem;
namespace {

class Checker {
public:
    Checker(Store& store, fs::path frames) : store_(store), frames_(std::move(frames)) {}

    std::vector<std::string> look(const fs::path& logs) {
        end_rollouts();
        read_store();
        check_sidecars();
        check_logs(logs);
        check_portions();
        check_profiles();
        Progress progress;
        for (const std::string& problem : store_.history().audit({}, progress).problems) out_.push_back(problem);
        fmt::print("Acknowledged:");
        for (const auto& [kind, many] : acknowledged_) fmt::print(" {} {}", many, kind);
        fmt::print(". {} rollouts, {} rows of history.\n", rollouts_.size(), store_.history().newest().id);
        for (const auto& [why, many] : refused_) fmt::print("  {:5} x {}\n", many, why);
        return out_;
    }

private:
    template <class... Parts>
    void find(fmt::format_string<Parts...> text, Parts&&... parts) {
        out_.push_back(fmt::format(text, std::forward<Parts>(parts)...));
    }

    void end_rollouts() {
        Progress progress;
        for (const RolloutRecord& r : store_.rollouts().list()) {
            if (r.status != RolloutStatus::writing && r.status != RolloutStatus::rolling_back) continue;
            if (!resume(store_.rollouts(), r.number, progress).complete())
                find("Rollout {} does not come to its end.", r.number);
        }
    }
    void read_store() {
        for (const RolloutRecord& r : store_.rollouts().list()) {
            rollouts_.insert(std::to_string(r.number));
            if (r.status == RolloutStatus::preparing) continue;  // its station was killed before it began
            for (const RolloutEntry& e : store_.rollouts().entries(r))
                for (const auto& side : {e.before, e.after})
                    if (side) versions_[e.frame.path()].insert(std::string(*side));
        }
        for (const HistoryEntry& e : store_.history().entries("tier", "", 10000000)) pinned_.insert(e.subject);
        for (const auto& [name, document] : store_.selections().all()) selections_.insert(name);
        for (const Claim& c : store_.registry().claims()) claims_.insert(c.id + "=" + c.note);
        for (const ChangeProposal& p : store_.proposals().all()) proposals_[std::to_string(p.id)] = p;
        revision_ = store_.baselines().current().number;
    }
    void check_sidecars() {
        for (int i = 0; i < frame_count; ++i) {
            const fs::path frame = frame_in(frames_, i);
            const auto now = read_sidecar(frame);
            if (now && versions_[frame].count(*now) == 0) find("The sidecar of frame {} is nobody's.", i);
        }
    }
    bool kept(const std::string& kind, const std::string& thing) {
        if (kind == "pin") return pinned_.count(thing) > 0;
        if (kind == "selection") return selections_.count(thing) > 0;
        if (kind == "rollout") return rollouts_.count(thing) > 0;
        if (kind == "revision") return std::stoi(thing) <= revision_;
        if (kind == "claim") return claims_.count(thing) > 0;
        const auto p = proposals_.find(thing.substr(0, thing.find('=')));
        if (p == proposals_.end()) return false;
        if (kind == "proposal") return p->second.subject.find(thing.substr(thing.find('=') + 1)) != std::string::npos;
        return p->second.state == (kind == "approval" ? ProposalState::approved : ProposalState::sent_back);
    }
    void check_logs(const fs::path& logs) {
        std::set<std::string> once;
        for (const auto& log : fs::directory_iterator(logs)) {
            std::ifstream in(log.path());
            for (std::string line; std::getline(in, line);) {
                const std::string kind = line.substr(0, line.find(' ')), thing = line.substr(line.find(' ') + 1);
                if (kind == "refused") {
                    ++refused_[kind_of(thing)];
                    continue;
                }
                ++acknowledged_[kind];
                if (!once.insert(line).second) find("The {} {} was acknowledged twice.", kind, thing);
                if (!kept(kind, thing)) find("The {} {} was acknowledged and is not there.", kind, thing);
            }
        }
    }
    /// A refusal without what differs each time: what is left is counted.
    static std::string kind_of(const std::string& sentence) {
        static const std::regex names("(/tmp/\\S+|\\bs[0-9]+\\b|\\blogin[0-9]\\b|\\bF[0-9]+\\.dng|[0-9]+)");
        return std::regex_replace(sentence, names, "#").substr(0, 110);
    }
    void check_portions() {
        std::map<std::string, int> effects;
        for (const HistoryEntry& e : store_.history().entries("effect", "", 10000000)) ++effects[e.subject];
        for (const QueuedPortion& p : store_.queue().results(1)) {
            const int many = effects[std::to_string(p.position)];
            if (many != (p.state == PortionState::done ? 1 : 0))
                find("Portion {} had its effect {} times.", p.position, many);
        }
    }
    void check_profiles() {
        std::map<std::string, int> published;
        for (const Profile& p : store_.profiles().all_versions()) ++published[p.lens];
        for (const auto& [id, p] : proposals_) {
            const std::string lens = p.subject.substr(0, p.subject.find(' '));
            const int many = published[lens];
            if (many != (p.state == ProposalState::approved ? 1 : 0))
                find("What was proposed as {} ({}) was published {} times.", id, to_string(p.state), many);
        }
    }

    Store& store_;
    const fs::path frames_;
    std::vector<std::string> out_;
    std::map<fs::path, std::set<std::string>> versions_;
    std::set<std::string> rollouts_, pinned_, selections_, claims_;
    std::map<std::string, ChangeProposal> proposals_;
    std::map<std::string, int> acknowledged_, refused_;
    int revision_ = 0;
};

}  // namespace

std::vector<std::string> faults(const std::string& address, const fs::path& frames, const fs::path& logs) {
    Store store(address);
    return Checker(store, frames).look(logs);
}

}  // namespace optrel::siege

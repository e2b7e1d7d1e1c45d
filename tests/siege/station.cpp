// SPDX-License-Identifier: GPL-3.0-or-later
#include "siege/station.h"
#include "optics/profile_kind.h"

#include <fmt/format.h>
#include <unistd.h>

#include <cmath>
#include <fstream>
#include <random>

#include "base/files.h"
#include "rollout/rollout.h"
#include "store/engine.h"
#include "store/store.h"
#include "studio/rollout/approvals.h"

namespace optrel::siege {
namespace fs = std::filesystem;
namespace {

constexpr int portion_count = 2000;

std::string body_id(unsigned i) { return fmt::format("Brimholt B2/{}", 100 + i); }

class Station {
public:
    Station(std::string address, fs::path frames, const fs::path& log, unsigned seed, bool approves)
        : address_(std::move(address)),
          name_("s" + log.stem().string()),
          frames_(std::move(frames)),
          log_(log, std::ios::app),
          chance_(seed),
          approves_(approves) {}
    [[noreturn]] void work() {
        for (;;) try {
                Store store(address_);
                for (;;) act(store);
            } catch (const std::exception& error) {
                // The server is away, somebody was quicker, or the disk is full.
                log_ << "refused " << doing_ << " " << error.what() << std::endl;
                ::usleep(20000);
            }
    }

private:
    void say(const char* kind, const std::string& thing) { log_ << kind << " " << thing << std::endl; }

    void act(Store& store) {
        const std::string thing = fmt::format("{}-{}", name_, ++done_);
        doing_ = static_cast<int>(chance_() % 10);
        switch (doing_) {
            case 0: return pin(store, thing);
            case 1: store.selections().put(thing, "{}"); return say("selection", thing);
            case 2: return portion(store, thing);
            case 3: return publish(store);
            case 4:
            case 5: return roll(store);
            case 6: return claim(store);
            case 7: return propose(store, thing);
            case 8: return judge(store);
            default: return back(store);
        }
    }
    void pin(Store& store, const std::string& thing) {
        store.baselines().change_draft([&](Revision& r) {
            Tier t;
            t.id = t.name = t.target = thing;
            t.scope = Scope::body;
            t.pins[Field::exposure] = Pin::constant({0.25, ""});
            // The draft stays of a size that can be read in no time.
            if (r.tiers.size() > 40) r.tiers.erase(r.tiers.begin());
            r.tiers.push_back(t);
        });
        say("pin", thing);
    }
    void portion(Store& store, const std::string& thing) {
        const auto p = store.queue().take(name_, {"trial"}, 1);
        if (!p) return;
        Transaction together(store.engine());
        if (store.queue().end(*p, PortionState::done, thing))
            store.engine().record({"", name_, "effect", std::to_string(p->position), "work", "", ""});
        together.commit();
    }
    void publish(Store& store) {
        if (chance_() % 8 == 0) say("revision", std::to_string(store.baselines().publish(name_, "").number));
    }
    /// The first who says whose a number is has it.
    void claim(Store& store) {
        Claim c;
        c.id = fmt::format("claim-{}", chance_() % claim_count);
        c.of = Claim::Of::body;
        c.camera = "Brimholt B2";
        c.serial = c.id;
        c.target = body_id(chance_() % body_count);
        c.note = fmt::format("{}-{}", name_, done_);
        store.registry().edit({"claim a number", {}, {}, {}, {{std::nullopt, c}}}, name_);
        say("claim", c.id + "=" + c.note);
    }
    void propose(Store& store, const std::string& thing) {
        if (!store.people() || chance_() % 4 != 0) return;
        Profile p;
        p.name = p.lens = thing;
        p.camera = "Brimholt B2";
        p.geometry = {2464, 1640, 9.4};
        ProfileNode node;
        node.focal_mm = 35;
        p.nodes = {node};
        say("proposal", fmt::format("{}={}", propose_profile(store, p, ""), thing));
    }
    void judge(Store& store) {
        if (!approves_) return;
        for (const ChangeProposal& p : store.proposals().all()) {
            if (p.state != ProposalState::open || chance_() % 2 == 0) continue;
            const bool good = chance_() % 3 != 0;
            if (good)
                approve_proposal(store, p.id, "");
            else
                store.proposals().judge(p.id, false, "Once more.", "");
            return say(good ? "approval" : "refusal", std::to_string(p.id));
        }
    }
    void roll(Store& store) {
        Rehearsal r;
        r.revision = 1;
        const std::size_t from = chance_() % frame_count, many = 1 + chance_() % 8;
        for (std::size_t i = from; i < std::min<std::size_t>(from + many, frame_count); ++i) {
            RehearsedFrame f;
            f.path = frame_in(frames_, static_cast<int>(i));
            f.before = read_sidecar(f.path);
            Sheet sheet;
            sheet.revision = 1;
            sheet.baseline[Field::exposure] = {std::round(static_cast<double>(chance_() % 800)) / 100 - 4, ""};
            f.after = sheet_to_xmp(sheet);
            f.writes = f.before != f.after;
            r.frames.push_back(f);
        }
        if (r.writes() == 0) return;
        Progress progress;
        const RolloutReport report = roll_out(r, 1, store.rollouts(), RolloutOrder(name_), progress);
        if (report.complete()) say("rollout", std::to_string(report.record.number));
    }
    void back(Store& store) {
        const std::vector<RolloutRecord> all = store.rollouts().list();
        if (all.empty() || chance_() % 3 != 0) return;
        const RolloutRecord& r = all[chance_() % std::min<std::size_t>(all.size(), 5)];
        Progress progress;
        if (r.status == RolloutStatus::writing)
            resume(store.rollouts(), r.number, progress);
        else
            roll_back(store.rollouts(), r.number, progress);
    }

    const std::string address_;
    /// By the log, which is its alone: in an hour numbers of processes come round again.
    const std::string name_;
    const fs::path frames_;
    std::ofstream log_;
    std::mt19937 chance_;
    const bool approves_;
    int done_ = 0, doing_ = 0;
};

}  // namespace

void furnish(const std::string& address) {
    Store store(address, Access::begin);
    FleetEdit bodies{"begin", {}, {}, {}, {}};
    for (unsigned i = 0; i < body_count; ++i) {
        Body b;
        b.id = body_id(i);
        b.maker = "Brimholt";
        b.model = "Brimholt B2";
        b.serial = std::to_string(100 + i);
        bodies.bodies.push_back({std::nullopt, b});
    }
    store.registry().edit(bodies, "keeper");
    store.queue().add("trial", "Work", std::vector<std::string>(portion_count, "{}"));
    if (store.people()) store.proposals().need(ProposalKind::of(lens_profile_kind()), 0);
}

fs::path frame_in(const fs::path& frames, int i) { return frames / fmt::format("F{}.dng", 100 + i); }

void be_a_station(const std::string& address, const fs::path& frames, const fs::path& log, unsigned seed,
                  bool approves) {
    Station(address, frames, log, seed, approves).work();
}

}  // namespace optrel::siege

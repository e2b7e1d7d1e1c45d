// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-siege SECONDS [SEED [EVENTS]]: a shared studio under a seeded plan of faults, for as long as it is given.
//
// Stations pin, register, keep selections, do portions of work, roll out and take back, each at random. Meanwhile they
// are killed, or stopped for longer than their lease and let go on, and the server falls over. Each station writes down
// what the store acknowledged. At the end a checker that knows what was written down says whether all of it is there
// once, whether every sidecar is one that some rollout wrote, whole, whether every rollout comes to its end, and
// whether the history is whole. A plan that fails is run again with fewer events, and the shortest that still fails is
// printed.
#include <fmt/format.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QtGlobal>
#include <algorithm>
#include <chrono>
#include <fstream>
#include <map>
#include <random>
#include <set>
#include <thread>

#include "base/files.h"
#include "rollout/rollout.h"
#include "store/engine.h"
#include "support/own_server.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using namespace std::chrono_literals;

namespace {

constexpr int station_count = 5, frame_count = 24, portion_count = 2000;
constexpr auto lease = 600ms;

/// One station, in a program of its own, for ever. Each line of its log was acknowledged before it was written.
class Station {
public:
    Station(std::string address, fs::path frames, fs::path log, unsigned seed)
        : address_(std::move(address)), frames_(std::move(frames)), log_(log, std::ios::app), chance_(seed) {
        name_ = fmt::format("s{}", ::getpid());
    }
    [[noreturn]] void work() {
        for (;;) try {
                Store store(address_);
                for (;;) act(store);
            } catch (const std::exception&) {
                ::usleep(20000);  // the server is away, or somebody was quicker
            }
    }

private:
    void say(const std::string& kind, const std::string& thing) { log_ << kind << " " << thing << std::endl; }

    void act(Store& store) {
        const std::string thing = fmt::format("{}-{}", name_, ++done_);
        switch (chance_() % 6) {
            case 0: return pin(store, thing);
            case 1: store.selections().put(thing, "{}"); return say("selection", thing);
            case 2: return portion(store, thing);
            case 3: return publish(store);
            case 4: return roll(store);
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
    void roll(Store& store) {
        Rehearsal r;
        r.revision = 1;
        const std::size_t from = chance_() % frame_count, many = 1 + chance_() % 8;
        for (std::size_t i = from; i < std::min<std::size_t>(from + many, frame_count); ++i) {
            RehearsedFrame f;
            f.path = frames_ / fmt::format("F{}.dng", 100 + i);
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

    std::string address_, name_;
    fs::path frames_;
    std::ofstream log_;
    std::mt19937 chance_;
    int done_ = 0;
};

/// What is wrong at the end; a sentence each.
std::vector<std::string> faults(const OwnServer& server, const fs::path& frames, const fs::path& logs) {
    std::vector<std::string> out;
    std::this_thread::sleep_for(lease + 200ms);
    Store store(server.address());
    Progress progress;
    for (const RolloutRecord& r : store.rollouts().list()) {
        if (r.status != RolloutStatus::writing && r.status != RolloutStatus::rolling_back) continue;
        if (!resume(store.rollouts(), r.number, progress).complete())
            out.push_back(fmt::format("Rollout {} does not come to its end.", r.number));
    }
    std::set<std::string> versions, rollouts;
    for (const RolloutRecord& r : store.rollouts().list()) {
        rollouts.insert(std::to_string(r.number));
        for (const RolloutEntry& e : store.rollouts().entries(r))
            for (const auto& side : {e.before, e.after})
                if (side) versions.insert(std::string(*side));
    }
    for (int i = 0; i < frame_count; ++i) {
        const auto now = read_sidecar(frames / fmt::format("F{}.dng", 100 + i));
        if (now && versions.count(*now) == 0) out.push_back(fmt::format("The sidecar of frame {} is nobody's.", i));
    }
    std::set<std::string> pinned;
    for (const HistoryEntry& e : store.history().entries("tier", "", 10000000)) pinned.insert(e.subject);
    const auto selections = store.selections().all();
    const int revision = store.baselines().current().number;
    int acknowledged = 0;
    for (const auto& log : fs::directory_iterator(logs)) {
        std::ifstream in(log.path());
        for (std::string kind, thing; in >> kind >> thing; ++acknowledged) {
            const bool kept = (kind == "pin" && pinned.count(thing) > 0) ||
                              (kind == "selection" && selections.count(thing) > 0) ||
                              (kind == "rollout" && rollouts.count(thing) > 0) ||
                              (kind == "revision" && std::stoi(thing) <= revision);
            if (!kept) out.push_back(fmt::format("The {} {} was acknowledged and is not there.", kind, thing));
        }
    }
    std::map<std::string, int> effects;
    for (const HistoryEntry& e : store.history().entries("effect", "", 10000000)) ++effects[e.subject];
    for (const QueuedPortion& p : store.queue().results(1))
        if (effects[std::to_string(p.position)] != (p.state == PortionState::done ? 1 : 0))
            out.push_back(
                fmt::format("Portion {} had its effect {} times.", p.position, effects[std::to_string(p.position)]));
    for (const std::string& problem : store.history().audit({}, progress).problems) out.push_back(problem);
    fmt::print("{} changes acknowledged, {} rollouts, {} revisions, {} rows of history\n", acknowledged,
               rollouts.size(), revision, store.history().newest().id);
    return out;
}

struct Plan {
    unsigned seed;
    std::size_t events;  ///< at most
    std::chrono::seconds time;
};

class Siege {
public:
    explicit Siege(const Plan& plan) : plan_(plan), chance_(plan.seed) {}

    std::vector<std::string> run() {
        fs::create_directory(folder_ / "frames");
        fs::create_directory(folder_ / "logs");
        for (int i = 0; i < frame_count; ++i) write_bytes(frame(i), "frame");
        {
            Store store(server_.address(), Access::begin);
            store.queue().add("trial", "Work", std::vector<std::string>(portion_count, "{}"));
        }
        for (int i = 0; i < station_count; ++i) stations_.push_back(begin());
        const auto end = std::chrono::steady_clock::now() + plan_.time;
        for (std::size_t n = 0; n < plan_.events && std::chrono::steady_clock::now() < end; ++n) event();
        for (const pid_t s : stations_) end_of(s);
        return faults(server_, folder_ / "frames", folder_ / "logs");
    }
    std::size_t happened() const { return happened_; }

private:
    fs::path frame(int i) const { return folder_ / "frames" / fmt::format("F{}.dng", 100 + i); }
    pid_t begin() {
        const unsigned seed = chance_();
        const std::string log = fmt::format("{}.log", begun_++);
        const pid_t child = ::fork();
        if (child == 0) Station(server_.address(), folder_ / "frames", folder_ / "logs" / log, seed).work();
        return child;
    }
    static void end_of(pid_t station) {
        ::kill(station, SIGKILL);
        ::waitpid(station, nullptr, 0);
    }
    void event() {
        ++happened_;
        std::this_thread::sleep_for(std::chrono::milliseconds(20 + chance_() % 300));
        pid_t& victim = stations_[chance_() % stations_.size()];
        switch (chance_() % 8) {
            case 0: return server_.fall_over();
            case 1:
            case 2:
            case 3:
                ::kill(victim, SIGSTOP);
                std::this_thread::sleep_for(lease / 2 + std::chrono::milliseconds(chance_() % 1500));
                ::kill(victim, SIGCONT);
                return;
            default: end_of(victim); victim = begin();
        }
    }

    const Plan plan_;
    std::mt19937 chance_;
    OwnServer server_{"siege"};
    TemporaryFolder folder_;
    std::vector<pid_t> stations_;
    int begun_ = 0;
    std::size_t happened_ = 0;
};

/// Half of the events again and again, as long as it still fails.
void make_smaller(Plan plan) {
    for (std::size_t events = plan.events / 2; events > 0; events /= 2) {
        Siege siege({plan.seed, events, plan.time});
        if (siege.run().empty()) break;
        plan.events = events;
    }
    fmt::print("The shortest that still fails: optrel-siege {} {} {}\n", plan.time.count(), plan.seed, plan.events);
}

}  // namespace

int main(int argc, char** argv) {
    // A server that falls over is what this is about; the library says it for each statement.
    qInstallMessageHandler([](QtMsgType, const QMessageLogContext&, const QString&) {});
    const long seconds = argc > 1 ? std::strtol(argv[1], nullptr, 10) : 0;
    if (seconds < 1) {
        fmt::print(stderr, "Usage: optrel-siege SECONDS [SEED [EVENTS]]\n");
        return 2;
    }
    ::setenv("OPTREL_LEASE_MS", std::to_string(lease.count()).c_str(), 1);
    const unsigned seed = argc > 2 ? static_cast<unsigned>(std::strtoul(argv[2], nullptr, 10)) : std::random_device()();
    const std::size_t events = argc > 3 ? std::strtoul(argv[3], nullptr, 10) : 1000000;
    fmt::print("Seed {}\n", seed);
    std::fflush(stdout);
    Siege siege({seed, events, std::chrono::seconds(seconds)});
    const std::vector<std::string> found = siege.run();
    fmt::print("{} events, {} findings\n", siege.happened(), found.size());
    for (const std::string& sentence : found) fmt::print("{}\n", sentence);
    if (!found.empty()) make_smaller({seed, siege.happened(), std::chrono::seconds(seconds)});
    return found.empty() ? 0 : 1;
}

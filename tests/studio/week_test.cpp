// SPDX-License-Identifier: GPL-3.0-or-later
// A shared studio over a bad week: stations are killed at random, the server falls over again and again.
#include <fmt/format.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <fstream>
#include <map>
#include <random>
#include <set>

#include "store/engine.h"
#include "store/stored_things.h"
#include "support/own_server.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// What a station does for ever. Each line of its log was acknowledged by the store before it was written.
[[noreturn]] void station(const std::string& address, int number, unsigned seed, const fs::path& log_file) {
    std::mt19937 chance(seed);
    std::ofstream log(log_file, std::ios::app);
    const std::string name = fmt::format("s{}-{}", number, getpid());
    for (int i = 0;; ++i) {
        try {
            Store store(address);
            for (;; ++i) {
                const std::string thing = fmt::format("{}-{}", name, i);
                switch (chance() % 4) {
                    case 0:
                        store.frames().put({record(thing.c_str(), thing.c_str())}, true);
                        log << "frame " << thing << std::endl;
                        break;
                    case 1:
                        store.baselines().change_draft([&](Revision& r) {
                            Tier t;
                            t.id = t.name = t.target = thing;
                            t.scope = Scope::body;
                            t.pins[Field::exposure] = Pin::constant({0.25, ""});
                            r.tiers.push_back(t);
                        });
                        log << "tier " << thing << std::endl;
                        break;
                    case 2:
                        store.selections().put(thing, "{}");
                        log << "selection " << thing << std::endl;
                        break;
                    default:
                        if (const auto p = store.queue().take(name, {"trial"}, 1)) {
                            Transaction together(store.engine());
                            if (store.queue().end(*p, PortionState::done, thing))
                                store.engine().record(
                                    {"", name, "effect", std::to_string(p->position), "work", "", ""});
                            together.commit();
                        }
                }
            }
        } catch (const std::exception&) {
            usleep(30000);  // the server is away, or somebody was quicker
        }
    }
}

}  // namespace

TEST_CASE("a bad week: nothing that was acknowledged is lost, nothing is done twice, the history is whole",
          "[store][server][week]") {
    OwnServer server("week");
    const TemporaryFolder logs;
    constexpr int stations = 5, portions = 400;
    {
        Store store(server.address(), Access::begin);
        store.queue().add("trial", "A week's work", std::vector<std::string>(portions, "{}"));
    }
    std::mt19937 chance(7);
    unsigned seed = 1;
    const auto begin = [&](int number) {
        const pid_t child = fork();
        REQUIRE(child >= 0);
        if (child == 0) station(server.address(), number, seed, logs / fmt::format("{}.log", number));
        ++seed;
        return child;
    };
    std::vector<pid_t> running;
    for (int i = 0; i < stations; ++i) running.push_back(begin(i));
    for (int day = 0; day < 20; ++day) {
        for (int i = 0; i < 3; ++i) {
            usleep(20000 + chance() % 100000);
            const auto victim = static_cast<std::size_t>(chance() % stations);
            kill(running[victim], SIGKILL);
            waitpid(running[victim], nullptr, 0);
            running[victim] = begin(static_cast<int>(victim));
        }
        server.fall_over();
    }
    sleep(1);
    for (const pid_t child : running) {
        kill(child, SIGKILL);
        waitpid(child, nullptr, 0);
    }

    Store store(server.address());
    std::set<std::string> frames, tiers;
    for (const FrameRecord& f : store.frames().all()) frames.insert(f.path.filename().string());
    for (const Tier& t : store.baselines().draft().tiers) tiers.insert(t.id);
    const auto selections = store.selections().all();
    const auto kept = [&](const std::string& kind, const std::string& thing) {
        if (kind == "frame") return frames.count(thing) == 1;
        return kind == "tier" ? tiers.count(thing) == 1 : selections.count(thing) == 1;
    };
    int acknowledged = 0;
    for (int i = 0; i < stations; ++i) {
        std::ifstream in(logs / fmt::format("{}.log", i));
        for (std::string kind, thing; in >> kind >> thing; ++acknowledged) {
            INFO(kind << " " << thing);
            CHECK(kept(kind, thing));
        }
    }
    CHECK(acknowledged > 200);
    // What is done has had its effect, once.
    std::map<std::string, int> effects;
    for (const HistoryEntry& e : store.history().entries("effect", "", 100000)) ++effects[e.subject];
    int done = 0;
    for (const QueuedPortion& p : store.queue().portions(1)) {
        done += p.state == PortionState::done;
        CHECK(effects[std::to_string(p.position)] == (p.state == PortionState::done ? 1 : 0));
    }
    CHECK(done > 50);
    Progress progress;
    const HistoryAudit audit = store.history().audit({}, progress);
    CHECK(audit.problems.empty());
    CHECK(audit.rows >= acknowledged);
}

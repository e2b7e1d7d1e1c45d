// SPDX-License-Identifier: GPL-3.0-or-later
// Rollouts that are kept on a server: any station finishes or takes back what another began.
#include <catch2/catch.hpp>
#include <set>
#include <thread>

#include "rollout/rollout.h"
#include "stored_things.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Frames whose sidecars are to be written, and the store that keeps it.
struct SharedStudio {
    TemporaryFolder folder;
    StorePlace place{"server"};
    Store one{place.address(), Access::begin}, two{place.address()};
    std::vector<fs::path> frames;

    explicit SharedStudio(int n) {
        for (int i = 0; i < n; ++i) {
            frames.push_back(folder / ("F" + std::to_string(1000 + i) + ".dng"));
            write_bytes(frames.back(), "frame " + std::to_string(i));
        }
    }
    Rehearsal rehearsed(const std::vector<fs::path>& these) const {
        Revision r = draft_with(0.5);
        std::vector<ScopedFrame> scoped;
        for (const fs::path& frame : these) {
            FrameFacts facts;
            facts.model = "B2";
            facts.iso = 100;
            scoped.push_back({frame, facts, "B2/1", ""});
        }
        Progress progress;
        return rehearse(scoped, 1, Resolver(std::move(r)), false, progress);
    }
    int written() const {
        int n = 0;
        for (const fs::path& frame : frames) n += read_sidecar(frame).has_value();
        return n;
    }
};

}  // namespace

TEST_CASE("what one station began another one finishes, and a third takes back", "[store][server][rollout]") {
    SharedStudio s(7);
    int asked = 0;
    WriteOptions manner;
    manner.may = [&] { return ++asked <= 3; };
    RolloutOrder order("Iva");
    order.station = "north";
    order.scope = "All of Monday";
    order.hours = day_hours_from("22:00-06:00");
    Progress progress;
    const RolloutReport stopped = roll_out(s.rehearsed(s.frames), 1, s.one.rollouts(), order, progress, manner);
    CHECK(stopped.paused);
    CHECK(s.written() == 3);
    const RolloutRecord seen = s.two.rollouts().list().at(0);
    CHECK(seen.author == "Iva");
    CHECK(seen.station == "north");
    CHECK(seen.scope == "All of Monday");
    CHECK(to_string(seen.hours) == "22:00-06:00");
    CHECK(seen.frames == 7);
    CHECK(seen.status == RolloutStatus::writing);
    resume(s.two.rollouts(), 1, progress);
    CHECK(s.written() == 7);
    CHECK(s.one.rollouts().record(1).status == RolloutStatus::done);
    Store three(s.place.address());
    roll_back(three.rollouts(), 1, progress);
    CHECK(s.written() == 0);
    CHECK(s.one.rollouts().record(1).status == RolloutStatus::rolled_back);
    CHECK(error_of([&] { s.one.rollouts().record(2); }) == "input");
}

TEST_CASE("two stations work on different frames at once, and never on the same", "[store][server][rollout]") {
    SharedStudio s(6);
    const std::vector<fs::path> first(s.frames.begin(), s.frames.begin() + 3),
        second(s.frames.begin() + 3, s.frames.end());
    auto held = s.one.rollouts().lease(first, "A rollout of Iva at north");
    Progress progress;
    const std::string sentence =
        sentence_of([&] { roll_out(s.rehearsed(s.frames), 1, s.two.rollouts(), "Jon", progress); });
    INFO(sentence);
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("A rollout of Iva at north is at work on 3 of these frames") != std::string::npos);
    CHECK(s.written() == 0);
    roll_out(s.rehearsed(second), 1, s.two.rollouts(), "Jon", progress);
    CHECK(s.written() == 3);
    // A server that fell over and came back takes nothing from who is still there.
    on_test_server("postgres", "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '" +
                                   s.place.database() + "'");
    CHECK_THROWS_AS(roll_out(s.rehearsed(first), 1, s.two.rollouts(), "Jon", progress), FramesInUse);
    held.reset();
    roll_out(s.rehearsed(first), 1, s.two.rollouts(), "Jon", progress);
    CHECK(s.written() == 6);
    CHECK(asked_of_test_server(s.place.database(), "SELECT count(*) FROM optrel.leases") == "0");
}

TEST_CASE("rollouts of several stations get numbers of their own", "[store][server][rollout][threads]") {
    const StorePlace place("server");
    { Store store(place.address(), Access::begin); }
    std::vector<std::thread> stations;
    std::vector<std::vector<int>> numbers(6);
    for (std::vector<int>& mine : numbers)
        stations.emplace_back([&] {
            Store store(place.address());
            for (int i = 0; i < 5; ++i) {
                RolloutRecord r;
                r.author = "Iva";
                store.rollouts().begin(r, {});
                mine.push_back(r.number);
            }
        });
    for (std::thread& s : stations) s.join();
    std::set<int> all;
    for (const std::vector<int>& mine : numbers) all.insert(mine.begin(), mine.end());
    CHECK(all.size() == 30);
    CHECK(*all.rbegin() == 30);
}

TEST_CASE("a plan larger than a piece comes back whole, and a damaged one is told", "[store][server][rollout]") {
    SharedStudio s(1);
    std::vector<RolloutEntry> entries(3);
    for (int i = 0; i < 3; ++i) {
        entries[i].frame = s.frames[0].string() + std::to_string(i);
        entries[i].after = SharedText(random_bytes(5u << 20, i + 1));
    }
    RolloutRecord r;
    r.author = "Iva";
    s.one.rollouts().begin(r, entries);
    const std::vector<RolloutEntry> back = s.two.rollouts().entries(r);
    REQUIRE(back.size() == 3);
    for (int i = 0; i < 3; ++i) CHECK(back[i].after == entries[i].after);
    for (const char* damage : {"DELETE FROM optrel.rollout_pieces WHERE part = 'data' AND position = 2",
                               "UPDATE optrel.rollout_pieces SET bytes = 'nonsense' WHERE part = 'plan'",
                               "DELETE FROM optrel.rollout_pieces", "UPDATE optrel.rollouts SET status = 'glowing'"}) {
        on_test_server(s.place.database(), damage);
        const std::string sentence = sentence_of([&] { s.two.rollouts().entries(s.two.rollouts().record(1)); });
        INFO(damage << ": " << sentence);
        CHECK(is_one_sentence(sentence));
    }
    CHECK(s.two.rollouts().list().at(0).status == RolloutStatus::damaged);
}

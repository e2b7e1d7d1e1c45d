// SPDX-License-Identifier: GPL-3.0-or-later
// Work that stations share: taken once, never lost, on either engine.
#include <fmt/format.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <thread>

#include "base/files.h"
#include "base/station.h"
#include "store/engine.h"
#include "studio/calibration/run_work.h"
#include "studio/intake/take_in.h"
#include "studio/queue/queue_work.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

std::vector<std::string> numbered(int n) {
    std::vector<std::string> out;
    for (int i = 0; i < n; ++i) out.push_back("{\"number\": " + std::to_string(i) + "}");
    return out;
}

/// A folder with some of the rig's frames.
struct Shoot {
    TemporaryFolder folder;
    explicit Shoot(std::initializer_list<const char*> names) {
        for (const char* name : names) fs::copy_file(rig_frame(name), folder / (std::string(name) + ".dng"));
    }
};

int in_state(const std::vector<QueuedPortion>& portions, PortionState state) {
    return static_cast<int>(
        std::count_if(portions.begin(), portions.end(), [&](const QueuedPortion& p) { return p.state == state; }));
}

}  // namespace

TEST_CASE("portions are taken in order, by one each, and end once", "[store][queue][server]") {
    const StorePlace place(EACH_ENGINE);
    Store one(place.address(), Access::begin), two(place.address());
    const int job = one.queue().add("trial", "Ten things", numbered(3));
    CHECK_FALSE(one.queue().take("a", {"measure"}, 60));
    CHECK_FALSE(one.queue().take("a", {}, 60));
    const auto first = one.queue().take("a", {"index", "trial"}, 60), second = two.queue().take("b", {"trial"}, 60);
    REQUIRE(first);
    REQUIRE(second);
    CHECK(first->position == 0);
    CHECK(second->position == 1);
    CHECK(first->document == "{\"number\": 0}");
    QueuedJob now = two.queue().job(job);
    CHECK(now.portions == 3);
    CHECK(now.at_work == 2);
    CHECK_FALSE(now.ended());
    CHECK(one.queue().end(*first, PortionState::done, "good"));
    CHECK_FALSE(one.queue().end(*first, PortionState::done, "again"));
    CHECK(two.queue().end(*second, PortionState::failed, "It is broken."));
    two.queue().give_back(*two.queue().take("b", {"trial"}, 60));
    const auto third = one.queue().take("a", {"trial"}, 60);
    REQUIRE(third);
    CHECK(third->tries == 1);
    one.queue().end(*third, PortionState::done, "");
    CHECK_FALSE(two.queue().take("b", {"trial"}, 60));
    now = one.queue().job(job);
    CHECK(now.ended());
    CHECK(now.done == 2);
    CHECK(now.failed == 1);
    const auto results = one.queue().portions(job);
    CHECK(results[0].result == "good");
    CHECK(results[1].result == "It is broken.");
    CHECK(error_of([&] { one.queue().job(77); }) == "input");
    CHECK(error_of([&] { one.queue().cancel(77); }) == "input");
}

TEST_CASE("a lease that ran out is another's, and the late one keeps nothing", "[store][queue][server]") {
    const StorePlace place(EACH_ENGINE);
    Store one(place.address(), Access::begin), two(place.address());
    const int job = one.queue().add("trial", "One thing", numbered(1));
    const auto late = one.queue().take("a", {"trial"}, 0);  // runs out at once
    REQUIRE(late);
    const auto next = two.queue().take("b", {"trial"}, 60);
    REQUIRE(next);
    CHECK(next->tries == 2);
    CHECK_FALSE(one.queue().renew(*late, 60));
    CHECK_FALSE(one.queue().end(*late, PortionState::done, "late"));
    CHECK(two.queue().renew(*next, 60));
    two.queue().cancel(job);
    CHECK_FALSE(two.queue().renew(*next, 60));
    CHECK_FALSE(two.queue().end(*next, PortionState::done, "cancelled"));
    // What nobody ends fails, with the last reason.
    one.queue().add("trial", "Another thing", numbered(1));
    for (int i = 0; i < StoredQueue::most_tries; ++i) {
        const auto p = one.queue().take("a", {"trial"}, 0);
        REQUIRE(p);
        one.queue().put_off(*p, 0, "The root 'shoots' has no folder at this station.");
    }
    CHECK_FALSE(one.queue().take("a", {"trial"}, 0));
    const QueuedPortion failed = one.queue().portions(one.queue().jobs()[0].id)[0];
    CHECK(failed.state == PortionState::failed);
    CHECK(failed.result.find("shoots") != std::string::npos);
    CHECK(is_one_sentence(failed.result));
}

TEST_CASE("an earlier lease of the same worker counts no more", "[store][queue][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.queue().add("trial", "One thing", numbered(1));
    const auto earlier = store.queue().take("a", {"trial"}, 0);  // expires at once
    REQUIRE(earlier);
    const auto now = store.queue().take("a", {"trial"}, 60);
    REQUIRE(now);
    CHECK_FALSE(store.queue().renew(*earlier, 60));
    CHECK(store.queue().note(*earlier, "name") == StoredQueue::Noted::lost);
    CHECK_FALSE(store.queue().end(*earlier, PortionState::done, "earlier"));
    CHECK(store.queue().end(*now, PortionState::done, "now"));
    CHECK(store.queue().portions(1)[0].result == "now");
}

TEST_CASE("six stations at once take each portion once", "[store][queue][server][threads]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    const int job = store.queue().add("trial", "Many things", numbered(60));
    std::vector<std::thread> stations;
    std::vector<std::vector<int>> taken(6);
    for (std::size_t s = 0; s < taken.size(); ++s)
        stations.emplace_back([&, s] {
            Store mine(place.address());
            while (const auto p = mine.queue().take("s" + std::to_string(s), {"trial"}, 60)) {
                if (mine.queue().end(*p, PortionState::done, "")) taken[s].push_back(p->position);
            }
        });
    for (std::thread& t : stations) t.join();
    std::multiset<int> all;
    for (const auto& mine : taken) all.insert(mine.begin(), mine.end());
    CHECK(all.size() == 60);
    CHECK(std::set<int>(all.begin(), all.end()).size() == 60);
    CHECK(store.queue().job(job).done == 60);
}

TEST_CASE("frames are indexed by the queue as by hand", "[queue][server]") {
    const StorePlace place(EACH_ENGINE), by_hand("folder");
    const Shoot shoot({"SP0001", "SP0002", "CH0001"});
    write_bytes(shoot.folder / "broken.dng", "no frame");
    Store store(place.address(), Access::begin);
    std::vector<std::string> problems;
    const int job = queue_index(store, {shoot.folder.path()}, true, problems);
    CHECK(problems.empty());
    Progress progress;
    {
        QueueWorker worker(store.source(), {}, "north/1");
        CHECK(worker.step(progress));
        CHECK_FALSE(worker.step(progress));
    }
    CHECK(store.queue().job(job).ended());
    const auto result = nlohmann::json::parse(store.queue().portions(job)[0].result);
    CHECK(result["files"] == 4);
    CHECK(result["fresh"] == 3);
    CHECK(result["problems"].size() == 1);
    Store other(by_hand.address(), Access::begin);
    problems.clear();
    index_files(
        frame_files(shoot.folder.path(), problems), {},
        [&](const std::vector<FrameRecord>& some) { other.frames().put(some, true); }, problems, progress);
    REQUIRE(store.frames().count() == 3);
    for (const FrameRecord& f : other.frames().all()) CHECK(store.frames().find(f.path)->mark == f.mark);
    CHECK(store.registry().bodies() == other.registry().bodies());
    const TemporaryFolder empty;
    CHECK(queue_index(store, {empty.path()}, true, problems) == 0);
}

TEST_CASE("a run is measured by two stations, also when one is killed in the middle", "[queue][server]") {
    const StorePlace place(EACH_ENGINE);
    const Shoot shoot({"CH0001", "CH0002", "CH0003", "CH0004", "FF0001"});
    Progress progress;
    int run = 0;
    {
        Store store(place.address(), Access::begin);
        std::vector<std::string> problems;
        run = begin_runs(store, shoot.folder.path(), ChartSpec::parse("checker:15x10:30"), problems, progress).at(0).id;
        CHECK(queue_measure(store, run) > 0);
        CHECK(error_of([&] { queue_measure(store, 99); }) == "input");
    }
    // The first station dies as soon as it has taken something.
    const std::string work =
        std::string(OPTREL_CLI) + " work --once --cores 1 --lease 2 --store '" + place.address() + "'";
    const pid_t child = fork();
    REQUIRE(child >= 0);
    if (child == 0) {
        setpgid(0, 0);
        execl("/bin/sh", "sh", "-c", ("exec " + work + " >/dev/null 2>&1").c_str(), nullptr);
        _exit(127);
    }
    Store store(place.address());
    for (int i = 0; i < 400 && store.queue().jobs()[0].at_work == 0; ++i) usleep(10000);
    kill(child, SIGKILL);
    waitpid(child, nullptr, 0);
    QueueWorker worker(store.source(), {work_kinds(), {}, 2}, "south/1");
    for (int i = 0; i < 60 && !store.queue().jobs()[0].ended(); ++i)
        if (!worker.step(progress)) usleep(100000);
    const auto portions = store.queue().portions(store.queue().jobs()[0].id);
    CHECK(in_state(portions, PortionState::done) == 5);
    const RunRecord measured = store.runs().all().at(0);
    for (const RunFrame& f : measured.frames) {
        CHECK(f.measured());
        CHECK(f.problem.empty());
    }
    CHECK(queue_measure(store, run) == 0);
}

TEST_CASE("what cannot be done here is left to others, and what cannot be done at all is told", "[queue][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    QueueWorker worker(store.source(), {{"index", "trial", "rollout"}, {}, 60}, "north/1");
    Progress progress;
    store.queue().add("index", "A share", {R"({"files": ["shoots:/2026/a.dng"], "enter": true})"});
    const auto put_off = worker.step(progress);
    REQUIRE(put_off);
    CHECK(put_off->state == PortionState::waiting);
    CHECK(put_off->result.find("shoots") != std::string::npos);
    // It was no try, and this worker leaves it alone while the roots are what they are.
    CHECK(store.queue().portions(1)[0].tries == 0);
    CHECK_FALSE(worker.step(progress));
    QueueWorker other(store.source(), {{"index"}, {}, 60}, "south/1");
    CHECK(other.step(progress)->state == PortionState::waiting);
    const TemporaryFolder shoots;
    fs::create_directories(shoots / "2026");
    store.roots().put({"shoots", this_station(), shoots.path()});
    CHECK(worker.step(progress)->state == PortionState::done);  // the file is not there, which its result tells
    for (const char* document :
         {"", "{", "[]", "{\"files\": 7}", R"({"files": ["../../etc/passwd"], "enter": true})",
          R"({"files": ["shoots:/../../etc/passwd"], "enter": true})", R"({"files": ["a.dng"], "enter": true})"}) {
        store.queue().add("index", "Nonsense", {document});
        const auto failed = worker.step(progress);
        REQUIRE(failed);
        CHECK(failed->state == PortionState::failed);
        CHECK(is_one_sentence(failed->result));
    }
    store.queue().add("rollout", "Rollout 9", {"{\"number\": 9}"});
    CHECK(worker.step(progress)->state == PortionState::failed);
    CHECK(error_of([&] { queue_rollout(store, 9); }) == "input");
    // Not in these hours: those that are farthest from now.
    WorkPolicy night;
    night.kinds = {"trial"};
    const std::time_t now = std::time(nullptr);
    const int hour = (std::localtime(&now)->tm_hour + 12) % 24;
    night.hours = day_hours_from(fmt::format("{:02d}:00-{:02d}:30", hour, hour));
    store.queue().add("trial", "By night", {"{}"});
    QueueWorker asleep(store.source(), night, "south/1");
    CHECK_FALSE(asleep.step(progress));
    progress.cancel();
    CHECK_THROWS_AS(worker.step(progress), Cancelled);
}

TEST_CASE("a portion that kills its workers is divided, and the frame that does it is told", "[queue][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    const TemporaryFolder folder;
    std::string files;
    for (int i = 0; i < 5; ++i) {
        write_bytes(folder / fmt::format("F{}.dng", i), "frame");
        files += fmt::format("{}\"{}\"", files.empty() ? "" : ", ", (folder / fmt::format("F{}.dng", i)).string());
    }
    const int job = store.queue().add("index", "Five frames", {"{\"enter\": true, \"files\": [" + files + "]}"});
    const auto die = [&] { return store.queue().take("dead", {"index"}, 0).has_value(); };
    for (int i = 0; i < StoredQueue::most_tries; ++i) CHECK(die());
    QueueWorker worker(store.source(), {{"index"}, {}, 60}, "north/1");
    Progress progress;
    CHECK(worker.step(progress)->state == PortionState::done);  // the first frame, alone
    CHECK(store.queue().portions(job).size() == 5);
    // The second one kills whoever works on it; the rest is done all the same.
    for (int i = 0; i < StoredQueue::most_tries; ++i) CHECK(die());
    while (worker.step(progress)) continue;
    const QueuedJob ended = store.queue().job(job);
    CHECK(ended.done == 4);
    CHECK(ended.failed == 1);
    for (const QueuedPortion& p : store.queue().portions(job)) {
        if (p.state != PortionState::failed) continue;
        CHECK(p.result.find("F1.dng was begun 3 times") != std::string::npos);
        CHECK(is_one_sentence(p.result));
    }
}

TEST_CASE("jobs that ended long ago are forgotten, others stay", "[store][queue][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    CHECK(store.queue().days_kept() == 30);
    store.queue().keep_for(10);
    CHECK(store.queue().days_kept() == 10);
    CHECK(error_of([&] { store.queue().keep_for(0); }) == "input");
    const int done = store.queue().add("trial", "Done", numbered(1));
    store.queue().end(*store.queue().take("a", {"trial"}, 60), PortionState::done, "");
    const int waiting = store.queue().add("trial", "Waits", numbered(2));
    const int cancelled = store.queue().add("trial", "Cancelled", numbered(1));
    store.queue().cancel(cancelled);
    CHECK(store.queue().forget_old() == 0);
    const auto long_ago = [&](int days) {
        store.engine().run(fmt::format("UPDATE jobs SET ended = {} - {} WHERE ended > 0",
                                       store.engine().seconds_in_sql(), 86400 * days));
    };
    long_ago(9);
    CHECK(store.queue().forget_old() == 0);
    long_ago(11);
    CHECK(store.queue().forget_old() == 2);
    REQUIRE(store.queue().jobs().size() == 1);
    CHECK(store.queue().jobs()[0].id == waiting);
    CHECK(store.queue().portions(done).empty());
    // It is done by itself when something is added.
    store.queue().cancel(waiting);
    long_ago(11);
    store.queue().add("trial", "New", numbered(1));
    CHECK(store.queue().jobs().size() == 1);
}

TEST_CASE("the queue is filled, worked at and read from the command line", "[queue][cli][server]") {
    const StorePlace place(EACH_ENGINE);
    const Shoot shoot({"SP0001", "SP0002"});
    const std::string store = " --store '" + place.address() + "'";
    CHECK(cli("store begin" + store).status == 0);
    CHECK(cli("queue index '" + shoot.folder.path().string() + "'" + store).out.find("Job 1 waits") == 0);
    CHECK(cli("queue measure 4" + store).status == 1);
    CHECK(cli("work --once --kind indx" + store).status == 2);
    CHECK(cli("work --once --cores 2" + store).status == 0);
    const auto jobs = nlohmann::json::parse(cli("queue list --json" + store).out);
    CHECK(jobs[0]["done"] == 1);
    CHECK(nlohmann::json::parse(cli("queue show 1" + store).out)["results"][0]["state"] == "done");
    CHECK(nlohmann::json::parse(cli("store list frames" + store).out).size() == 2);
    CHECK(cli("queue cancel 2" + store).status == 1);
    CHECK(cli("store history --kind frames" + store).out.find("take in 2") != std::string::npos);
    CHECK(cli("store audit" + store).status == 0);
}

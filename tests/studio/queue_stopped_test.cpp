// SPDX-License-Identifier: GPL-3.0-or-later
// Stations that do a rollout from the queue, one of which is stopped longer than its lease and then goes on: the
// rollout ends by itself, and right.
#include <fmt/format.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <cstdlib>
#include <random>

#include "base/fault_point.h"
#include "base/files.h"
#include "rollout/rollout.h"
#include "studio/queue/queue_work.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// OPTREL_TRIALS=100 tries it a hundred times, each with 400 sidecars.
const char* const wanted_trials = std::getenv("OPTREL_TRIALS");
const int sidecars = wanted_trials ? 400 : 60, trials = wanted_trials ? std::atoi(wanted_trials) : 2;

Rehearsal rehearsal_for(const fs::path& folder, int trial) {
    Rehearsal out;
    out.revision = 1;
    for (int i = 0; i < sidecars; ++i) {
        RehearsedFrame f;
        f.path = folder / fmt::format("F{}.dng", 1000 + i);
        if (trial == 0) write_bytes(f.path, "frame");
        f.before = read_sidecar(f.path);
        Sheet sheet;
        sheet.revision = 1;
        sheet.baseline[Field::exposure] = {0.01 * i, ""};
        sheet.baseline[Field::tint] = {1.0 + trial, ""};
        f.after = sheet_to_xmp(sheet);
        f.writes = true;
        out.frames.push_back(f);
    }
    return out;
}

/// A station that works until it is killed.
pid_t begin_station(const std::string& address, const char* name) {
    const pid_t child = ::fork();
    REQUIRE(child >= 0);
    if (child > 0) return child;
    ::setenv("OPTREL_STATION", name, 1);
    const std::string work =
        fmt::format("exec {} work --cores 1 --lease 2 --store '{}' >/dev/null 2>&1", OPTREL_CLI, address);
    ::execl("/bin/sh", "sh", "-c", work.c_str(), nullptr);
    ::_exit(127);
}

}  // namespace

TEST_CASE("a rollout of the queue ends by itself when a station is stopped past its lease", "[queue][lease][server]") {
    const StorePlace place(EACH_ENGINE);
    ::setenv("OPTREL_LEASE_MS", "600", 1);
    const TemporaryFolder folder;
    Store store(place.address(), Access::begin);
    std::mt19937 chance(3);
    const pid_t stations[] = {begin_station(place.address(), "north"), begin_station(place.address(), "south")};
    for (int trial = 0; trial < trials; ++trial) {
        INFO("trial " << trial);
        const Rehearsal rehearsal = rehearsal_for(folder.path(), trial);
        Progress progress;
        const int number =
            roll_out(rehearsal, 1, store.rollouts(), "Iva", progress, {[] { return false; }}).record.number;
        const int job = queue_rollout(store, number);
        const auto some_written = [&] { return read_sidecar(rehearsal.frames[5].path) == rehearsal.frames[5].after; };
        for (int i = 0; i < 3000 && !some_written(); ++i) ::usleep(1000);
        ::usleep(chance() % (200 * sidecars));
        // Whoever is at it among them.
        const pid_t stopped =
            stations[store.queue().portions(job)[0].worker.find("south") == std::string::npos ? 0 : 1];
        ::kill(stopped, SIGSTOP);
        ::usleep(700000 + chance() % 2300000);
        ::kill(stopped, SIGCONT);
        for (int i = 0; i < 600 && !store.queue().job(job).ended(); ++i) ::usleep(50000);
        const QueuedPortion portion = store.queue().portions(job)[0];
        INFO(portion.result);
        CHECK(portion.state == PortionState::done);
        CHECK(store.rollouts().record(number).status == RolloutStatus::done);
        int right = 0;
        for (const RehearsedFrame& f : rehearsal.frames) right += read_sidecar(f.path) == f.after;
        CHECK(right == sidecars);
    }
    for (const pid_t station : stations) {
        ::kill(station, SIGKILL);
        ::waitpid(station, nullptr, 0);
    }
    ::unsetenv("OPTREL_LEASE_MS");
}

TEST_CASE("a worker stops in the middle of its portion when the lease is lost", "[queue][lease]") {
    const StorePlace place("folder");
    const TemporaryFolder folder;
    Store store(place.address(), Access::begin);
    const Rehearsal rehearsal = rehearsal_for(folder.path(), 0);
    Progress progress;
    const int number = roll_out(rehearsal, 1, store.rollouts(), "Iva", progress, {[] { return false; }}).record.number;
    const int job = queue_rollout(store, number);
    QueueWorker worker(store.source(), {work_kinds(), {}, 1}, "north/1");
    // While the third sidecar is being written somebody cancels the job; the lease is renewed three times a second.
    int files = 0;
    fault_point = [&](const char* step) {
        if (std::string(step) == "rename" && ++files == 3) {
            Store(place.address()).queue().cancel(job);
            ::usleep(3000000);
        }
        return 0;
    };
    const auto portion = worker.step(progress);
    fault_point = nullptr;
    REQUIRE(portion);
    CHECK(portion->state == PortionState::waiting);
    CHECK(files == 3);
    CHECK(store.rollouts().record(number).status == RolloutStatus::writing);
}

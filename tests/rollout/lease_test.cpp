// SPDX-License-Identifier: GPL-3.0-or-later
// A station that is stopped in the middle of a rollout, longer than its lease, and then let go on.
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <cstdlib>
#include <random>
#include <thread>

#include "base/fault_point.h"
#include "base/files.h"
#include "base/station.h"
#include "rollout/rollout.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;
using namespace std::chrono_literals;

namespace {

/// OPTREL_TRIALS=100 tries the same a hundred times, each with 400 sidecars.
const char* const many_trials = std::getenv("OPTREL_TRIALS");
const int frame_count = many_trials ? 400 : 40, trial_count = many_trials ? std::atoi(many_trials) : 6;
constexpr auto lease = 300ms;

/// A store with a rehearsal whose frames lie in a folder. Children of the program open the store by themselves.
struct Studio {
    StorePlace place;
    TemporaryFolder folder;
    Rehearsal rehearsal;

    explicit Studio(const std::string& engine, std::chrono::milliseconds length = lease) : place(engine) {
        ::setenv("OPTREL_LEASE_MS", std::to_string(length.count()).c_str(), 1);
        rehearsal.revision = 2;
        for (int i = 0; i < frame_count; ++i) {
            RehearsedFrame f;
            f.path = folder / ("F" + std::to_string(100 + i) + ".dng");
            write_bytes(f.path, "frame");
            Sheet sheet;
            sheet.revision = 2;
            sheet.baseline[Field::exposure] = {1 + 0.1 * i, ""};
            f.after = sheet_to_xmp(sheet);
            f.writes = true;
            rehearsal.frames.push_back(f);
        }
    }
    ~Studio() { ::unsetenv("OPTREL_LEASE_MS"); }
    /// Runs `work` on the store in a program of its own; what it returns is the program's exit status.
    pid_t in_child(const std::function<int(Store&)>& work) const {
        const pid_t child = ::fork();
        REQUIRE(child >= 0);
        if (child > 0) return child;
        int out = 99;
        try {
            Store store(place.address(), Access::write);
            out = work(store);
        } catch (const std::exception& error) {
            std::fprintf(stderr, "%s\n", error.what());
        }
        ::_exit(out);
    }
    bool all_written() const {
        return std::all_of(rehearsal.frames.begin(), rehearsal.frames.end(),
                           [](const RehearsedFrame& f) { return read_sidecar(f.path) == f.after; });
    }
    int written() const {
        return static_cast<int>(
            std::count_if(rehearsal.frames.begin(), rehearsal.frames.end(),
                          [](const RehearsedFrame& f) { return read_sidecar(f.path).has_value(); }));
    }
};

int exit_of(pid_t child) {
    int status = 0;
    ::waitpid(child, &status, 0);
    return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

void wait_until_stopped(pid_t child) {
    int status = 0;
    REQUIRE(::waitpid(child, &status, WUNTRACED) == child);
    REQUIRE(WIFSTOPPED(status));
}

/// What the stopped one answers with: 100 and the sidecars that it wrote where it found its frames lost.
int carried(Store& store, const Rehearsal& rehearsal, const MayGoOn& may) {
    Progress progress;
    const RolloutReport r = roll_out(rehearsal, 2, store.rollouts(), "Iva", progress, {may});
    return (r.lost ? 100 : 0) + r.written;
}

}  // namespace

TEST_CASE("whoever was stopped past the lease writes nothing more, and another ends the rollout", "[rollout][lease]") {
    const Studio s(EACH_ENGINE);
    { Store begun(s.place.address(), Access::begin); }
    std::mt19937 chance(7);
    for (int trial = 0; trial < trial_count; ++trial) {
        INFO("trial " << trial);
        const int stop_at = std::uniform_int_distribution<int>(1, frame_count - 1)(chance);
        const pid_t stopped = s.in_child([&](Store& store) {
            int asked = 0;
            return carried(store, s.rehearsal, [&] {
                if (++asked == stop_at + 1) ::raise(SIGSTOP);
                return true;
            });
        });
        wait_until_stopped(stopped);
        CHECK(s.written() == stop_at);
        std::this_thread::sleep_for(lease + 100ms);
        const pid_t other = s.in_child([&](Store& store) {
            Progress progress;
            const int number = store.rollouts().list().front().number;
            return resume(store.rollouts(), number, progress).written;
        });
        CHECK(exit_of(other) == (frame_count - stop_at) % 256);
        CHECK(s.all_written());
        // Taken back meanwhile: what the stopped one wrote now would be wrong.
        const pid_t third = s.in_child([&](Store& store) {
            Progress progress;
            return roll_back(store.rollouts(), store.rollouts().list().front().number, progress).written;
        });
        CHECK(exit_of(third) == frame_count % 256);
        ::kill(stopped, SIGCONT);
        CHECK(exit_of(stopped) == (100 + stop_at) % 256);
        CHECK(s.written() == 0);
    }
}

TEST_CASE("whoever was stopped right before a sidecar took its place does not write it either", "[rollout][lease]") {
    const Studio s(EACH_ENGINE);
    { Store begun(s.place.address(), Access::begin); }
    const pid_t stopped = s.in_child([&](Store& store) {
        int asked = 0;
        const auto may = [&] {
            // The sidecars come behind all that the store keeps in files; the fifth one is meant.
            if (++asked == 5)
                fault_point = [](const char* step) {
                    if (std::string(step) == "rename") ::raise(SIGSTOP);
                    return 0;
                };
            return true;
        };
        return carried(store, s.rehearsal, may);
    });
    wait_until_stopped(stopped);
    CHECK(s.written() == 4);
    std::this_thread::sleep_for(lease + 100ms);
    std::thread lets_go([&] {
        std::this_thread::sleep_for(3s);  // by then the other one has the frames
        ::kill(stopped, SIGCONT);
    });
    // It holds the lock of one frame, which is waited for.
    const pid_t other = s.in_child([&](Store& store) {
        Progress progress;
        return resume(store.rollouts(), store.rollouts().list().front().number, progress).written;
    });
    CHECK(exit_of(other) == frame_count - 4);
    CHECK(exit_of(stopped) == 104);
    lets_go.join();
    CHECK(s.all_written());
}

TEST_CASE("a stopped station keeps its frames until its lease is over, a dead one not at all", "[rollout][lease]") {
    const Studio s(EACH_ENGINE, 60s);
    { Store begun(s.place.address(), Access::begin); }
    for (const int signal : {SIGSTOP, SIGKILL}) {
        const pid_t first = s.in_child([&](Store& store) {
            int asked = 0;
            return carried(store, s.rehearsal, [&] {
                if (++asked == 3) ::raise(signal);
                return true;
            });
        });
        int status = 0;
        REQUIRE(::waitpid(first, &status, WUNTRACED) == first);
        const pid_t other = s.in_child([&](Store& store) {
            Progress progress;
            try {
                return resume(store.rollouts(), store.rollouts().list().front().number, progress).written;
            } catch (const FramesInUse& busy) {
                return is_one_sentence(busy.what()) ? 77 : 78;
            }
        });
        CHECK(exit_of(other) == (signal == SIGSTOP ? 77 : frame_count - 2));
        const auto running_at = [&] {
            return Store(s.place.address(), Access::read).rollouts().list().front().running_at;
        };
        CHECK(running_at() == (signal == SIGSTOP ? this_station() : ""));
        if (signal == SIGSTOP) {
            ::kill(first, SIGCONT);
            CHECK(exit_of(first) == frame_count);
            CHECK(running_at().empty());
        }
        CHECK(s.all_written());
        const pid_t third = s.in_child([&](Store& store) {
            Progress progress;
            return roll_back(store.rollouts(), store.rollouts().list().front().number, progress).written;
        });
        CHECK(exit_of(third) == frame_count);
    }
}

TEST_CASE("a rollout goes on while the server is away for a moment", "[rollout][lease][server]") {
    const Studio s("server");
    { Store begun(s.place.address(), Access::begin); }
    const pid_t first = s.in_child([&](Store& store) {
        int asked = 0;
        return carried(store, s.rehearsal, [&] {
            if (++asked % 10 == 5) ::raise(SIGSTOP);
            return true;
        });
    });
    for (int i = 0; i < 4; ++i) {
        wait_until_stopped(first);
        on_test_server("postgres", "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '" +
                                       s.place.database() + "'");
        ::kill(first, SIGCONT);
    }
    CHECK(exit_of(first) == frame_count);
    CHECK(s.all_written());
}

// SPDX-License-Identifier: GPL-3.0-or-later
// What a rollout promises, against those who try to break it: killed at any instant, calls that fail, power that is
// lost; and that no picture is ever opened for writing.
#include <fcntl.h>
#include <sys/time.h>
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <chrono>
#include <csignal>
#include <map>
#include <random>
#include <set>

#include "base/fault_point.h"
#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "rollout/folder_rollout_store.h"
#include "rollout/rollout.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Frames with a first baseline beside them, and a second one that was rehearsed.
struct Bench {
    static constexpr int count = 6;
    TemporaryFolder folder;
    FolderRolloutStore rollouts{folder / "rollouts"};
    Rehearsal rehearsal;

    Bench() {
        fs::create_directory(folder / "rollouts");
        fs::create_directory(folder / "frames");
        rehearsal.revision = 2;
        for (int i = 0; i < count; ++i) {
            RehearsedFrame f;
            f.path = folder / "frames" / ("F" + std::to_string(100 + i) + ".dng");
            write_bytes(f.path, "frame");
            Sheet sheet;
            sheet.revision = 1;
            sheet.baseline[Field::exposure] = {0.1 * i, ""};
            // Some have none before.
            if (i % 3 != 2) f.before = sheet_to_xmp(sheet);
            sheet.revision = 2;
            sheet.baseline[Field::exposure] = {1 + 0.1 * i, ""};
            f.after = sheet_to_xmp(sheet);
            f.writes = true;
            if (f.before) write_bytes(sidecar_path(f.path), *f.before);
            rehearsal.frames.push_back(f);
        }
    }
    bool is_before() const {
        return std::all_of(rehearsal.frames.begin(), rehearsal.frames.end(),
                           [](const RehearsedFrame& f) { return read_sidecar(f.path) == f.before; });
    }
    bool is_after() const {
        return std::all_of(rehearsal.frames.begin(), rehearsal.frames.end(),
                           [](const RehearsedFrame& f) { return read_sidecar(f.path) == f.after; });
    }
    /// Every sidecar is one of its two versions.
    bool is_whole() const {
        return std::all_of(rehearsal.frames.begin(), rehearsal.frames.end(), [](const RehearsedFrame& f) {
            const auto now = read_sidecar(f.path);
            return now == f.before || now == f.after;
        });
    }
    /// Finishes what was begun and takes it back, or finds that nothing was touched. False when that goes wrong.
    bool mended() {
        Progress progress;
        const auto all = rollouts.list();
        if (all.empty()) return is_before();
        const RolloutRecord r = all.front();
        if (r.status == RolloutStatus::damaged) return false;
        if (r.status == RolloutStatus::writing && (!resume(rollouts, r.number, progress).complete() || !is_after()))
            return false;
        if (r.status == RolloutStatus::preparing && !is_before()) return false;
        const bool back = roll_back(rollouts, r.number, progress).complete() && is_before();
        fs::remove_all(rollouts.folder(r.number));
        return back;
    }
    void roll() {
        Progress progress;
        roll_out(rehearsal, 2, rollouts, "tester", progress);
    }
};

/// Rolls out and is ended without a chance to tidy up, `after` microseconds past the step `at`.
void roll_and_end(Bench& bench, int at, long long after) {
    int step = 0;
    fault_point = [&](const char*) {
        if (++step != at) return 0;
        if (after == 0) ::raise(SIGKILL);
        // Nobody handles the alarm, so it ends the process where it stands.
        itimerval alarm{};
        alarm.it_value = {after / 1000000, after % 1000000};
        ::setitimer(ITIMER_REAL, &alarm, nullptr);
        return 0;
    };
    bench.roll();
}

}  // namespace

TEST_CASE("killed at a thousand instants, every sidecar is whole and every rollout ends one way or the other",
          "[rollout][promises]") {
    Bench bench;
    std::mt19937 chance(20260301);
    int steps = 0;
    fault_point = [&](const char*) { return ++steps, 0; };
    const auto from = std::chrono::steady_clock::now();
    bench.roll();
    const auto whole = std::chrono::duration_cast<std::chrono::microseconds>(std::chrono::steady_clock::now() - from);
    fault_point = nullptr;
    REQUIRE(bench.mended());
    int killed = 0, begun = 0;
    for (int n = 0; n < 1000; ++n) {
        // Every second one ends exactly at a step, which does not depend on the machine; the others somewhat after it.
        const int at = std::uniform_int_distribution<int>(1, steps)(chance);
        const long long after =
            n % 2 ? std::uniform_int_distribution<long long>(1, 1 + whole.count() / steps)(chance) : 0;
        const pid_t child = fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            roll_and_end(bench, at, after);
            ::_exit(0);
        }
        int status = 0;
        waitpid(child, &status, 0);
        killed += WIFSIGNALED(status);
        INFO("instant " << n);
        REQUIRE(bench.is_whole());
        begun += !bench.rollouts.list().empty() && bench.rollouts.list().front().status != RolloutStatus::preparing;
        REQUIRE(bench.mended());
    }
    INFO(killed << " were killed, " << begun << " had begun");
    CHECK(killed >= 500);
    CHECK(begun > 100);
}

TEST_CASE("whichever call fails, once or from then on, nothing is lost", "[rollout][promises]") {
    for (const int code : {EIO, ENOSPC, EACCES, ESTALE})
        for (const bool from_then_on : {false, true})
            for (int n = 1; n < 200; ++n) {
                Bench bench;
                int steps = 0;
                bool failed = false;
                fault_point = [&](const char*) {
                    ++steps;
                    if (from_then_on ? steps < n : steps != n) return 0;
                    failed = true;
                    return code;
                };
                try {
                    bench.roll();
                } catch (const Error& error) {
                    CHECK(is_one_sentence(error.what()));
                }
                fault_point = nullptr;
                INFO("code " << code << (from_then_on ? " from step " : " at step ") << n);
                REQUIRE(bench.is_whole());
                REQUIRE(bench.mended());
                if (!failed) break;
                REQUIRE(n < 199);
            }
}

namespace {

/// A disk as the calls of a program leave it, and what of it is there after the power was lost.
class Disk {
public:
    void apply(const std::vector<std::string>& call) {
        const std::string& what = call[0];
        if (what == "open") {
            if (call[2] == "1") now_[call[3]] = std::make_shared<File>();
            if ((std::stoi(call[1]) & O_TRUNC) != 0 && now_.count(call[3]) > 0) now_[call[3]]->bytes.clear();
        } else if (what == "write") {
            const auto file = now_.find(call[1]);
            if (file == now_.end()) return;
            const auto at = static_cast<std::size_t>(std::stoll(call[2]));
            std::string& bytes = file->second->bytes;
            if (bytes.size() < at + call[3].size() / 2) bytes.resize(at + call[3].size() / 2);
            for (std::size_t i = 0; i < call[3].size() / 2; ++i)
                bytes[at + i] = static_cast<char>(std::stoi(call[3].substr(2 * i, 2), nullptr, 16));
        } else if (what == "truncate") {
            if (const auto file = now_.find(call[1]); file != now_.end())
                file->second->bytes.resize(static_cast<std::size_t>(std::stoll(call[2])));
        } else if (what == "sync") {
            if (const auto file = now_.find(call[1]); file != now_.end()) file->second->kept = file->second->bytes;
            keep_names_in(call[1]);
        } else if (what == "rename") {
            if (const auto file = now_.find(call[1]); file != now_.end()) {
                now_[call[2]] = file->second;
                now_.erase(call[1]);
            }
        } else if (what == "remove") {
            now_.erase(call[1]);
        } else if (what == "folder") {
            folders_.insert(call[1]);
        }
    }
    /// What was there before, durably.
    void begin_with(const fs::path& path) {
        auto file = std::make_shared<File>();
        file->bytes = file->kept = read_file(path);
        now_[path.string()] = kept_[path.string()] = file;
    }
    /// Files after the power was lost: names that were flushed, or all of them, with the contents that were.
    std::map<std::string, std::string> after_the_cut(bool all_names) const {
        std::map<std::string, std::string> out;
        for (const auto& [path, file] : all_names ? now_ : kept_) {
            const std::string folder = fs::path(path).parent_path().string();
            if (all_names || folders_.count(folder) == 0 || kept_folders_.count(folder) > 0) out[path] = file->kept;
        }
        return out;
    }

private:
    struct File {
        std::string bytes, kept;
    };
    using Names = std::map<std::string, std::shared_ptr<File>>;

    void keep_names_in(const std::string& folder) {
        const auto in = [&](const std::string& path) { return fs::path(path).parent_path().string() == folder; };
        std::erase_if(kept_, [&](const auto& entry) { return in(entry.first); });
        for (const auto& [path, file] : now_)
            if (in(path)) kept_[path] = file;
        for (const std::string& path : folders_)
            if (in(path)) kept_folders_.insert(path);
    }

    Names now_, kept_;
    std::set<std::string> folders_, kept_folders_;  ///< that were made
};

std::vector<std::vector<std::string>> calls_in(const fs::path& log) {
    std::vector<std::vector<std::string>> out;
    std::istringstream in(read_file(log));
    for (std::string line; std::getline(in, line);) {
        std::vector<std::string> call;
        std::istringstream parts(line);
        for (std::string part; std::getline(parts, part, '\t');) call.push_back(part);
        out.push_back(std::move(call));
    }
    return out;
}

/// A studio whose commands are watched from outside.
struct Watched : StudioByHand {
    Watched() {
        good("store index", "'" + path("frames").string() + "'");
        good("baseline pin", "--field sharpening_amount --value 30");
        good("baseline publish");
        good("rollout apply", "--all");
        good("baseline pin", "--field sharpening_amount --value 50");
        good("baseline publish");
    }
    /// What a command does to the disk.
    std::vector<std::vector<std::string>> trace(const std::string& command, const std::string& arguments = "") const {
        const fs::path log = fs::temp_directory_path() / ("optrel-trace-" + std::to_string(::getpid()));
        fs::remove(log);
        ::setenv("DISK_TRACE_ROOT", path("").parent_path().c_str(), 1);
        ::setenv("DISK_TRACE_LOG", log.c_str(), 1);
        ::setenv("LD_PRELOAD", OPTREL_DISK_TRACE, 1);
        const CommandResult r = run(command, arguments);
        ::unsetenv("LD_PRELOAD");
        INFO(command << ": " << r.err);
        REQUIRE(r.status == 0);
        auto out = calls_in(log);
        fs::remove(log);
        return out;
    }
    fs::path shelf_folder() const { return path("s") / "rollouts"; }
};

}  // namespace

TEST_CASE("after the power was lost at any call, every sidecar is whole and the rollout ends one way or the other",
          "[rollout][promises]") {
    const Watched s;
    const std::vector<fs::path> frames{s.frame("SP0001"), s.frame("SP0002"), s.frame("SP0004"), s.frame("SP0007")};
    std::map<fs::path, std::string> before, after;
    Disk disk;
    for (const fs::path& f : frames) {
        before[f] = *read_sidecar(f);
        disk.begin_with(sidecar_path(f));
    }
    for (const auto& entry : fs::recursive_directory_iterator(s.shelf_folder()))
        if (entry.is_regular_file()) disk.begin_with(entry.path());
    const auto calls = s.trace("rollout apply --all");
    for (const fs::path& f : frames) after[f] = *read_sidecar(f);
    REQUIRE(before[frames[0]] != after[frames[0]]);
    // Enough of it was seen.
    const auto seen = [&](const char* what) {
        return std::count_if(calls.begin(), calls.end(), [&](const auto& c) { return c[0] == what; });
    };
    REQUIRE(seen("rename") >= 8);
    REQUIRE(seen("sync") >= 16);
    REQUIRE(seen("write") >= 8);

    FolderRolloutStore rollouts(s.shelf_folder());
    const auto all_are = [&](std::map<fs::path, std::string>& bytes) {
        return std::all_of(frames.begin(), frames.end(),
                           [&](const fs::path& f) { return read_sidecar(f) == bytes[f]; });
    };
    for (std::size_t n = 0; n <= calls.size(); ++n) {
        if (n > 0) disk.apply(calls[n - 1]);
        for (const bool all_names : {false, true}) {
            INFO("after call " << n << " of " << calls.size()
                               << (all_names ? ", all names kept" : ", flushed names kept"));
            for (const fs::path& f : frames) fs::remove(sidecar_path(f));
            fs::remove_all(s.shelf_folder());
            fs::create_directory(s.shelf_folder());
            for (const auto& [path, bytes] : disk.after_the_cut(all_names)) {
                if (path.find("store.sqlite") != std::string::npos) continue;
                fs::create_directories(fs::path(path).parent_path());
                write_bytes(path, bytes);
            }
            for (const fs::path& f : frames) {
                const auto now = read_sidecar(f);
                REQUIRE((now == before[f] || now == after[f]));
            }
            const RolloutRecord newest = rollouts.list().front();
            REQUIRE(newest.status != RolloutStatus::damaged);
            Progress progress;
            if (n == calls.size()) {
                // What was acknowledged is there.
                REQUIRE(newest.number == 2);
                REQUIRE(newest.status == RolloutStatus::done);
                REQUIRE(all_are(after));
            }
            if (newest.number == 1) {
                REQUIRE(all_are(before));
                continue;
            }
            if (newest.status == RolloutStatus::writing) {
                REQUIRE(resume(rollouts, 2, progress).complete());
                REQUIRE(all_are(after));
            }
            REQUIRE(roll_back(rollouts, 2, progress).complete());
            REQUIRE(all_are(before));
        }
    }
}

TEST_CASE("no picture is ever opened for writing, moved or removed", "[rollout][promises]") {
    const Watched s;
    const fs::path card = s.path("card");
    fs::create_directories(card);
    fs::create_directories(s.path("arrivals"));
    fs::create_directories(s.path("out/shoot"));
    fs::copy_file(rig_frame("SP0001"), card / "SP0001.dng");
    fs::copy_file(rig_frame("SP0002"), s.path("arrivals") / "AR0002.dng");
    int opened = 0;
    const auto innocent = [&](const std::string& command, const std::string& arguments = "") {
        INFO(command << " " << arguments);
        for (const auto& call : s.trace(command, arguments)) {
            const auto is_picture = [](const std::string& path) { return fs::path(path).extension() == ".dng"; };
            if (call[0] == "open" && is_picture(call[3]) && call[3].find("/out/") == std::string::npos) {
                ++opened;
                CHECK((std::stoi(call[1]) & (O_WRONLY | O_RDWR | O_TRUNC | O_CREAT)) == 0);
            }
            if (call[0] == "write" || call[0] == "truncate" || call[0] == "remove" || call[0] == "rename")
                CHECK_FALSE((is_picture(call[1]) && call[1].find("/out/") == std::string::npos));
            if (call[0] == "rename" && call[2].find("/out/") == std::string::npos) CHECK_FALSE(is_picture(call[2]));
        }
    };
    const std::string frame = "--frame '" + s.frame("SP0001").string() + "'";
    innocent("store index", "'" + s.path("frames").string() + "'");
    innocent("rollout rehearse");
    innocent("rollout apply --all");
    innocent("rollout rollback", frame);
    innocent("rollout rollback", "--number 2");
    innocent("rollout check", "--settle");
    innocent("watch", "--once --folder '" + s.path("arrivals").string() + "'");
    innocent("import", "--card '" + card.string() + "' --to '" + s.path("out/shoot").string() + "'");
    innocent("export",
             "--as tiff --frames '" + s.frame("SP0001").string() + "' --out '" + s.path("out/x").string() + "'");
    CHECK(opened > 20);
}

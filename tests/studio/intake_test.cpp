// SPDX-License-Identifier: GPL-3.0-or-later
// Frames that arrive: seen when they are complete, and given their baseline once.
#include "studio/intake/intake.h"

#include <catch2/catch.hpp>

#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <map>
#include <thread>

#include "base/fault_point.h"
#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "rollout/sheet.h"
#include "studio/intake/arrivals.h"
#include "studio/intake/watching.h"
#include "studio/rollout/rolling.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using namespace std::chrono_literals;
using nlohmann::json;

namespace {

/// Looks until nothing is on its way, and returns all that arrived.
std::vector<fs::path> all_arrived(Arrivals& arrivals) {
    std::vector<fs::path> out;
    for (int i = 0; i < 400; ++i) {
        const auto now = arrivals.look(Progress());
        for (const fs::path& file : now) arrivals.done(file);
        out.insert(out.end(), now.begin(), now.end());
        if (now.empty() && arrivals.waiting() == 0 && i > 0) break;
        std::this_thread::sleep_for(5ms);
    }
    return out;
}

/// A studio with a baseline and a set, and frames that have just arrived in a folder of their own.
struct StudioWithArrivals : StudioByHand {
    StudioWithArrivals() {
        good("baseline pin", "--field sharpening_amount --value 30");
        good("baseline sets pin", "--name Evening --field exposure --value 0.4");
        good("baseline publish");
        fs::create_directories(path("card"));
        for (const char* name : {"SP0001", "SP0002", "SP0004"}) fs::copy_file(rig_frame(name), card(name));
    }
    fs::path card(const std::string& name) const { return path("card") / (name + ".dng"); }
    Store store() const { return Store(path("s").string(), Access::write); }
    IntakeReport take_in(const IntakeOrder& order) const {
        Store s = store();
        Progress progress;
        return take_in_arrivals(s, {card("SP0001"), card("SP0002"), card("SP0004")}, order, progress);
    }
};

int count(const IntakeReport& report, ArrivalResult::What what) {
    return static_cast<int>(std::count_if(report.frames.begin(), report.frames.end(),
                                          [&](const ArrivalResult& t) { return t.what == what; }));
}

}  // namespace

TEST_CASE("a frame arrives when it stands still and is there to its end", "[studio][intake]") {
    const TemporaryFolder folder;
    const std::string bytes = read_file(rig_frame("SP0001"), 1u << 30);
    Arrivals arrivals({folder.path()}, 30ms);
    write_bytes(folder / "a.dng", bytes.substr(0, bytes.size() / 2));
    for (int i = 0; i < 12; ++i) {
        CHECK(arrivals.look(Progress()).empty());
        std::this_thread::sleep_for(5ms);
    }
    CHECK(arrivals.waiting() == 1);
    const auto stuck = arrivals.stuck(0s);
    REQUIRE(stuck.size() == 1);
    CHECK(is_one_sentence(stuck[0]));
    CHECK(arrivals.stuck(0s).empty());  // told once
    write_bytes(folder / "a.dng", bytes);
    CHECK(all_arrived(arrivals) == std::vector<fs::path>{folder / "a.dng"});
    CHECK(all_arrived(arrivals).empty());
    // Another picture under its name arrives like any.
    write_bytes(folder / "a.dng", read_file(rig_frame("SP0002"), 1u << 30));
    fs::create_directories(folder / "deep/er");
    write_bytes(folder / "deep/er/b.dng", bytes);
    CHECK(all_arrived(arrivals).size() == 2);
}

TEST_CASE("what lies oddly in a watched folder is told once and stops nothing", "[studio][intake]") {
    const TemporaryFolder folder;
    const fs::path in = folder / "in";
    fs::create_directories(in);
    fs::create_directory_symlink(in, in / "round");
    fs::copy_file(rig_frame("SP0001"), in / "a.dng");
    fs::copy_file(rig_frame("SP0001"), in / "\xff\xfe.dng");
    fs::create_directories(in / "folder.dng");
    write_bytes(in / "empty.dng", "");
    Arrivals arrivals({in, folder / "gone"}, 10ms);
    std::vector<fs::path> out;
    for (int i = 0; i < 20; ++i) {
        for (const fs::path& file : arrivals.look(Progress())) {
            arrivals.done(file);
            out.push_back(file);
        }
        std::this_thread::sleep_for(3ms);
    }
    CHECK(out == std::vector<fs::path>{in / "a.dng", in / "\xff\xfe.dng"});
    const auto problems = arrivals.problems();
    CHECK(problems.size() == 1);  // the folder that is not there
    for (const std::string& p : problems) CHECK(is_one_sentence(p));
    // A share that comes back is looked into again.
    fs::create_directories(folder / "gone");
    fs::copy_file(rig_frame("SP0002"), folder / "gone/b.dng");
    std::this_thread::sleep_for(15ms);
    arrivals.look(Progress());
    std::this_thread::sleep_for(15ms);
    CHECK(arrivals.look(Progress()) == std::vector<fs::path>{folder / "gone/b.dng"});
}

TEST_CASE("a change in a folder, or in one that was made in it, ends the waiting", "[studio][intake]") {
    const TemporaryFolder folder;
    FolderWatch watch({folder.path()});
    fs::create_directories(folder / "new");
    CHECK(watch.wait(20s));
    std::thread later([&] {
        std::this_thread::sleep_for(30ms);
        write_bytes(folder / "new/a.dng", "x");
    });
    CHECK(watch.wait(20s));
    later.join();
    CHECK_FALSE(FolderWatch({folder.path()}).wait(1ms));
    CHECK(fs::exists(folder / "new/a.dng"));
}

TEST_CASE("arriving frames get the baseline with the set on top, once, and can be taken back", "[studio][intake]") {
    const StudioWithArrivals s;
    IntakeOrder order;
    order.author = "T. Ester";
    order.set = "Evening";
    const IntakeReport report = s.take_in(order);
    CHECK(count(report, ArrivalResult::What::baseline) == 3);
    CHECK(report.revision == 1);
    const Sheet sheet = read_sheet(s.card("SP0002"));
    CHECK(sheet.baseline.at(Field::sharpening_amount).number == 30);
    CHECK(sheet.set.at(Field::exposure).number == 0.4);
    CHECK(s.store().frames().count() == 3);
    // Once more: nothing is written, and nothing is another rollout.
    const std::string before = *read_sidecar(s.card("SP0002"));
    const IntakeReport again = s.take_in(order);
    CHECK(count(again, ArrivalResult::What::known) == 3);
    CHECK(again.rollout == 0);
    CHECK(*read_sidecar(s.card("SP0002")) == before);
    // What a person takes back stays taken back: a known frame is no arrival.
    Store store = s.store();
    Progress progress;
    CHECK(take_back(store, report.rollout, progress).complete());
    CHECK_FALSE(read_sidecar(s.card("SP0002")));
    Arrivals arrivals({s.path("card")}, 5ms);
    arrivals.know(store.frames().all());
    CHECK(all_arrived(arrivals).empty());
}

TEST_CASE("arrivals wait for a person where the folder says so, and broken ones stop no other", "[studio][intake]") {
    const StudioWithArrivals s;
    IntakeOrder order;
    order.author = "T. Ester";
    SECTION("all of them") {
        order.only_index = true;
        CHECK(count(s.take_in(order), ArrivalResult::What::known) == 3);
        CHECK_FALSE(read_sidecar(s.card("SP0001")));
    }
    SECTION("those of a body that is not known") {
        order.unknown_waits = true;
        const IntakeReport report = s.take_in(order);
        for (const ArrivalResult& t : report.frames)
            CHECK((t.what == ArrivalResult::What::baseline || t.why.find("body") != std::string::npos));
    }
    SECTION("those that are set by hand already, whose sheet stays") {
        edit_sheet(s.card("SP0001"), [](Sheet& sheet) { sheet.hand[Field::exposure] = {1.5, ""}; });
        const std::string before = *read_sidecar(s.card("SP0001"));
        const IntakeReport report = s.take_in(order);
        CHECK(count(report, ArrivalResult::What::baseline) == 2);
        CHECK(*read_sidecar(s.card("SP0001")) == before);
    }
    SECTION("one that is broken, and one whose sidecar is a folder") {
        write_bytes(s.card("SP0001"), "no picture");
        fs::create_directories(sidecar_path(s.card("SP0002")));
        const IntakeReport report = s.take_in(order);
        CHECK(count(report, ArrivalResult::What::baseline) == 1);
        CHECK(count(report, ArrivalResult::What::failed) == 2);
        for (const ArrivalResult& t : report.frames)
            if (t.what == ArrivalResult::What::failed) CHECK(is_one_sentence(t.why));
        CHECK(s.store().frames().count() == 1);
        // Mended, they are taken in like any.
        fs::remove(s.card("SP0001"));
        fs::copy_file(rig_frame("SP0001"), s.card("SP0001"));
        fs::remove(sidecar_path(s.card("SP0002")));
        CHECK(count(s.take_in(order), ArrivalResult::What::baseline) == 2);
    }
    SECTION("sidecars that cannot be written, whatever their frames are called") {
        // A name in Latin-1, which no sentence repeats as it is.
        const fs::path odd = s.path("card") / "SP0002\xe9.dng";
        fs::rename(s.card("SP0002"), odd);
        int files = 0;
        Store store = s.store();
        Progress progress;
        std::vector<ArrivalRecord> log;
        // Behind the four files of the rollout itself come the sidecars.
        fault_point = [&](const char* step) { return std::string(step) == "rename" && ++files > 4 ? ENOSPC : 0; };
        const IntakeReport report =
            take_in_arrivals(store, {s.card("SP0001"), odd, s.card("SP0004")}, order, progress,
                             [&](const IntakeReport& done) { log = arrivals_of(done, order, "folder"); });
        fault_point = nullptr;
        CHECK(count(report, ArrivalResult::What::failed) == 3);
        REQUIRE(log.size() == 3);
        for (const ArrivalRecord& a : log) {
            CHECK(a.what == "failed");
            CHECK(a.rollout == 0);
        }
        CHECK(store.frames().count() == 0);
        // The next watch ends the rollout, and then each has its line.
        finish_arrivals(store, progress, [](const std::string& problem) { FAIL_CHECK(problem); });
        std::map<fs::path, int> logged;
        for (const ArrivalRecord& a : store.intake().newest(100)) logged[a.frame] += a.what == "baseline";
        for (const fs::path& frame : {s.card("SP0001"), odd, s.card("SP0004")}) {
            CHECK(read_sidecar(frame).has_value());
            CHECK(logged[frame] == 1);
        }
    }
    SECTION("a set that there is not") {
        order.set = "Evning";
        CHECK(error_of([&] { s.take_in(order); }) == "input");
        CHECK(s.store().frames().count() == 0);
    }
}

TEST_CASE("a watch without a window takes in what is there, and what comes until it is ended", "[cli][intake]") {
    const StudioWithArrivals s;
    const std::string card = fmt::format("--folder '{}' --still 0.1", s.path("card").string());
    s.refused("watch", "--folder /nowhere/at/all --once");
    s.refused("watch", card + " --once --set Evning");
    s.refused("watch", card + " --once --set-until 2026-03-01T18:00:00Z", 2);
    s.refused("watch", card + " --once --set Evening --set-until tomorrow", 2);
    s.refused("watch", card + " --once --set Evening --set-until 2026-13-01T18:00:00Z", 2);
    s.refused("watch", card + " --once --set Evening --set-until 2026-02-30T18:00:00Z", 2);
    const std::string lines = s.good("watch", card + " --once --json --set Evening --author 'T. Ester'");
    int written = 0;
    for (std::size_t at = 0; at < lines.size();) {
        const std::size_t end = lines.find('\n', at);
        const json line = json::parse(lines.substr(at, end - at));
        written += line["event"] == "baseline" && line["set"] == "Evening" && line["revision"] == 1;
        at = end + 1;
    }
    CHECK(written == 3);
    CHECK(s.good("watch", card + " --once").empty());
    // After its time the set is left out.
    fs::copy_file(rig_frame("SP0005"), s.card("SP0005"));
    s.good("watch", card + " --once --set Evening --set-until 2026-03-01T18:00:00Z");
    CHECK(read_sheet(s.card("SP0005")).set.empty());
    // A file that never becomes complete is told, and makes the end a failure.
    write_bytes(s.path("card") / "half.dng", read_file(rig_frame("SP0001"), 1u << 30).substr(0, 100000));
    s.refused("watch", card + " --once");
    fs::remove(s.path("card") / "half.dng");

    // As a service: what comes later, too, until it is asked to end.
    const std::string service = fmt::format("'{}' watch --store '{}' {} >'{}' 2>&1 & echo $! >'{}'", OPTREL_CLI,
                                            s.path("s").string(), card, s.path("log").string(), s.path("pid").string());
    REQUIRE(std::system(service.c_str()) == 0);
    fs::create_directories(s.path("card") / "late");
    fs::copy_file(rig_frame("SP0006"), s.path("card") / "late/SP0006.dng");
    const auto there = [&] { return read_sidecar(s.path("card") / "late/SP0006.dng").has_value(); };
    for (int i = 0; i < 600 && !there(); ++i) std::this_thread::sleep_for(50ms);
    CHECK(there());
    const int pid = std::stoi(read_file(s.path("pid")));
    CHECK(::kill(pid, SIGTERM) == 0);
    for (int i = 0; i < 400 && ::kill(pid, 0) == 0; ++i) std::this_thread::sleep_for(25ms);
    CHECK(::kill(pid, 0) != 0);
    CHECK(read_file(s.path("log")).find("SP0006.dng  baseline 1") != std::string::npos);
}

TEST_CASE("whenever a watch is killed, the next one ends what it began, once", "[studio][intake]") {
    const StudioWithArrivals s;
    const auto watch = [&](const fs::path& folder, int die_at) {
        int steps = 0;
        if (die_at > 0)
            fault_point = [&](const char*) {
                if (++steps == die_at) ::raise(SIGKILL);
                return 0;
            };
        IntakeFolder what;
        what.folder = folder;
        Progress progress;
        std::string problem;
        Watching watching(StoreSource(s.path("s").string()), {what}, "T. Ester", {20ms, true},
                          {[](const ArrivalResult&, const IntakeReport&, const IntakeFolder&) {},
                           [&](const std::string& sentence) { problem = sentence; }});
        while (watching.step(progress)) continue;
        fault_point = nullptr;
        return problem;
    };
    int killed = 0, ended = 0;
    for (int die_at = 1; ended == 0; die_at += die_at < 8 ? 1 : 3) {
        INFO("killed at step " << die_at);
        const fs::path folder = s.path("arrive" + std::to_string(die_at));
        fs::create_directories(folder);
        for (const char* name : {"SP0001", "SP0002", "SP0005"})
            fs::copy_file(rig_frame(name), folder / (std::string(name) + ".dng"));
        const pid_t child = ::fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            watch(folder, die_at);
            ::_exit(0);
        }
        int status = 0;
        ::waitpid(child, &status, 0);
        killed += WIFSIGNALED(status);
        ended += WIFEXITED(status);
        CHECK(watch(folder, 0).empty());
        Store store(s.path("s").string(), Access::read);
        std::map<fs::path, int> planned, logged;
        for (const RolloutRecord& r : store.rollouts().list()) {
            // One that stopped before its first sidecar wrote nothing, and is given up.
            CHECK((r.status == RolloutStatus::done || r.status == RolloutStatus::rolled_back));
            if (r.status != RolloutStatus::done) continue;
            for (const RolloutEntry& e : store.rollouts().entries(r)) ++planned[e.frame];
        }
        for (const ArrivalRecord& a : store.intake().newest(100000)) logged[a.frame] += a.what == "baseline";
        for (const auto& frame : fs::directory_iterator(folder)) {
            if (frame.path().extension() != ".dng") continue;
            CHECK(read_sidecar(frame.path()).has_value());
            CHECK(planned[frame.path()] == 1);
            CHECK(logged[frame.path()] == 1);
            CHECK(store.frames().find(frame.path()).has_value());
        }
    }
    CHECK(killed > 8);
}

TEST_CASE("of a burst none is lost, whatever the clocks of those who wrote it say", "[studio][intake]") {
    StudioWithArrivals s;
    IntakeFolder folder;
    folder.folder = s.path("burst");
    fs::create_directories(folder.folder);
    int told = 0;
    Watching watching(s.store().source(), {folder}, "T. Ester", {30ms, false},
                      {[&](const ArrivalResult& t, const IntakeReport&, const IntakeFolder&) {
                           told += t.what == ArrivalResult::What::baseline;
                       },
                       [](const std::string&) {}});
    Progress progress;
    watching.step(progress);
    // In folders that are made meanwhile, by stations whose clocks are years off.
    constexpr int count = 40;
    std::thread writer([&] {
        for (int i = 0; i < count; ++i) {
            const fs::path in = folder.folder / std::to_string(i % 7);
            fs::create_directories(in);
            const fs::path to = in / ("B" + std::to_string(i) + ".dng");
            fs::copy_file(s.card("SP0001"), to);
            const auto off = std::chrono::hours(24 * 365 * (i % 5 - 2) * 10);
            fs::last_write_time(to, fs::file_time_type::clock::now() + off);
        }
    });
    const auto from = std::chrono::steady_clock::now();
    while (told < count && std::chrono::steady_clock::now() - from < 60s) watching.step(progress);
    writer.join();
    CHECK(told == count);
    for (int i = 0; i < 10; ++i) watching.step(progress);
    CHECK(told == count);  // none twice
    CHECK(s.store().frames().count() == count);
}

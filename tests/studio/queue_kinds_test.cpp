// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsals, checks and exports by the queue: the same as by hand, by several stations, and past one that dies.
#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <thread>

#include "base/files.h"
#include "rollout/sheet.h"
#include "store/engine.h"
#include "studio/checks/drift.h"
#include "studio/exports/exporting.h"
#include "studio/intake/take_in.h"
#include "studio/queue/check_work.h"
#include "studio/queue/queue_kinds.h"
#include "studio/queue/queue_result.h"
#include "studio/queue/queue_work.h"
#include "studio/rollout/rolling.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Four frames, a baseline over them, rolled out.
struct Studio {
    explicit Studio(const std::string& engine) : place(engine), store(place.address(), Access::begin) {
        fs::create_directories(frame("SP0001").parent_path());
        for (const char* name : {"SP0001", "SP0002", "SP0003", "SP0004"}) fs::copy_file(rig_frame(name), frame(name));
        take_in(store, {folder / "in"}, true, progress);
        publish(30);
        roll_out_rehearsed(store, rehearsed(), RolloutOrder("Iva"), progress);
    }
    fs::path frame(const std::string& name) const { return folder / "in" / (name + ".dng"); }
    void publish(double sharpening) {
        store.baselines().change_draft([&](Revision& r) {
            if (r.tiers.empty()) r.tiers.emplace_back();
            r.tiers[0].id = r.tiers[0].name = "studio";
            r.tiers[0].pins[Field::sharpening_amount] = Pin::constant({sharpening, ""});
        });
        store.baselines().publish("Iva", "");
    }
    Rehearsal rehearsed() {
        RehearsalRequest request;
        request.frames = std::make_shared<const RehearsalRequest::Frames>(store.frames().all());
        return rehearse_frames(request, *store.registry().fleet(), store.baselines().current(), progress);
    }
    /// Works until nothing can be done at the moment.
    void work(const char* name = "north/1") {
        QueueWorker worker(store.source(), {}, name);
        while (worker.step(progress)) {
        }
    }
    std::vector<std::string> words(int job) {
        return result_in_words(store, store.queue().job(job), store.queue().portions(job));
    }

    TemporaryFolder folder;
    StorePlace place;
    Store store;
    Progress progress;
};

std::multiset<std::string> told(const DriftReport& report) {
    std::multiset<std::string> out;
    for (const DriftFinding& d : report.findings)
        out.insert(to_string(d.kind) + " " + d.frame.string() + " " + d.moved_to.string() + " " + d.what);
    return out;
}

Delivery small_jpeg() {
    Delivery r = shipped_deliveries().front();
    for (const Delivery& one : shipped_deliveries())
        if (one.format == ExportFormat::jpeg) r = one;
    r.longest_side = 64;
    r.file_name = "{name}";
    r.taken = NameTaken::number;
    return r;
}

}  // namespace

TEST_CASE("a rehearsal by the queue counts what one by hand counts", "[queue][server]") {
    Studio s(EACH_ENGINE);
    s.publish(45);
    Sheet by_hand = read_sheet(s.frame("SP0002"));
    by_hand.hand[Field::exposure] = {1.0, ""};
    write_bytes(sidecar_path(s.frame("SP0002")), sheet_to_xmp(by_hand));
    const Rehearsal rehearsal = s.rehearsed();
    const int job = queue_rehearse(s.store, s.store.frames().all(), false, "all");
    s.work();
    const auto result = nlohmann::json::parse(s.store.queue().portions(job).at(0).result);
    CHECK(result["revision"] == 2);
    CHECK(result["frames"] == 4);
    CHECK(result["writes"] == rehearsal.writes());
    for (const auto& [outcome, n] : rehearsal.by_outcome()) CHECK(result["outcomes"][to_string(outcome)] == n);
    CHECK(result["fields"]["sharpening_amount"] == 3);
    CHECK(s.words(job).at(0).find(std::to_string(rehearsal.writes()) + " of 4 sidecars") == 0);
    CHECK(read_sheet(s.frame("SP0001")).revision == 1);  // nothing was written
    // A part of them.
    const int part = queue_rehearse(s.store, {*s.store.frames().find(s.frame("SP0001"))}, false, "one");
    s.work();
    CHECK(nlohmann::json::parse(s.store.queue().results(part).at(0).result)["frames"] == 1);
    CHECK(s.store.queue().results(part).at(0).document.empty());
    CHECK(queue_rehearse(s.store, {}, false, "") == 0);
    const StorePlace empty("folder");
    Store none(empty.address(), Access::begin);
    CHECK(error_of([&] { queue_rehearse(none, {}, false, ""); }) == "input");
}

TEST_CASE("a check by the queue finds what one by hand finds, also what was moved", "[queue][drift][server]") {
    Studio s(EACH_ENGINE);
    fs::create_directories(s.folder / "in/away");
    fs::remove(sidecar_path(s.frame("SP0001")));
    fs::rename(s.frame("SP0002"), s.folder / "in/away/renamed.dng");
    fs::remove(s.frame("SP0003"));
    write_bytes(sidecar_path(s.frame("SP0004")), "damaged");
    const int job = queue_check(s.store);
    REQUIRE(s.store.queue().job(job).portions == 2);
    CHECK(error_of([&] { drift_of_job(s.store, job); }) == "input");
    // The last portion looks for what the others found gone: taken first, it waits for them, and that is no try.
    auto first = s.store.queue().take("dead", {"check"}, 60);
    REQUIRE(first);
    QueueWorker worker(s.store.source(), {}, "north/1");
    const auto early = worker.step(s.progress);
    REQUIRE(early);
    CHECK(early->position == 1);
    CHECK(early->state == PortionState::waiting);
    CHECK(s.store.queue().portions(job)[1].tries == 0);
    s.store.queue().give_back(*first);
    s.store.engine().run("UPDATE portions SET lease = 0");
    while (worker.step(s.progress)) {
    }
    REQUIRE(s.store.queue().job(job).done == 2);
    CHECK(told(drift_of_job(s.store, job)) == told(check_drift(s.store, {}, s.progress)));
    CHECK(drift_of_job(s.store, job).frames == 4);
    const auto words = s.words(job);
    CHECK(words.at(0).find("4 frames looked at; ") == 0);
    CHECK(words.at(0).find("1 moved") != std::string::npos);
    CHECK(words.at(0).find("1 frame gone") != std::string::npos);
    // What it found can be settled by whoever reads it.
    CHECK(settle_drift(s.store, drift_of_job(s.store, job).findings, s.progress).settled == 2);
    CHECK(s.store.frames().find(s.folder / "in/away/renamed.dng"));
    const int other = s.store.queue().add("trial", "Something else", {"{}"});
    CHECK(error_of([&] { drift_of_job(s.store, other); }) == "input");
}

TEST_CASE("frames are written out by two stations under names of their own", "[queue][export][server]") {
    Studio s(EACH_ENGINE);
    s.store.roots().put({"work", this_station(), s.folder.path()});
    std::vector<fs::path> frames;
    for (const char* card : {"1", "2", "3", "4"}) {
        frames.push_back(s.folder / card / "same.dng");
        fs::create_directories(s.folder / card);
        fs::copy_file(rig_frame("SP0001"), frames.back());
    }
    write_bytes(s.folder / "in/broken.dng", "no frame");
    frames.push_back(s.folder / "in/broken.dng");
    const int job = queue_export(s.store, frames, small_jpeg(), s.folder / "out");
    std::thread other([&] { s.work("south/1"); });
    QueueWorker here(s.store.source(), {}, "north/1");
    while (here.step(s.progress)) {
    }
    other.join();
    const QueuedJob done = s.store.queue().job(job);
    CHECK(done.done == 4);
    CHECK(done.failed == 1);
    std::set<std::string> outs;
    for (const QueuedPortion& p : s.store.queue().portions(job)) {
        if (p.state == PortionState::failed) {
            CHECK(is_one_sentence(p.result));
            continue;
        }
        const fs::path out = s.store.here(nlohmann::json::parse(p.result)["out"].get<std::string>());
        CHECK(fs::is_regular_file(out));
        outs.insert(out.string());
    }
    CHECK(outs.size() == 4);
    CHECK(std::distance(fs::directory_iterator(s.folder / "out"), {}) == 4);
    CHECK(s.words(job).at(0) == "4 frames written out.");
}

TEST_CASE("a station that dies behind its file is followed by one that replaces it", "[queue][export][server]") {
    Studio s(EACH_ENGINE);
    s.store.roots().put({"work", this_station(), s.folder.path()});
    const int job = queue_export(s.store, {s.frame("SP0001")}, small_jpeg(), s.folder / "out");
    const auto dead = s.store.queue().take("dead", {"export"}, 0);
    REQUIRE(dead);
    do_portion(s.store, *dead, s.progress);  // the file is there, and its end was never told
    CHECK(std::distance(fs::directory_iterator(s.folder / "out"), {}) == 1);
    // It left behind what it had begun to write, too.
    const pid_t child = fork();
    REQUIRE(child >= 0);
    if (child == 0) {
        std::ofstream(part_beside(s.folder / "out/SP0001.jpg")) << "half of it";
        _exit(0);
    }
    waitpid(child, nullptr, 0);
    REQUIRE(std::distance(fs::directory_iterator(s.folder / "out"), {}) == 2);
    s.work();
    CHECK(s.store.queue().job(job).done == 1);
    CHECK(std::distance(fs::directory_iterator(s.folder / "out"), {}) == 1);
    // A file of another frame that took the noted name is not replaced, nor is it where both frames have one name.
    fs::create_directories(s.folder / "card");
    fs::copy_file(rig_frame("SP0002"), s.folder / "card/SP0001.dng");
    queue_export(s.store, {s.folder / "card/SP0001.dng"}, small_jpeg(), s.folder / "out");
    const auto late = s.store.queue().take("dead", {"export"}, 0);
    CHECK(s.store.queue().note(*late, s.store.kept(s.folder / "out/SP0001.jpg")) == StoredQueue::Noted::mine);
    s.work();
    CHECK(std::distance(fs::directory_iterator(s.folder / "out"), {}) == 2);
    CHECK(s.store.queue().note(*late, "x") == StoredQueue::Noted::lost);
}

TEST_CASE("frames of one name and one content, some begun by a station that died, each get a file", "[queue][export]") {
    Studio s("folder");
    std::vector<fs::path> frames;
    for (const char* card : {"1", "2", "3", "4"}) {
        frames.push_back(s.folder / card / "same.dng");
        fs::create_directories(s.folder / card);
        fs::copy_file(rig_frame("SP0001"), frames.back());
    }
    const int job = queue_export(s.store, frames, small_jpeg(), s.folder / "out");
    for (const char* name : {"same.jpg", "same-2.jpg"}) {
        const auto dead = s.store.queue().take("dead", {"export"}, name[4] == '.' ? 2 : 60);
        REQUIRE(s.store.queue().note(*dead, s.store.kept(s.folder / "out" / name)) == StoredQueue::Noted::mine);
    }
    // Another portion cannot have a name that was noted, of whichever job.
    queue_export(s.store, {s.frame("SP0002")}, small_jpeg(), s.folder / "out");
    const auto other = s.store.queue().take("alive", {"export"}, 60);
    CHECK(s.store.queue().note(*other, s.store.kept(s.folder / "out/same.jpg")) == StoredQueue::Noted::taken);
    s.store.queue().give_back(*other);
    s.work();
    s.store.engine().run("UPDATE portions SET lease = 0 WHERE state = 0");
    s.work();
    CHECK(s.store.queue().job(job).done == 4);
    CHECK(std::distance(fs::directory_iterator(s.folder / "out"), {}) == 5);
}

TEST_CASE("two frames of one export never replace one another", "[queue][export][server]") {
    Studio s(EACH_ENGINE);
    s.store.roots().put({"work", this_station(), s.folder.path()});
    fs::create_directories(s.folder / "card");
    fs::copy_file(rig_frame("SP0002"), s.folder / "card/SP0001.dng");
    Delivery replacing = small_jpeg();
    replacing.taken = NameTaken::replace;
    const int job =
        queue_export(s.store, {s.frame("SP0001"), s.folder / "card/SP0001.dng"}, replacing, s.folder / "out");
    s.work();
    const auto results = s.store.queue().results(job);
    CHECK(results.at(0).state == PortionState::done);
    CHECK(results.at(1).state == PortionState::failed);
    CHECK(is_one_sentence(results.at(1).result));
    CHECK(std::distance(fs::directory_iterator(s.folder / "out"), {}) == 1);
    // Of another export the delivery says that they may be.
    const int again = queue_export(s.store, {s.frame("SP0001")}, replacing, s.folder / "out");
    s.work();
    CHECK(s.store.queue().job(again).done == 1);
}

TEST_CASE("exports go to a folder that all stations share, and nonsense is told", "[queue][export][server]") {
    Studio s("server");
    const auto put = [&](const fs::path& to) { queue_export(s.store, {s.frame("SP0001")}, small_jpeg(), to); };
    CHECK(error_of([&] { put("/only/here"); }) == "input");
    CHECK(is_one_sentence(
        sentence_of([&] { queue_export(s.store, {s.folder / "in/SP0009.dng"}, small_jpeg(), s.folder / "out"); })));
    CHECK(s.store.queue().jobs().empty());
    Delivery bad = small_jpeg();
    bad.name.clear();
    CHECK(error_of([&] { queue_export(s.store, {s.frame("SP0001")}, bad, "/x"); }) == "input");
    for (const char* kind : {"export", "rehearse", "check"})
        for (const char* document :
             {"", "[]", "{\"frame\": 3}", "{\"from\": \"\", \"to\": 4}", "{\"revision\": \"x\"}"}) {
            s.store.queue().add(kind, "Nonsense", {document});
            QueueWorker worker(s.store.source(), {}, "north/1");
            const auto done = worker.step(s.progress);
            REQUIRE(done);
            CHECK(done->state == PortionState::failed);
            CHECK(is_one_sentence(done->result));
        }
    s.store.queue().add("rehearse", "Another revision", {R"({"revision": 77, "renew_hand_set": false, "frames": []})"});
    QueueWorker worker(s.store.source(), {}, "north/1");
    CHECK(is_one_sentence(worker.step(s.progress)->result));
}

TEST_CASE("rehearsals, checks and exports are put in from the command line", "[queue][cli][server]") {
    Studio s(EACH_ENGINE);
    s.store.roots().put({"work", this_station(), s.folder.path()});
    const std::string store = " --store '" + s.place.address() + "'";
    CHECK(cli("queue rehearse" + store).out.find("Job 1 waits") == 0);
    CHECK(cli("queue rehearse --body Nobody" + store).status == 1);
    CHECK(cli("queue check" + store).out.find("Job 2 waits") == 0);
    const std::string frame = "'" + s.frame("SP0001").string() + "'", out = "'" + (s.folder / "out").string() + "'";
    CHECK(cli("queue export --frames " + frame + " --delivery Review --out " + out + store).out.find("Job 3") == 0);
    CHECK(cli("queue export --frames " + frame + " --delivery Reviw --out " + out + store).status != 0);
    CHECK(cli("work --once --cores 2" + store).status == 0);
    for (int job = 1; job <= 3; ++job) {
        const auto shown = nlohmann::json::parse(cli("queue show " + std::to_string(job) + store).out);
        CHECK(shown["done"] == shown["portions"]);
        CHECK_FALSE(shown["in_words"].empty());
    }
}

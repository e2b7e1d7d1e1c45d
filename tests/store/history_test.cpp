// SPDX-License-Identifier: GPL-3.0-or-later
// Who changed what: told by every part, and found out when somebody writes it anew.
#include "store/history.h"

#include <catch2/catch.hpp>
#include <regex>
#include <set>
#include <thread>

#include "base/files.h"
#include "base/station.h"
#include "store/engine.h"
#include "stored_things.h"
#include "studio/sharing/packing.h"
#include "studio/sharing/unpacking.h"
#include "studio/stations/history_check.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Changes of several kinds.
void work(Store& store) {
    store.frames().put({record("a.dng", "1")}, true);
    put_draft(store, draft_with(0.5));
    put_draft(store, draft_with(1));
    store.baselines().publish("Iva", "first");
    store.profiles().publish(profile("a"));
    store.selections().put("mine", "{}");
    store.settings().put("approve.revision", "1");
}

/// Does to the history what its keeper could do to the file or the database, beside the program.
void tamper(const StorePlace& place, const std::string& sql) {
    if (place.database().empty()) {
        Other other(place.address());
        other.run("DROP TRIGGER IF EXISTS history_stays");
        other.run("DROP TRIGGER IF EXISTS history_is_kept");
        other.run(sql.c_str());
        return;
    }
    on_test_server(place.database(), "ALTER TABLE optrel.history DISABLE TRIGGER ALL");
    on_test_server(place.database(), "SET search_path = optrel; " + sql);
}

}  // namespace

TEST_CASE("every change stands in the history with author, station and time", "[store][history][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    work(store);
    std::set<std::string> kinds;
    for (const HistoryEntry& e : store.history().entries()) {
        kinds.insert(e.kind);
        CHECK_FALSE(e.author.empty());
        CHECK(e.station == this_station());
        CHECK(e.time.size() == 20);
        CHECK(e.login == (place.database().empty() ? "" : "keeper"));
    }
    CHECK(kinds == std::set<std::string>{"frames", "profile", "revision", "selection", "setting", "tier"});
    const auto tiers = store.history().entries("tier", "studio");
    REQUIRE(tiers.size() == 2);
    CHECK(tiers[0].what == "edit");
    CHECK(tiers[0].before.find("0.5") != std::string::npos);
    CHECK(tiers[1].what == "begin");
    const auto revisions = store.history().entries("revision");
    REQUIRE(revisions.size() == 1);
    CHECK(revisions[0].author == "Iva");
    CHECK(revisions[0].subject == "1");
    CHECK(store.history().entries("", "", 3).size() == 3);
    // What was given up is not told.
    {
        Transaction all(store.engine());
        store.selections().put("other", "{}");
    }
    CHECK(store.history().entries("selection").size() == 1);
    store.selections().put("third", "{}");
    CHECK(store.history().entries("selection").size() == 2);
    Progress progress;
    CHECK(store.history().audit({}, progress).problems.empty());
}

TEST_CASE("a history that somebody wrote in is found out", "[store][history][server]") {
    const std::string engine = EACH_ENGINE;
    for (const char* sql :
         {"UPDATE history SET author = 'Jon' WHERE id = 3", "DELETE FROM history WHERE id = 3",
          "UPDATE history SET before = after, after = before WHERE id = 3", "DELETE FROM history WHERE id = 1",
          "UPDATE history SET seal = '' WHERE id = 3", "UPDATE history SET id = 100 WHERE id = 3",
          "INSERT INTO history (id, time, author, kind, subject, what, before, after, station, login, seal) SELECT 99, "
          "time, author, kind, subject, what, before, after, station, login, seal FROM history WHERE id = 3"}) {
        const StorePlace place(engine);
        Store store(place.address(), Access::begin);
        work(store);
        Progress progress;
        const HistoryAudit before = store.history().audit({}, progress);
        CHECK(before.problems.empty());
        CHECK(before.rows >= 7);
        tamper(place, sql);
        const HistoryAudit after = store.history().audit(before.newest, progress);
        INFO(sql);
        REQUIRE_FALSE(after.problems.empty());
        CHECK(is_one_sentence(after.problems[0]));
    }
}

TEST_CASE("a station remembers what it saw, so that a history sealed anew is found out too",
          "[store][history][server]") {
    const StorePlace place(EACH_ENGINE);
    const TemporaryFolder memory;
    Store store(place.address(), Access::begin);
    work(store);
    CHECK(check_history(store, memory.path()).empty());
    Progress progress;
    CHECK(audit_history(store, progress, false, memory.path()).problems.empty());
    // As by who takes out the last row, and goes on: every seal fits.
    tamper(place, "DELETE FROM history WHERE id = (SELECT max(id) FROM history)");
    if (!place.database().empty()) on_test_server(place.database(), "ALTER TABLE optrel.history ENABLE TRIGGER ALL");
    store.selections().put("other", "{}");
    CHECK(store.history().audit({}, progress).problems.empty());
    CHECK(is_one_sentence(check_history(store, memory.path())));
    CHECK(audit_history(store, progress, false, memory.path()).problems.size() == 1);
    // What it remembers stays, so it is told again.
    CHECK_FALSE(check_history(store, memory.path()).empty());
    // Until somebody says that it is well, as of a copy that was restored.
    CHECK(audit_history(store, progress, true, memory.path()).problems.empty());
    CHECK(check_history(store, memory.path()).empty());
    for (const auto& file : fs::directory_iterator(memory.path())) write_bytes(file.path(), "{\"row\":");
    CHECK(check_history(store, memory.path()).empty());  // nothing is remembered in what cannot be read
}

TEST_CASE("the newest change is missed as well, since who made it remembers it", "[store][history][server][cli]") {
    const StorePlace place(EACH_ENGINE);
    const TemporaryFolder data;
    { Store store(place.address(), Access::begin); }
    ::setenv("XDG_DATA_HOME", data.path().c_str(), 1);
    const auto run = [&](const std::string& command) { return cli(command + " --store '" + place.address() + "'"); };
    CHECK(run("baseline pin --field exposure --value 0.5").status == 0);
    CHECK(run("baseline pin --field tint --value 3").status == 0);
    CHECK(run("store audit").status == 0);
    CHECK(run("baseline pin --field tint --value 4").status == 0);
    tamper(place, "DELETE FROM history WHERE id = (SELECT max(id) FROM history)");
    const CommandResult found = run("store audit");
    CHECK(found.status != 0);
    CHECK(found.err.find("is not what this station saw there before") != std::string::npos);
    ::unsetenv("XDG_DATA_HOME");
}

TEST_CASE("no sign in a name makes a false alarm", "[store][history][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    const std::string mark = "\xEF\xBB\xBF", other_mark = "\xEF\xBF\xBE";
    for (const std::string& name :
         {mark + "Iva", mark + mark + "Iva", other_mark + "Iva", "I" + mark + "va", std::string("\xF4\x8F\xBF\xBF"),
          std::string("no \xFF UTF-8"), std::string("\xC2\x85 \x7F \x01"), std::string("\xE2\x80\xAE turned")})
        store.history().append({"", name, "set", name, "edit", name, mark});
    // By hand, beside the program.
    if (!place.database().empty())
        on_test_server(
            place.database(),
            "INSERT INTO optrel.history (author, station, kind, subject, what, before, after) VALUES (U&'\\FEFF"
            "Jon', '', 'set', U&'\\FEFF', 'edit', '', '')");
    Progress progress;
    CHECK(store.history().audit({}, progress).problems.empty());
}

TEST_CASE("a signed bundle tells of the history that it was packed from, and is held against it",
          "[store][history][server][cli]") {
    const StorePlace place(EACH_ENGINE);
    const TemporaryFolder folder;
    Store store(place.address(), Access::begin);
    work(store);
    PackingList list;
    list.profiles = {"a"};
    Progress progress;
    const SigningKey key = SigningKey::make();
    const std::string bytes = bundle_bytes(packed(store, list, {"Seaweeds", "", ""}, progress), &key);
    const Bundle bundle = bundle_from(bytes, "b");
    REQUIRE(bundle.anchor);
    CHECK(bundle.anchor->row == store.history().newest().id);
    CHECK(fault_of_anchor(store, bundle).empty());
    CHECK(look_at(store, bundle).history.empty());
    store.selections().put("later", "{}");
    CHECK(fault_of_anchor(store, bundle).empty());
    write_bytes(folder / "b.optrel.zip", bytes);
    const auto audit = [&] {
        return cli("store audit --bundle '" + (folder / "b.optrel.zip").string() + "' --store '" + place.address() +
                   "'");
    };
    CHECK(audit().status == 0);
    // In another studio it says nothing.
    const StorePlace elsewhere("folder");
    Store other(elsewhere.address(), Access::begin);
    work(other);
    CHECK(look_at(other, bundle).history.empty());
    tamper(place, "DELETE FROM history WHERE id >= " + std::to_string(bundle.anchor->row));
    CHECK(is_one_sentence(fault_of_anchor(store, bundle)));
    CHECK(is_one_sentence(look_at(store, bundle).history));
    CHECK(audit().status != 0);
}

TEST_CASE("every kind that is written can be asked for", "[store][history]") {
    const std::regex written(R"x((?:record|append)\(\{"", [^,]*, "([a-z]+)")x");
    std::set<std::string> kinds;
    for (const auto& file : fs::recursive_directory_iterator(fs::path(OPTREL_SOURCE) / "src")) {
        if (file.path().extension() != ".cpp") continue;
        const std::string code = std::regex_replace(read_file(file.path()), std::regex("\\s+"), " ");
        for (std::sregex_iterator m(code.begin(), code.end(), written), end; m != end; ++m) kinds.insert((*m)[1]);
    }
    CHECK(kinds.size() > 12);
    for (const std::string& kind : kinds) {
        INFO(kind);
        CHECK(std::count(history_kinds().begin(), history_kinds().end(), kind) == 1);
    }
}

TEST_CASE("neither store lets its history be changed", "[store][history][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    work(store);
    for (const char* sql : {"UPDATE history SET author = 'Jon'", "DELETE FROM history"}) {
        // A trigger refuses it on both.
        CHECK(error_of([&] { store.engine().run(sql); }) == (place.database().empty() ? "store 19" : "store 42501"));
        CHECK(store.history().entries("tier").size() == 2);
    }
    if (!place.database().empty())
        for (const char* sql : {"TRUNCATE history", "UPDATE measurements SET document = ''", "DELETE FROM baselines"})
            CHECK(error_of([&] { store.engine().run(sql); }) == "store 42501");
}

TEST_CASE("stations that change things at once make one history without a gap", "[store][history][server][threads]") {
    const StorePlace place(EACH_ENGINE);
    { Store store(place.address(), Access::begin); }
    std::vector<std::thread> stations;
    for (int s = 0; s < 6; ++s)
        stations.emplace_back([&, s] {
            Store store(place.address());
            for (int i = 0; i < 8; ++i) store.selections().put("s" + std::to_string(s * 10 + i), "{}");
        });
    for (std::thread& s : stations) s.join();
    Store store(place.address());
    Progress progress;
    const HistoryAudit audit = store.history().audit({}, progress);
    CHECK(audit.problems.empty());
    CHECK(audit.rows == 48);
    CHECK(audit.newest.id == 48);
}

TEST_CASE("what is remembered of a store is not taken for another of that name in another folder", "[store][history]") {
    const TemporaryFolder memory, one, other;
    const fs::path before = fs::current_path();
    for (const fs::path& place : {one.path(), other.path()}) {
        fs::current_path(place);
        Store store("s", Access::begin);
        put_draft(store, draft_with(place == one.path() ? 0.1 : 0.2));
        store.baselines().publish("Iva", "");
        CHECK(check_history(store, memory.path()).empty());
    }
    fs::current_path(before);
}

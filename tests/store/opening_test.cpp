// SPDX-License-Identifier: GPL-3.0-or-later
// How a store is opened: new, old, locked, read-only, damaged, by the wrong thread.
#include "store/store.h"

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QVariant>
#include <catch2/catch.hpp>
#include <csignal>
#include <thread>

#include "base/files.h"
#include "store/sqlite/schema.h"
#include "store/sqlite/sqlite_engine.h"
#include "stored_things.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A store as the first version left it.
void make_old_store(const fs::path& folder) {
    fs::create_directories(folder);
    Other old(folder);
    for (
        const char* sql :
        {"CREATE TABLE frames (path TEXT PRIMARY KEY, rendered INTEGER NOT NULL, maker TEXT, model TEXT, "
         "body_serial TEXT, lens TEXT, lens_serial TEXT,"
         " focal_mm REAL, aperture REAL, iso INTEGER, distance_m REAL, pitch_um REAL, width INTEGER, height "
         "INTEGER, time TEXT, size INTEGER, modified INTEGER)",
         "CREATE TABLE bodies (id TEXT PRIMARY KEY, maker TEXT, model TEXT, serial TEXT, name TEXT, asset_tag "
         "TEXT, width INTEGER, height INTEGER, pitch_um REAL)",
         "CREATE TABLE lenses (id TEXT PRIMARY KEY, lens TEXT, serial TEXT, name TEXT, asset_tag TEXT)",
         "CREATE TABLE profiles (id TEXT, version INTEGER, document TEXT NOT NULL, PRIMARY KEY (id, version))",
         "CREATE TABLE baselines (number INTEGER PRIMARY KEY, document TEXT NOT NULL)",
         "CREATE TABLE runs (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT, chart TEXT, folder TEXT)",
         "CREATE TABLE run_frames (run INTEGER REFERENCES runs(id) ON DELETE CASCADE, position INTEGER, document "
         "TEXT NOT NULL, PRIMARY KEY (run, position))",
         "INSERT INTO frames (path, rendered, maker, model, body_serial, lens, iso, size, modified) VALUES "
         "('/f/a.dng', 0, 'Brimholt', 'Brimholt B2', '1', 'Lumenfold 35mm f/2.8', 800, 5, 6)",
         "INSERT INTO bodies VALUES ('Brimholt B2/1', 'Brimholt', 'Brimholt B2', '1', 'Stand 1', 'HB-1', 2464, "
         "1640, 9.4)",
         "INSERT INTO lenses VALUES ('Lumenfold 35mm f/2.8/LF1', 'Lumenfold 35mm f/2.8', 'LF1', 'A', '')",
         R"(INSERT INTO baselines VALUES (1, '{"format":"optrel-baseline","format_version":1,"number":1,"tiers":[{"id":"s","scope":"studio","pins":{"exposure":"0.5"}}]}'))",
         R"(INSERT INTO baselines VALUES (0, '{"format":"optrel-baseline","format_version":1,"number":0,"tiers":[{"id":"s","scope":"studio","pins":{"exposure":"0.75"}}]}'))",
         "PRAGMA user_version = 1"})
        old.run(sql);
}

/// Name of the copy that an upgrade leaves.
std::string schema_copy(const std::string& number = "") {
    return fmt::format("store-before-schema-{}{}.sqlite", sqlite::migrations().size(), number);
}

}  // namespace

TEST_CASE("a store of the schema before is brought up to date, and nothing in it is lost", "[store]") {
    const TemporaryFolder folder;
    make_old_store(folder / "s");
    // Neither reading nor writing does it by itself, and what is there stays as it was.
    for (const Access access : {Access::read, Access::write, Access::begin}) {
        const std::string sentence = sentence_of([&] { Store store(folder / "s", access); });
        CHECK(is_one_sentence(sentence));
        CHECK(sentence.find("store upgrade") != std::string::npos);
        CHECK(Other(folder / "s").number("PRAGMA user_version") == 1);
    }
    CHECK_FALSE(fs::exists(folder / "s" / schema_copy()));
    Store store(folder / "s", Access::upgrade);
    REQUIRE(store.registry().bodies().size() == 1);
    CHECK(store.registry().bodies()[0].name == "Stand 1");
    CHECK(store.registry().bodies()[0].in_service);
    CHECK(store.registry().lenses()[0].contacts);
    REQUIRE(store.registry().models().size() == 1);
    CHECK(store.registry().models()[0].id == "Brimholt B2");
    CHECK(store.frames().all()[0].metadata.iso == 800);
    CHECK(store.registry().fleet()->body_of("/f/a.dng", store.frames().all()[0].metadata).id == "Brimholt B2/1");
    Revision draft = store.baselines().draft();
    REQUIRE(draft.tiers.size() == 1);
    CHECK(draft.tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.75);
    const Revision base = draft;
    draft.tiers[0].pins[Field::exposure] = Pin::constant({1, ""});
    store.baselines().edit_draft(base, draft);
    CHECK(Store(folder / "s").baselines().draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 1);
    CHECK(store.baselines().publish("Iva", "").number == 2);
    // What was there before stands beside it, as it was.
    Other copy(folder / "s", schema_copy());
    CHECK(copy.number("PRAGMA user_version") == 1);
    CHECK(copy.number("SELECT count(*) FROM bodies") == 1);
    CHECK(copy.number("SELECT count(*) FROM baselines") == 2);
}

TEST_CASE("six stations that bring a store up to date at once make one copy of it and lose nothing", "[store]") {
    const TemporaryFolder folder;
    make_old_store(folder / "s");
    std::vector<std::string> told(6);
    std::vector<std::thread> stations;
    for (std::string& sentence : told)
        stations.emplace_back([&] { sentence = sentence_of([&] { Store station(folder / "s", Access::upgrade); }); });
    for (std::thread& s : stations) s.join();
    for (const std::string& sentence : told) CHECK(sentence.empty());
    CHECK(Store(folder / "s").registry().bodies().size() == 1);
    CHECK(Other(folder / "s", schema_copy()).number("PRAGMA user_version") == 1);
    CHECK_FALSE(fs::exists(folder / "s" / schema_copy("-2")));
}

TEST_CASE("no store is begun among pictures of any kind that is indexed", "[store]") {
    for (const char* name : {"a.DNG", "a.nef", "a.cr3", "a.jpeg"}) {
        const TemporaryFolder folder;
        write_bytes(folder / name, "frame");
        CHECK(error_of([&] { Store store(folder.path(), Access::begin); }) == "input");
    }
}

TEST_CASE("a store on a network file system is refused, whatever its protocol", "[store]") {
    for (const long long magic : {0x6969LL, 0xff534d42LL, 0xfe534d42LL, 0x517bLL, 0x00c36400LL})
        CHECK(sqlite::is_network_file_system(magic));
    // As statfs gives it where its type is a signed 32-bit number.
    CHECK(sqlite::is_network_file_system(static_cast<std::int32_t>(0xff534d42u)));
    for (const long long magic : {0xef53LL, 0x01021994LL, 0x58465342LL, 0x9123683eLL})
        CHECK_FALSE(sqlite::is_network_file_system(magic));
}

TEST_CASE("a store of a newer version is refused and left alone", "[store]") {
    const TemporaryFolder folder;
    { Store store(folder / "s", Access::begin); }
    { Other(folder / "s").run("PRAGMA user_version = 99"); }
    const std::string sentence = sentence_of([&] { Store store(folder / "s", Access::begin); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("newer") != std::string::npos);
}

TEST_CASE("a locked store is told, and nothing is lost", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    put_draft(store, draft_with(0.5));
    {
        Other other(folder / "s");
        other.run("BEGIN EXCLUSIVE");
        const std::string sentence = sentence_of([&] { put_draft(store, draft_with(2)); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
        CHECK(sentence.find("locked") != std::string::npos);
        other.run("ROLLBACK");
    }
    CHECK(store.baselines().draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    put_draft(store, draft_with(2));
}

TEST_CASE("a file that is no store is refused and left alone", "[store]") {
    const TemporaryFolder folder;
    fs::create_directory(folder / "s");
    const std::string bytes = random_bytes(8192, 6);
    write_bytes(folder / "s" / "store.sqlite", bytes);
    CHECK(error_of([&] { Store store(folder / "s", Access::begin); }) == "store 26");
    CHECK(read_file(folder / "s" / "store.sqlite") == bytes);
}

TEST_CASE("a folder that cannot be made is told", "[store]") {
    const TemporaryFolder folder;
    write_bytes(folder / "file", "x");
    CHECK(error_of([&] { Store store(folder / "file" / "s", Access::begin); }) == "store");
    CHECK(error_of([&] { Store store(folder / "file", Access::begin); }) == "store");
}

TEST_CASE("a read-only store is told", "[store]") {
    const TemporaryFolder folder;
    { Store store(folder / "s", Access::begin); }
    // Somebody who may look but not write: another user when the tests run as root, this one without the right
    // otherwise.
    const fs::perms look =
        fs::perms::owner_read | fs::perms::owner_exec | fs::perms::others_read | fs::perms::others_exec;
    fs::permissions(folder.path(), look | fs::perms::owner_write);
    fs::permissions(folder / "s", look);
    fs::permissions(folder / "s" / "store.sqlite", fs::perms::owner_read | fs::perms::others_read);
    const pid_t child = fork();
    REQUIRE(child >= 0);
    if (child == 0) {
        if (geteuid() == 0 && (setgid(65534) != 0 || setuid(65534) != 0)) _exit(3);
        const std::string sentence = sentence_of([&] {
            Store store(folder / "s", Access::begin);
            put_draft(store, draft_with(1));
        });
        _exit(is_one_sentence(sentence) ? 0 : 1);
    }
    int status = 0;
    waitpid(child, &status, 0);
    CHECK(WEXITSTATUS(status) == 0);
    fs::permissions(folder / "s", fs::perms::owner_all);
    fs::permissions(folder / "s" / "store.sqlite", fs::perms::owner_read | fs::perms::owner_write);
    Store store(folder / "s", Access::begin);
    CHECK(store.baselines().draft().tiers.empty());
}

TEST_CASE("a program that is killed while writing leaves a usable store", "[store]") {
    const TemporaryFolder folder;
    for (int round = 0; round < 5; ++round) {
        const pid_t child = fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            Store store(folder / "s", Access::begin);
            for (int i = 0;; ++i) put_draft(store, draft_with((i % 100) / 100.0));
        }
        usleep(60000 + 20000 * round);
        kill(child, SIGKILL);
        waitpid(child, nullptr, 0);
        Store store(folder / "s", Access::begin);
        CHECK(store.baselines().draft().tiers.size() <= 1);
    }
}

TEST_CASE("a store that cannot be written can be read, with what was committed last", "[store]") {
    const TemporaryFolder folder;
    {
        Store store(folder / "s", Access::begin);
        put_draft(store, draft_with(0.5));
    }
    // As a read-only medium shows it. Root may write anywhere, so an immutable copy stands in: without the rights to
    // make files beside it.
    fs::copy(folder / "s", folder / "frozen", fs::copy_options::recursive);
    fs::permissions(folder / "frozen" / "store.sqlite", fs::perms::owner_read);
    fs::permissions(folder / "frozen", fs::perms::owner_read | fs::perms::owner_exec);
    {
        Store store(folder / "frozen", Access::read);
        CHECK(store.baselines().draft().tiers.size() == 1);
        if (geteuid() != 0) CHECK_FALSE(store.writable());
        if (geteuid() != 0) CHECK(error_of([&] { put_draft(store, draft_with(2)); }) == "store 8");
    }
    if (geteuid() != 0) CHECK(error_of([&] { Store store(folder / "frozen", Access::write); }) == "store 8");
    fs::permissions(folder / "frozen", fs::perms::owner_all);
}

TEST_CASE("a store is used by the thread that opened it, and says so to others", "[store][threads]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    std::string sentence;
    std::thread other([&] { sentence = sentence_of([&] { store.baselines().draft(); }); });
    other.join();
    CHECK(is_one_sentence(sentence));
    CHECK_NOTHROW(store.baselines().draft());
}

TEST_CASE("what was written is there for another connection, and after the first is gone", "[store]") {
    const TemporaryFolder folder;
    {
        Store one(folder / "s", Access::begin), two(folder / "s");
        put_draft(one, draft_with(0.5));
        CHECK(two.baselines().draft().tiers.size() == 1);
        two.baselines().publish("Iva", "");
        CHECK(one.baselines().current().number == 1);
    }
    CHECK(Store(folder / "s", Access::read).baselines().current().number == 1);
}

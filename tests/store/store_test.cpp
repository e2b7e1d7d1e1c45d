// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/store.h"

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
#include "store/sqlite/sqlite_engine.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

FrameRecord record(const char* name, const char* serial) {
    FrameRecord f;
    f.path = std::string("/frames/") + name;
    f.metadata.maker = "Brimholt";
    f.metadata.model = "Brimholt B2";
    f.metadata.body_serial = serial;
    f.metadata.lens = "Lumenfold 35mm f/2.8";
    f.metadata.lens_serial = "LF1";
    f.metadata.iso = 800;
    f.metadata.focal_mm = 35;
    f.metadata.width = 2464;
    f.metadata.height = 1640;
    f.metadata.pitch_um = 9.4;
    f.size = 123;
    f.modified = 456;
    return f;
}

Profile profile(const char* id, const char* serial = "LF1") {
    Profile p;
    p.id = id;
    p.name = p.lens = "Lumenfold 35mm f/2.8";
    p.lens_serial = serial;
    p.camera = "Brimholt B2";
    p.geometry = {2464, 1640, 9.4};
    ProfileNode n;
    n.focal_mm = 35;
    p.nodes = {n};
    return p;
}

Revision draft_with(double exposure) {
    Revision r;
    Tier t;
    t.id = t.name = "studio";
    t.pins[Field::exposure] = Pin::constant({exposure, ""});
    r.tiers = {t};
    return r;
}

/// Runs SQL on a store's file, as another program would.
class Other {
public:
    explicit Other(const fs::path& folder, const char* file = "store.sqlite") {
        db_ = QSqlDatabase::addDatabase("QSQLITE", "other");
        db_.setDatabaseName(QString::fromStdString((folder / file).string()));
        REQUIRE(db_.open());
    }
    ~Other() {
        db_.close();
        db_ = QSqlDatabase();
        QSqlDatabase::removeDatabase("other");
    }
    void run(const char* sql) {
        QSqlQuery q(db_);
        REQUIRE(q.exec(sql));
    }
    int number(const char* sql) {
        QSqlQuery q(db_);
        REQUIRE(q.exec(sql));
        REQUIRE(q.next());
        return q.value(0).toInt();
    }

private:
    QSqlDatabase db_;
};

}  // namespace

TEST_CASE("frames come back as they were put, and register their bodies and lenses", "[store]") {
    const TemporaryFolder folder;
    {
        Store store(folder / "s", Access::begin);
        store.frames().put({record("a.dng", "1"), record("b.dng", "2"), record("c.dng", "")}, true);
    }
    Store store(folder / "s", Access::begin);
    const auto frames = store.frames().all();
    REQUIRE(frames.size() == 3);
    CHECK(frames[0].metadata.iso == 800);
    CHECK(frames[0].metadata.pitch_um == 9.4);
    CHECK(frames[0].modified == 456);
    CHECK(store.frames().find("/frames/b.dng"));
    CHECK_FALSE(store.frames().find("/frames/z.dng"));
    CHECK(store.registry().bodies().size() == 2);
    CHECK(store.registry().lenses().size() == 1);
    FrameRecord again = record("a.dng", "1");
    again.metadata.iso = 100;
    store.frames().put({again});
    CHECK(store.frames().all().size() == 3);
    CHECK(store.frames().find("/frames/a.dng")->metadata.iso == 100);
}

TEST_CASE("names and tags survive new frames, and every edit has an author and a way back", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    store.frames().put({record("a.dng", "1")}, true);
    const Body before = store.registry().bodies()[0];
    Body after = before;
    after.name = "Stand 1; DROP TABLE bodies; --'\"";
    after.room = "East";
    FleetEdit edit;
    edit.what = "name a body";
    edit.bodies.push_back({before, after});
    store.registry().edit(edit, "Iva");
    store.frames().put({record("b.dng", "1")}, true);
    CHECK(store.registry().bodies() == std::vector<Body>{after});
    CHECK(store.registry().models().size() == 1);
    const auto history = store.registry().history("body", before.id);
    REQUIRE(history.size() == 1);
    CHECK(history[0].author == "Iva");
    CHECK(history[0].what == "name a body");
    CHECK(history[0].after.find("East") != std::string::npos);
    store.registry().edit(edit.reversed(), "Iva");
    CHECK(store.registry().bodies() == std::vector<Body>{before});
    CHECK(store.registry().history().size() == 2);
}

TEST_CASE("new frames wait to be claimed unless they are to be registered", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    FrameRecord r = record("a.dng", "1");
    r.metadata.other_serials = {"00a7", "77"};
    r.metadata.recorded_sharpness = 2;
    r.metadata.recorded_rendering = true;
    r.metadata.filter = "GBRG";
    store.frames().put({r});
    CHECK(store.registry().bodies().empty());
    const Metadata back = store.frames().all()[0].metadata;
    CHECK(back.other_serials == r.metadata.other_serials);
    CHECK(back.recorded_sharpness == 2);
    CHECK(back.recorded_contrast == -1);
    CHECK(back.recorded_rendering);
    CHECK(back.filter == "GBRG");
}

TEST_CASE("two stations: the later one is told, and nothing is lost", "[store]") {
    const TemporaryFolder folder;
    Store one(folder / "s", Access::begin), two(folder / "s");
    one.frames().put({record("a.dng", "1")}, true);
    const Body body = two.registry().bodies()[0];
    const auto seen = two.stamps();
    Body first = body, second = body;
    first.name = "East stand";
    second.room = "West";
    FleetEdit a, b;
    a.bodies.push_back({body, first});
    b.bodies.push_back({body, second});
    one.registry().edit(a, "Iva");
    CHECK(two.stamps() != seen);
    CHECK(is_one_sentence(sentence_of([&] { two.registry().edit(b, "Jon"); })));
    CHECK(two.registry().bodies()[0] == first);

    // Edits of the draft go together where they can.
    const Revision base_one = one.baselines().draft(), base_two = two.baselines().draft();
    const auto with_pin = [](Revision r, const char* id, double value) {
        if (!r.tier(id)) {
            Tier t;
            t.id = t.name = id;
            r.tiers.push_back(t);
        }
        r.tier(id)->pins[Field::exposure] = Pin::constant({value, ""});
        return r;
    };
    CHECK(one.baselines().edit_draft(base_one, with_pin(base_one, "a", 1)).refused.empty());
    const MergedDrafts merged = two.baselines().edit_draft(base_two, with_pin(base_two, "b", 2));
    CHECK(merged.refused.empty());
    CHECK(merged.draft.tiers.size() == 2);
    CHECK(one.baselines().draft().tiers.size() == 2);
    const Revision one_now = one.baselines().draft(), two_now = two.baselines().draft();
    CHECK(one.baselines().edit_draft(one_now, with_pin(one_now, "a", 3)).refused.empty());
    const MergedDrafts clash = two.baselines().edit_draft(two_now, with_pin(two_now, "a", 4));
    REQUIRE(clash.refused.size() == 1);
    CHECK(is_one_sentence(clash.refused[0]));
    CHECK(two.baselines().draft().tier("a")->pins[Field::exposure].knots[0].second.number == 3);
    CHECK(is_one_sentence(sentence_of([&] { one.baselines().publish("Iva", "", &one_now); })));
}

TEST_CASE("a number stands in the register once", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    store.frames().put({record("a.dng", "1"), record("b.dng", "2")}, true);
    Body two = store.registry().bodies()[1], wrong = two;
    wrong.serial = "1";
    FleetEdit edit;
    edit.bodies.push_back({two, wrong});
    CHECK(is_one_sentence(sentence_of([&] { store.registry().edit(edit, "Iva"); })));
    CHECK(store.registry().bodies()[1] == two);
    CHECK(store.registry().history().empty());
}

TEST_CASE("returning to an earlier revision makes a new one, and keeps an unpublished draft", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    const auto publish = [&](double value) {
        Revision r;
        Tier t;
        t.id = t.name = "studio";
        t.pins[Field::exposure] = Pin::constant({value, ""});
        r.tiers = {t};
        put_draft(store, r);
        return store.baselines().publish("Iva", "note");
    };
    publish(1);
    publish(2);
    const Revision back = store.baselines().return_to(1, "Iva", "").revision;
    CHECK(back.number == 3);
    CHECK(difference(*store.baselines().revision(1), store.baselines().current()).empty());
    CHECK(difference(store.baselines().current(), store.baselines().draft()).empty());
    Revision edited = store.baselines().draft();
    edited.tiers[0].pins[Field::exposure] = Pin::constant({5, ""});
    put_draft(store, edited);
    store.baselines().return_to(2, "Iva", "");
    CHECK(store.baselines().draft().tiers[0].pins[Field::exposure].knots[0].second.number == 5);
    CHECK(is_one_sentence(sentence_of([&] { store.baselines().return_to(77, "Iva", ""); })));
}

TEST_CASE("what the register adds to a start is part of the draft and stays in a revision", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    store.frames().put({record("a.dng", "1")}, true);
    ModelEntry model = store.registry().models()[0], adding = model;
    adding.recorded_adds = R"({"luminance_noise":{"ramp":[{"iso":100,"value":"0"},{"iso":6400,"value":"40"}]}})";
    FleetEdit edit;
    edit.models.push_back({model, adding});
    store.registry().edit(edit, "Iva");
    CHECK(store.baselines().draft().recorded_adds.at(model.id).count(Field::luminance_noise));
    store.baselines().publish("Iva", "");
    store.registry().edit(edit.reversed(), "Iva");
    CHECK(store.baselines().draft().recorded_adds.empty());
    CHECK(store.baselines().current().recorded_adds.size() == 1);
    adding.recorded_adds = "{\"glow\":\"1\"}";
    FleetEdit bad;
    bad.models.push_back({model, adding});
    CHECK(is_one_sentence(sentence_of([&] { store.registry().edit(bad, "Iva"); })));
}

TEST_CASE("published profiles get the next version and never change", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    CHECK(store.profiles().publish(profile("a")).version == 1);
    const Profile second = store.profiles().publish(profile("b"));
    CHECK(second.version == 2);
    CHECK(second.id == "a");
    CHECK(store.profiles().publish(profile("c", "LF2")).version == 1);
    CHECK(store.profiles().newest().size() == 2);
    CHECK(store.profiles().all_versions().size() == 3);
    for (const Profile& p : store.profiles().newest())
        if (p.id == "a") CHECK(p.version == 2);
}

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

}  // namespace

TEST_CASE("a store of the schema before is brought up to date, and nothing in it is lost", "[store]") {
    const TemporaryFolder folder;
    make_old_store(folder / "s");
    Store store(folder / "s", Access::begin);
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
    Other copy(folder / "s", "store-before-schema-3.sqlite");
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
        stations.emplace_back([&] { sentence = sentence_of([&] { Store station(folder / "s", Access::write); }); });
    for (std::thread& s : stations) s.join();
    for (const std::string& sentence : told) CHECK(sentence.empty());
    CHECK(Store(folder / "s").registry().bodies().size() == 1);
    CHECK(Other(folder / "s", "store-before-schema-3.sqlite").number("PRAGMA user_version") == 1);
    CHECK_FALSE(fs::exists(folder / "s/store-before-schema-3-2.sqlite"));
}

TEST_CASE("no store is begun among pictures of any kind that is indexed", "[store]") {
    for (const char* name : {"a.DNG", "a.nef", "a.cr3", "a.jpeg"}) {
        const TemporaryFolder folder;
        write_bytes(folder / name, "frame");
        CHECK(is_one_sentence(sentence_of([&] { Store store(folder.path(), Access::begin); })));
    }
}

TEST_CASE("several calls on a store are one when they are joined", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    {
        Transaction all(store.engine());
        store.profiles().publish(profile("a"));
        store.runs().put({0, "run", "checker:15x10:30", "/f", {}});
    }
    CHECK(store.profiles().newest().empty());
    CHECK(store.runs().all().empty());
    {
        Transaction all(store.engine());
        store.profiles().publish(profile("a"));
        store.runs().put({0, "run", "checker:15x10:30", "/f", {}});
        all.commit();
    }
    CHECK(store.profiles().newest().size() == 1);
    CHECK(store.runs().all().size() == 1);
    // When one of them is given up, nothing of the others is kept, and it is told.
    Transaction all(store.engine());
    store.profiles().publish(profile("c", "LF2"));
    try {
        store.baselines().change_draft([](Revision&) { throw input_error("No."); });
    } catch (const Error&) {
    }
    CHECK(is_one_sentence(sentence_of([&] { all.commit(); })));
}

TEST_CASE("a store on a network file system is refused, whatever its protocol", "[store]") {
    for (const long long magic : {0x6969LL, 0xff534d42LL, 0xfe534d42LL, 0x517bLL, 0x00c36400LL})
        CHECK(sqlite::is_network_file_system(magic));
    // As statfs gives it where its type is a signed 32-bit number.
    CHECK(sqlite::is_network_file_system(static_cast<std::int32_t>(0xff534d42u)));
    for (const long long magic : {0xef53LL, 0x01021994LL, 0x58465342LL, 0x9123683eLL})
        CHECK_FALSE(sqlite::is_network_file_system(magic));
}

TEST_CASE("a draft is kept, published, and edited on", "[store]") {
    const TemporaryFolder folder;
    {
        Store store(folder / "s", Access::begin);
        CHECK(store.baselines().current().number == 0);
        put_draft(store, draft_with(0.5));
    }
    Store store(folder / "s", Access::begin);
    CHECK(store.baselines().draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    const Revision one = store.baselines().publish("Iva", "first");
    CHECK(one.number == 1);
    CHECK(one.author == "Iva");
    CHECK_FALSE(one.time.empty());
    put_draft(store, draft_with(1));
    CHECK(store.baselines().current().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    CHECK(store.baselines().publish("Iva", "second").number == 2);
    CHECK(store.baselines().revisions().size() == 2);
    CHECK(store.baselines().revisions()[0].number == 2);
}

TEST_CASE("a draft with a conflict is not published", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    Revision r = draft_with(1);
    r.tiers.push_back(r.tiers[0]);
    r.tiers[1].id = r.tiers[1].name = "again";
    put_draft(store, r);
    const std::string sentence = sentence_of([&] { store.baselines().publish("x", ""); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("again") != std::string::npos);
    CHECK(store.baselines().current().number == 0);
    CHECK(store.baselines().draft().tiers.size() == 2);
}

TEST_CASE("runs keep their frames", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    RunRecord run;
    run.name = "one";
    run.chart = "checker:15x10:30";
    RunFrame f;
    f.path = "/a/CH1.dng";
    f.problem = "Nothing there.";
    run.frames = {f, f};
    run.id = store.runs().put(run);
    run.frames[1].dropped = true;
    CHECK(store.runs().put(run) == run.id);
    REQUIRE(store.runs().all().size() == 1);
    CHECK(store.runs().all()[0].frames.size() == 2);
    CHECK(store.runs().all()[0].frames[1].dropped);
    CHECK(store.runs().all()[0].frames[0].problem == "Nothing there.");
    store.runs().remove(run.id);
    CHECK(store.runs().all().empty());
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
    CHECK(is_one_sentence(sentence_of([&] { Store store(folder / "s", Access::begin); })));
    CHECK(read_file(folder / "s" / "store.sqlite") == bytes);
}

TEST_CASE("a folder that cannot be made is told", "[store]") {
    const TemporaryFolder folder;
    write_bytes(folder / "file", "x");
    CHECK(is_one_sentence(sentence_of([&] { Store store(folder / "file" / "s", Access::begin); })));
    CHECK(is_one_sentence(sentence_of([&] { Store store(folder / "file", Access::begin); })));
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

TEST_CASE("one frame of a run is kept by itself", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s", Access::begin);
    RunRecord run;
    run.name = "r";
    for (const char* name : {"a", "b"}) {
        RunFrame f;
        f.path = name;
        run.frames.push_back(f);
    }
    const int id = store.runs().put(run);
    RunFrame measured = run.frames[1];
    measured.hash = "h";
    measured.dropped_corners = {{1, 2}, {3, 4}};
    store.runs().put_frame(id, 1, measured);
    const RunRecord back = store.runs().all()[0];
    CHECK_FALSE(back.frames[0].measured());
    CHECK(back.frames[1].hash == "h");
    CHECK(back.frames[1].dropped_corners == measured.dropped_corners);
    // A run that is gone, or a place that it never had, is nothing to be saved to.
    store.runs().put_frame(id, 7, measured);
    store.runs().remove(id);
    store.runs().put_frame(id, 0, measured);
    CHECK(store.runs().all().empty());
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
        if (geteuid() != 0) CHECK(is_one_sentence(sentence_of([&] { put_draft(store, draft_with(2)); })));
    }
    if (geteuid() != 0) CHECK(is_one_sentence(sentence_of([&] { Store store(folder / "frozen", Access::write); })));
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

TEST_CASE("an edit names the draft that it replaces: what another wrote meanwhile is merged", "[store]") {
    const TemporaryFolder folder;
    Store one(folder / "s", Access::begin), two(folder / "s");
    put_draft(one, draft_with(0.5));
    const Revision base = one.baselines().draft();
    Revision theirs = two.baselines().draft(), mine = base;
    theirs.tiers[0].pins[Field::tint] = Pin::constant({4, ""});
    two.baselines().edit_draft(two.baselines().draft(), theirs);
    one.baselines().draft();  // having looked at the draft since does not make the base newer
    mine.tiers[0].pins[Field::contrast] = Pin::constant({9, ""});
    const MergedDrafts merged = one.baselines().edit_draft(base, mine);
    CHECK(merged.refused.empty());
    CHECK(merged.draft.tiers[0].pins.count(Field::tint) == 1);
    CHECK(merged.draft.tiers[0].pins.count(Field::contrast) == 1);
    CHECK(two.baselines().draft().tiers[0].pins.size() == 3);
}

#include "store/store.h"

#include <sys/wait.h>
#include <unistd.h>

#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QVariant>
#include <catch2/catch.hpp>
#include <csignal>

#include "base/files.h"
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
    explicit Other(const fs::path& folder) {
        db_ = QSqlDatabase::addDatabase("QSQLITE", "other");
        db_.setDatabaseName(QString::fromStdString((folder / "store.sqlite").string()));
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

private:
    QSqlDatabase db_;
};

}  // namespace

TEST_CASE("frames come back as they were put, and register their bodies and lenses", "[store]") {
    const TemporaryFolder folder;
    {
        Store store(folder / "s");
        store.put_frames({record("a.dng", "1"), record("b.dng", "2"), record("c.dng", "")});
    }
    Store store(folder / "s");
    const auto frames = store.frames();
    REQUIRE(frames.size() == 3);
    CHECK(frames[0].metadata.iso == 800);
    CHECK(frames[0].metadata.pitch_um == 9.4);
    CHECK(frames[0].modified == 456);
    CHECK(store.frame("/frames/b.dng"));
    CHECK_FALSE(store.frame("/frames/z.dng"));
    CHECK(store.bodies().size() == 2);
    CHECK(store.lenses().size() == 1);
    FrameRecord again = record("a.dng", "1");
    again.metadata.iso = 100;
    store.put_frames({again});
    CHECK(store.frames().size() == 3);
    CHECK(store.frame("/frames/a.dng")->metadata.iso == 100);
}

TEST_CASE("names and tags survive new frames", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s");
    store.put_frames({record("a.dng", "1")});
    Body body = store.bodies()[0];
    body.name = "Stand 1; DROP TABLE bodies; --'\"";
    body.asset_tag = "HB-1";
    store.put_body(body);
    LensEntry lens = store.lenses()[0];
    lens.name = "the good one";
    store.put_lens(lens);
    store.put_frames({record("b.dng", "1")});
    CHECK(store.bodies()[0].name == body.name);
    CHECK(store.bodies()[0].asset_tag == "HB-1");
    CHECK(store.lenses()[0].name == "the good one");
}

TEST_CASE("published profiles get the next version and never change", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s");
    CHECK(store.publish_profile(profile("a")).version == 1);
    const Profile second = store.publish_profile(profile("b"));
    CHECK(second.version == 2);
    CHECK(second.id == "a");
    CHECK(store.publish_profile(profile("c", "LF2")).version == 1);
    CHECK(store.profiles().size() == 2);
    CHECK(store.profiles(true).size() == 3);
    for (const Profile& p : store.profiles())
        if (p.id == "a") CHECK(p.version == 2);
}

TEST_CASE("a draft is kept, published, and edited on", "[store]") {
    const TemporaryFolder folder;
    {
        Store store(folder / "s");
        CHECK(store.current_revision().number == 0);
        store.put_draft(draft_with(0.5));
    }
    Store store(folder / "s");
    CHECK(store.draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    const Revision one = store.publish_draft("Iva", "first");
    CHECK(one.number == 1);
    CHECK(one.author == "Iva");
    CHECK_FALSE(one.time.empty());
    store.put_draft(draft_with(1));
    CHECK(store.current_revision().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    CHECK(store.publish_draft("Iva", "second").number == 2);
    CHECK(store.revisions().size() == 2);
    CHECK(store.revisions()[0].number == 2);
}

TEST_CASE("a draft with a conflict is not published", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s");
    Revision r = draft_with(1);
    r.tiers.push_back(r.tiers[0]);
    r.tiers[1].id = r.tiers[1].name = "again";
    store.put_draft(r);
    const std::string sentence = sentence_of([&] { store.publish_draft("x", ""); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("again") != std::string::npos);
    CHECK(store.current_revision().number == 0);
    CHECK(store.draft().tiers.size() == 2);
}

TEST_CASE("runs keep their frames", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s");
    RunRecord run;
    run.name = "one";
    run.chart = "checker:15x10:30";
    RunFrame f;
    f.path = "/a/CH1.dng";
    f.problem = "Nothing there.";
    run.frames = {f, f};
    run.id = store.put_run(run);
    run.frames[1].dropped = true;
    CHECK(store.put_run(run) == run.id);
    REQUIRE(store.runs().size() == 1);
    CHECK(store.runs()[0].frames.size() == 2);
    CHECK(store.runs()[0].frames[1].dropped);
    CHECK(store.runs()[0].frames[0].problem == "Nothing there.");
    store.delete_run(run.id);
    CHECK(store.runs().empty());
}

TEST_CASE("a store of a newer version is refused and left alone", "[store]") {
    const TemporaryFolder folder;
    { Store store(folder / "s"); }
    { Other(folder / "s").run("PRAGMA user_version = 99"); }
    const std::string sentence = sentence_of([&] { Store store(folder / "s"); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("newer") != std::string::npos);
}

TEST_CASE("a locked store is told, and nothing is lost", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s");
    store.put_draft(draft_with(0.5));
    {
        Other other(folder / "s");
        other.run("BEGIN EXCLUSIVE");
        const std::string sentence = sentence_of([&] { store.put_draft(draft_with(2)); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
        CHECK(sentence.find("locked") != std::string::npos);
        other.run("ROLLBACK");
    }
    CHECK(store.draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    store.put_draft(draft_with(2));
}

TEST_CASE("a file that is no store is refused and left alone", "[store]") {
    const TemporaryFolder folder;
    fs::create_directory(folder / "s");
    const std::string bytes = random_bytes(8192, 6);
    write_bytes(folder / "s" / "store.sqlite", bytes);
    CHECK(is_one_sentence(sentence_of([&] { Store store(folder / "s"); })));
    CHECK(read_file(folder / "s" / "store.sqlite") == bytes);
}

TEST_CASE("a folder that cannot be made is told", "[store]") {
    const TemporaryFolder folder;
    write_bytes(folder / "file", "x");
    CHECK(is_one_sentence(sentence_of([&] { Store store(folder / "file" / "s"); })));
    CHECK(is_one_sentence(sentence_of([&] { Store store(folder / "file"); })));
}

TEST_CASE("a read-only store is told", "[store]") {
    const TemporaryFolder folder;
    { Store store(folder / "s"); }
    // Somebody who may look but not write: another user when the tests run as root, this one without the right otherwise.
    const fs::perms look = fs::perms::owner_read | fs::perms::owner_exec | fs::perms::others_read | fs::perms::others_exec;
    fs::permissions(folder.path(), look | fs::perms::owner_write);
    fs::permissions(folder / "s", look);
    fs::permissions(folder / "s" / "store.sqlite", fs::perms::owner_read | fs::perms::others_read);
    const pid_t child = fork();
    REQUIRE(child >= 0);
    if (child == 0) {
        if (geteuid() == 0 && (setgid(65534) != 0 || setuid(65534) != 0)) _exit(3);
        const std::string sentence = sentence_of([&] {
            Store store(folder / "s");
            store.put_draft(draft_with(1));
        });
        _exit(is_one_sentence(sentence) ? 0 : 1);
    }
    int status = 0;
    waitpid(child, &status, 0);
    CHECK(WEXITSTATUS(status) == 0);
    fs::permissions(folder / "s", fs::perms::owner_all);
    fs::permissions(folder / "s" / "store.sqlite", fs::perms::owner_read | fs::perms::owner_write);
    Store store(folder / "s");
    CHECK(store.draft().tiers.empty());
}

TEST_CASE("a program that is killed while writing leaves a usable store", "[store]") {
    const TemporaryFolder folder;
    for (int round = 0; round < 5; ++round) {
        const pid_t child = fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            Store store(folder / "s");
            for (int i = 0;; ++i) store.put_draft(draft_with((i % 100) / 100.0));
        }
        usleep(60000 + 20000 * round);
        kill(child, SIGKILL);
        waitpid(child, nullptr, 0);
        Store store(folder / "s");
        CHECK(store.draft().tiers.size() <= 1);
    }
}

TEST_CASE("one frame of a run is kept by itself", "[store]") {
    const TemporaryFolder folder;
    Store store(folder / "s");
    RunRecord run;
    run.name = "r";
    for (const char* name : {"a", "b"}) {
        RunFrame f;
        f.path = name;
        run.frames.push_back(f);
    }
    const int id = store.put_run(run);
    RunFrame measured = run.frames[1];
    measured.hash = "h";
    measured.dropped_corners = {{1, 2}, {3, 4}};
    store.put_run_frame(id, 1, measured);
    const RunRecord back = store.runs()[0];
    CHECK_FALSE(back.frames[0].measured());
    CHECK(back.frames[1].hash == "h");
    CHECK(back.frames[1].dropped_corners == measured.dropped_corners);
    // A run that is gone, or a place that it never had, is nothing to be saved to.
    store.put_run_frame(id, 7, measured);
    store.delete_run(id);
    store.put_run_frame(id, 0, measured);
    CHECK(store.runs().empty());
}

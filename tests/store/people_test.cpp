// SPDX-License-Identifier: GPL-3.0-or-later
// People of a store on a server: what each may do is the server's to say, whatever a client tries.
#include "store/people.h"

#include <fmt/format.h>
#include <unistd.h>

#include <QSqlQuery>
#include <catch2/catch.hpp>
#include <chrono>
#include <thread>

#include "base/station.h"
#include "store/engine.h"
#include "store/proposals.h"
#include "stored_things.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct Studio {
    StorePlace place{"server"};
    Store keeper{place.address(), Access::begin};
    std::vector<std::string> names;

    /// A login of this test's own: they are the whole server's.
    std::string let_in(Role role) {
        names.push_back("p" + place.database() + std::to_string(names.size()));
        keeper.people()->put({names.back(), role});
        return names.back();
    }
    std::string address_of(const std::string& name) const {
        const std::string server = test_server();
        return "postgresql://" + name + server.substr(server.find('@')) + "/" + place.database();
    }
    ~Studio() {
        for (const std::string& name : names) on_test_server("postgres", "DROP ROLE IF EXISTS " + name);
    }
};

/// SHA-256 of no bytes: the hash of a plan without pieces.
const std::string no_plan = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";

/// Whether an edit is refused, as error_of() tells it; 42501 is what a role may not do.
bool told(const std::function<void()>& edit, const std::string& expected = "store 42501") {
    const std::string error = error_of(edit);
    if (error != expected) UNSCOPED_INFO("refused with: " << error);
    return error == expected;
}

}  // namespace

TEST_CASE("roles are named, and a mistyped one is refused", "[store][people]") {
    CHECK(role_named("Works") == Role::works);
    CHECK(to_string(Role::approves) == "approves");
    CHECK(told([] { role_named("work"); }, "input"));
    CHECK(told([] { role_named(""); }, "input"));
    const StorePlace folder("folder");
    CHECK_FALSE(Store(folder.address(), Access::begin).people());
}

TEST_CASE("who looks sees all and changes nothing", "[store][people][server]") {
    Studio s;
    put_draft(s.keeper, draft_with(0.5));
    s.keeper.baselines().publish("Iva", "");
    Store looker(s.address_of(s.let_in(Role::looks)));
    CHECK_FALSE(looker.writable());
    CHECK(looker.people()->mine() == Role::looks);
    CHECK(looker.baselines().current().number == 1);
    CHECK(looker.people()->all().size() == 1);
    CHECK(told([&] { put_draft(looker, draft_with(1)); }));
    CHECK(told([&] { looker.frames().put({record("a.dng", "1")}, true); }));
    CHECK(told([&] { looker.selections().put("mine", "{}"); }));
    CHECK(told([&] { looker.history().append({"", "Iva", "tier", "studio", "edit", "", ""}); }));
    CHECK(told([&] { looker.engine().run("DELETE FROM frames"); }));
    CHECK(s.keeper.baselines().draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
}

TEST_CASE("who works changes the studio, but nothing that was published or told", "[store][people][server]") {
    Studio s;
    const std::string name = s.let_in(Role::works);
    Store worker(s.address_of(name));
    CHECK(worker.writable());
    worker.frames().put({record("a.dng", "1")}, true);
    put_draft(worker, draft_with(0.5));
    worker.baselines().publish("Iva", "");
    worker.profiles().publish(profile("a"));
    worker.runs().put({0, "run", "checker:15x10:30", "/f", {}});
    RolloutRecord r;
    r.author = name;
    worker.rollouts().begin(r, {});
    worker.rollouts().set_status(1, RolloutStatus::done);
    CHECK(worker.rollouts().lease({"/frames/a.dng"}, "A rollout"));
    for (const char* sql :
         {"UPDATE history SET author = 'x'", "DELETE FROM history", "TRUNCATE history", "DELETE FROM baselines",
          "UPDATE measurements SET document = 'x'", "DELETE FROM rollouts", "DELETE FROM rollout_pieces",
          "DROP TABLE frames", "ALTER TABLE history DISABLE TRIGGER ALL", "DELETE FROM arrivals",
          "INSERT INTO settings VALUES ('approve.revision', '')", "UPDATE about SET value = '0'"}) {
        INFO(sql);
        CHECK(told([&] { worker.engine().run(sql); }));
    }
    CHECK(told([&] { worker.settings().put("approve.revision", "1"); }));
    CHECK(told([&] { worker.people()->put({name, Role::keeps}); }));
    // Whatever a client says of itself, the history has the server's word: who, when, and in which order.
    worker.engine().run(
        "INSERT INTO history (id, time, author, kind, subject, what, before, after, login, seal) VALUES (1, "
        "'1999-01-01T00:00:00Z', 'Iva', 'tier', 'x', 'edit', '', '', 'keeper', 'forged')");
    const HistoryEntry e = worker.history().entries("tier", "x").at(0);
    CHECK(e.login == name);
    CHECK(e.time.substr(0, 4) != "1999");
    CHECK(e.id > 1);
    Progress progress;
    CHECK(s.keeper.history().audit({}, progress).problems.empty());
}

TEST_CASE("tables of somebody's own session change nothing in what the server guards", "[store][people][server]") {
    Studio s;
    s.keeper.proposals().need(ProposalKind::revision, 0);
    s.keeper.proposals().need(ProposalKind::rollout, 0);
    Store worker(s.address_of(s.let_in(Role::works)));
    const auto sql = [&](const std::string& statement) { worker.engine().run(statement); };
    // The right to make them is gone; it may still be given back by whose database it is, and must not matter then.
    CHECK(told([&] { sql("CREATE TEMP TABLE settings (name text, value text)"); }));
    on_test_server(s.place.database(), "GRANT TEMPORARY ON DATABASE " + s.place.database() + " TO PUBLIC");
    sql("CREATE TEMP TABLE settings (name text, value text)");
    sql("CREATE TEMP TABLE pg_class AS SELECT c.oid, r.oid AS relowner FROM pg_catalog.pg_class c, pg_catalog.pg_roles "
        "r WHERE r.rolname = session_user");
    sql("CREATE TEMP TABLE history (id bigint, seal text)");
    sql("CREATE TEMP TABLE proposals AS SELECT * FROM optrel.proposals");
    sql("SET search_path = pg_temp, optrel, pg_catalog");
    CHECK(told([&] { sql("INSERT INTO optrel.baselines VALUES (1, '{\"number\": 1, \"tiers\": []}')"); }));
    CHECK(told([&] {
        sql("INSERT INTO optrel.rollouts VALUES (1, 1, '', '', 5, '', '', '', 0, 'writing', '" + no_plan + "')");
    }));
    sql("INSERT INTO optrel.history (id, time, author, kind, subject, what, before, after, station, login, seal) "
        "VALUES "
        "(77, '1999-01-01T00:00:00Z', 'Iva', 'tier', 'x', 'edit', '', '', '', 'keeper', 'forged')");
    const HistoryEntry e = s.keeper.history().entries("tier", "x").at(0);
    CHECK(e.login == s.names[0]);
    CHECK(e.time.substr(0, 4) != "1999");
    Progress progress;
    CHECK(s.keeper.history().audit({}, progress).problems.empty());
    // Every function of the store says where it looks.
    QSqlQuery q = s.keeper.engine().run(
        "SELECT proname FROM pg_catalog.pg_proc p JOIN pg_catalog.pg_namespace n ON n.oid = p.pronamespace WHERE "
        "n.nspname = 'optrel' AND coalesce(array_to_string(proconfig, ','), '') NOT LIKE '%search_path=pg_catalog%'");
    CHECK_FALSE(q.next());
}

TEST_CASE("one approval is for one rollout, also when two begin at the same time", "[store][people][server]") {
    Studio s;
    s.keeper.proposals().need(ProposalKind::rollout, 0);
    const std::string name = s.let_in(Role::works);
    s.keeper.engine().run(
        "INSERT INTO proposals (time, author, station, login, kind, subject, document, note, state, judge, judged, "
        "remark, field) VALUES ('', 'x', '', 'x', 'rollout', '', '{\"revision\": 7, \"frames\": 5, \"plan_sha256\": "
        "\"" +
        no_plan +
        "\"}', '', 'approved', "
        "'y', '', '', '')");
    const auto begin = [](Store& as, int number) {
        as.engine().run(fmt::format("INSERT INTO rollouts VALUES ({}, 7, 'x', '', 5, '', '', '', 0, 'writing', '{}')",
                                    number, no_plan));
    };
    // A snapshot from before the first one would not show it.
    Store first(s.address_of(name)), old(s.address_of(name));
    old.engine().run("BEGIN ISOLATION LEVEL REPEATABLE READ");
    old.engine().run("SELECT count(*) FROM rollouts");
    CHECK(told([&] { begin(old, 9); }));
    old.engine().run("ROLLBACK");
    first.engine().run("BEGIN");
    begin(first, 1);
    bool refused = false;
    std::thread other([&] {
        Store second(s.address_of(name));
        refused = told([&] { begin(second, 2); });
    });
    std::this_thread::sleep_for(std::chrono::milliseconds(400));
    first.engine().run("COMMIT");
    other.join();
    CHECK(refused);
    CHECK(s.keeper.rollouts().list().size() == 1);
}

TEST_CASE("a withdrawn key stays withdrawn, whatever somebody does", "[store][people]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    const std::string key(64, 'a');
    store.measurers().put({key, "Shore", true}, "Iva");
    store.measurers().put({key, "Shore", false, "2026-02-03T10:00:00Z"}, "Iva");
    CHECK(told([&] { store.measurers().remove(key, "Iva"); }, "input"));
    CHECK(told([&] { store.measurers().put({key, "Shore", true}, "Iva"); }, "input"));
    REQUIRE(store.measurers().of(key));
    CHECK(store.measurers().of(key)->standing() == Standing::withdrawn);
}

TEST_CASE("the server itself keeps withdrawn keys", "[store][people][server]") {
    Studio s;
    const std::string key(64, 'a');
    s.keeper.measurers().put({key, "Shore", false, "2026-02-03T10:00:00Z"}, "Iva");
    Store approver(s.address_of(s.let_in(Role::approves)));
    for (const char* sql : {"DELETE FROM measurers", "UPDATE measurers SET withdrawn = ''",
                            "UPDATE measurers SET trusted = TRUE", "UPDATE measurers SET key = 'b'"}) {
        INFO(sql);
        CHECK(told([&] { approver.engine().run(sql); }));
    }
    approver.engine().run("UPDATE measurers SET name = 'Shore Museum'");
    CHECK(s.keeper.measurers().of(key)->name == "Shore Museum");
}

TEST_CASE("what was begun or said changes in its state alone", "[store][people][server]") {
    Studio s;
    s.keeper.proposals().need(ProposalKind::rollout, 3);
    const std::string name = s.let_in(Role::works), second = s.let_in(Role::approves);
    Store worker(s.address_of(name)), approver(s.address_of(second));
    const auto fails = [&](const std::string& statement) {
        INFO(statement);
        CHECK(told([&] { worker.engine().run(statement); }));
    };
    RolloutRecord small;
    small.author = name;
    worker.rollouts().begin(small, {});
    fails("UPDATE rollouts SET author = 'somebody else'");
    fails("UPDATE rollouts SET frames = 900");
    fails("UPDATE rollouts SET takes_back = 1");
    worker.rollouts().set_status(1, RolloutStatus::done);
    Remark remark;
    remark.kind = "tier";
    remark.subject = "studio";
    remark.words = "Too bright.";
    worker.proposals().remark(remark);
    fails("UPDATE remarks SET words = 'Fine.'");
    fails("UPDATE remarks SET login = 'keeper'");
    worker.engine().run("UPDATE remarks SET settled = TRUE");
    fails("UPDATE remarks SET settled = FALSE");
    fails("UPDATE rollouts SET status = 'writing'");  // it is done
    fails("UPDATE rollouts SET status = 'splendid'");
    // Nothing is added to a plan that was begun, and no plan is another than its hash says.
    fails("INSERT INTO rollout_pieces VALUES (1, 'data', 0, 'x')");
    fails("INSERT INTO rollouts VALUES (50, 7, '', '', 1, '', '', '', 0, 'writing', 'abc')");
    // Who it was is the server's to say.
    CHECK(s.keeper.rollouts().record(1).author == name);
    RolloutRecord as_another;
    as_another.author = "Iva";
    worker.rollouts().begin(as_another, {});
    CHECK(s.keeper.rollouts().record(2).author == name);
    // One approval is for one rollout, and taking back reaches no more than what is taken back.
    const auto begin = [](int number, int takes_back) {
        return fmt::format(
            "INSERT INTO rollouts VALUES ({}, 7, 'x', '1999-01-01T00:00:00Z', 5, '', '', '', {}, 'writing', '{}')",
            number, takes_back, no_plan);
    };
    fails(begin(12, 0));
    fails(begin(12, 1));  // rollout 1 had no frames
    fails(begin(12, 99));
    worker.engine().run(
        "INSERT INTO proposals (time, author, station, login, kind, subject, document, note, state, judge, judged, "
        "remark, field) VALUES ('', 'x', '', '', 'rollout', '', '{\"revision\": 7, \"frames\": 5, \"plan_sha256\": \"" +
        no_plan +
        "\"}', '', 'open', '', "
        "'', '', '')");
    fails(begin(12, 0));
    approver.engine().run("UPDATE proposals SET state = 'approved', judge = 'x', judged = '2999-01-01T00:00:00Z'");
    worker.engine().run(begin(12, 0));
    fails(begin(13, 0));
    worker.engine().run(begin(13, 12));
    CHECK(s.keeper.rollouts().record(12).time.substr(0, 2) == "20");
}

TEST_CASE("a database and its groups may have names that need quoting", "[store][people][server]") {
    const std::string server = test_server(), person = fmt::format("odd{}", ::getpid());
    const std::string in_address = fmt::format("Odd%22na.me{}", ::getpid()),
                      in_sql = fmt::format("Odd\"\"na.me{}", ::getpid());
    {
        Store keeper(server + "/" + in_address, Access::begin);
        keeper.people()->put({person, Role::works});
        CHECK(keeper.people()->all().size() == 1);
        Store worker(fmt::format("postgresql://{}{}/{}", person, server.substr(server.find('@')), in_address));
        CHECK(worker.writable());
        worker.selections().put("mine", "{}");
    }
    on_test_server("postgres", "DROP DATABASE \"" + in_sql + "\"");
    on_test_server("postgres", "DROP ROLE " + person);
    for (const char* role : {"looks", "works", "approves", "keeps"})
        on_test_server("postgres", fmt::format("DROP ROLE \"optrel_{}_{}\"", in_sql, role));
    CHECK(told([&] { Store store(server + "/odd%27name", Access::begin); }, "input"));
}

TEST_CASE("who keeps the studio settles things, gives roles and takes them", "[store][people][server]") {
    Studio s;
    const std::string name = s.let_in(Role::keeps);
    {
        Store second(s.address_of(name));
        second.settings().put("approve.revision", "1");
        CHECK(second.settings().get("approve.revision") == "1");
        CHECK(second.people()->mine() == Role::keeps);
        // A login that is there gets its role from any keeper.
        const std::string worker = s.let_in(Role::looks);
        second.people()->put({worker, Role::works});
        CHECK(Store(s.address_of(worker)).writable());
        second.people()->remove(worker);
        CHECK(told([&] { second.people()->put({worker, Role::keeps}); }));
    }
    s.keeper.people()->put({name, Role::approves});
    CHECK(s.keeper.people()->all() == std::vector<Person>{{name, Role::approves}});
    CHECK(Store(s.address_of(name)).people()->mine() == Role::approves);
    CHECK(told([&] { s.keeper.people()->remove("nobody"); }, "input"));
    for (const char* wrong : {"", "Iva", "i va", "\"; DROP ROLE keeper; --", "1iva"})
        CHECK(told([&] { s.keeper.people()->put({wrong, Role::looks}); }, "input"));
    s.keeper.people()->remove(name);
    CHECK(s.keeper.people()->all().empty());
    CHECK(told([&] { Store gone(s.address_of(name)); }));
    const auto history = s.keeper.history().entries("person", name);
    REQUIRE(history.size() == 3);
    CHECK(history[0].what == "take out");
    CHECK(history[1].before == "keeps");
}

TEST_CASE("the server refuses published rows whose document or number is wrong", "[store][people][server]") {
    Studio s;
    Store worker(s.address_of(s.let_in(Role::works)));
    const auto fails = [&](const std::string& values, const std::string& code) {
        INFO(values);
        CHECK(error_of([&] { worker.engine().run("INSERT INTO " + values); }) == "store " + code);
    };
    fails("measurements VALUES ('a', 1, '{', 'profile')", "22P02");
    fails("measurements VALUES ('a', 1, '[]', 'profile')", "22023");
    fails("measurements VALUES ('a', 1, '{\"id\": \"b\", \"version\": 1}', 'profile')", "22023");
    fails("measurements VALUES ('a', 2147483647, '{\"id\": \"a\", \"version\": 2147483647}', 'profile')", "22023");
    fails("baselines VALUES (2, '{\"number\": 2}')", "22023");
    fails("baselines VALUES (1, 'null')", "22023");
    fails("baselines VALUES (1, '')", "22P02");
}

TEST_CASE("the server refuses a revision in another's name, and what the history does not tell",
          "[store][people][server]") {
    Studio s;
    const std::string login = s.let_in(Role::works);
    Store worker(s.address_of(login));
    Engine& engine = worker.engine();
    const auto code = [&](const std::string& author, const std::string& time, const std::string& history) {
        return error_of([&] {
            Transaction transaction(engine, "");
            const std::string document = fmt::format(R"({{"number": 1, "author": "{}", "time": "{}"}})", author, time);
            engine.run("INSERT INTO baselines (number, document) VALUES (1, ?)", {text(document)});
            if (!history.empty())
                engine.record({"", "", "revision", "1", "publish: by hand", "",
                               history == "true" ? digest_words(document) : history});
            transaction.commit();
        });
    };
    const std::string now = engine.now();
    CHECK(code("iva", now, "true") == "store 42501");
    CHECK(code("", now, "true") == "store 42501");
    CHECK(code(login, "2020-01-01T00:00:00Z", "true") == "store 22023");
    CHECK(code(login, "yesterday", "true") == "store 22023");
    CHECK(code(login, now, "") == "store 23514");
    CHECK(code(login, now, "sha256 of something else") == "store 23514");
    CHECK(worker.baselines().current().number == 0);

    const std::string m = R"({"id": "a", "version": 1})";
    const auto insert_measurement = [&](bool told) {
        return error_of([&] {
            Transaction transaction(engine, "");
            engine.run("INSERT INTO measurements (kind, id, version, document) VALUES ('noise', 'a', 1, ?)", {text(m)});
            if (told) engine.record({"", "", "noise", "a", "publish version 1", "", digest_words(m)});
            transaction.commit();
        });
    };
    CHECK(insert_measurement(false) == "store 23514");
    CHECK(insert_measurement(true) == "none");
    CHECK(error_of([&] {
              engine.run(
                  "INSERT INTO measurement_events (time, author, measurement, version, what, reason) VALUES "
                  "('', '', 'a', 1, 'withdraw', 'by hand')");
          }) == "store 23514");

    // What the program publishes carries the login, whatever name it was given.
    put_draft(worker, draft_with(0.5));
    CHECK(worker.baselines().publish("iva", "first").author == login);
    CHECK(worker.baselines().current().author == login);
}

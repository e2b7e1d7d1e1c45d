// SPDX-License-Identifier: GPL-3.0-or-later
// What each role may do with each object of a store, tried by psql with the password of a login of its own, and
// answered by the server's code. That no object is left out is asked of the server's catalogue.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <map>
#include <set>
#include <sstream>

#include "base/files.h"
#include "kinds/measurement_kinds.h"
#include "store/engine.h"
#include "store/history.h"
#include "store/people.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

constexpr const char* verbs[] = {"SELECT", "INSERT", "UPDATE", "DELETE", "TRUNCATE"};

/// By the first role that may, of looks, works, approves and keeps: who may more may all that is before it.
/// "-": nobody but the owner.
struct Rights {
    char insert = '-', update = '-', remove = '-';
};

/// w: works, a: approves, k: keeps.
const std::map<std::string, Rights>& wanted() {
    static const Rights all{'w', 'w', 'w'}, added{'w', '-', '-'};
    static const std::map<std::string, Rights> table{
        {"about", {}},
        {"frames", all},
        {"moves", all},
        {"models", all},
        {"bodies", all},
        {"lenses", all},
        {"claims", all},
        {"draft", all},
        {"runs", all},
        {"run_frames", all},
        {"body_runs", all},
        {"deliveries", all},
        {"export_orders", all},
        {"exports", all},
        {"film_rules", all},
        {"intake_folders", all},
        {"selections", all},
        {"roots", all},
        {"jobs", all},
        {"portions", all},
        {"found_bundles", all},
        {"presence", all},
        {"machines", all},
        {"leases", all},
        {"commit_marks", all},
        {"counters", {'w', 'w', '-'}},
        {"locks", {'w', 'w', '-'}},
        {"rollouts", {'w', 'w', '-'}},
        {"remarks", {'w', 'w', '-'}},
        {"arrivals", added},
        {"history", added},
        {"measurements", added},
        {"measurement_events", added},
        {"baselines", added},
        {"colour_files", added},
        {"rollout_pieces", added},
        {"proposals", {'w', 'a', '-'}},
        {"measurers", {'a', 'a', 'a'}},
        {"settings", {'k', 'k', 'k'}},
        {"measurement_kinds", {'-', '-', '-'}},
    };
    return table;
}

struct Login {
    Role role;
    std::string name;
    int rank;  ///< 0 looks, 1 works, 2 approves, 3 keeps
};

bool may(const Login& who, char first) {
    const std::string order = "lwak";
    const std::size_t at = order.find(first);
    return at != std::string::npos && who.rank >= static_cast<int>(at);
}

bool may(const Login& who, const Rights& rights, const std::string& verb) {
    if (verb == "SELECT") return true;
    if (verb == "INSERT") return may(who, rights.insert);
    if (verb == "UPDATE") return may(who, rights.update);
    return verb == "DELETE" && may(who, rights.remove);
}

/// A statement that changes no row, but needs the right.
std::string statement(const std::string& verb, const std::string& table, const std::string& column) {
    if (verb == "SELECT") return fmt::format("SELECT 1 FROM optrel.{} LIMIT 0", table);
    if (verb == "INSERT") return fmt::format("INSERT INTO optrel.{0} SELECT * FROM optrel.{0} LIMIT 0", table);
    if (verb == "UPDATE") return fmt::format("UPDATE optrel.{0} SET {1} = {1} WHERE false", table, column);
    if (verb == "DELETE") return fmt::format("DELETE FROM optrel.{} WHERE false", table);
    return fmt::format("TRUNCATE optrel.{}", table);
}

/// Runs statements as a login that gives its password; the server's code for each, empty where it went well.
std::vector<std::string> codes(const std::string& address, const std::vector<std::string>& statements) {
    const TemporaryFolder folder;
    std::string script = "\\set VERBOSITY sqlstate\n";
    for (const std::string& s : statements) script += "\\echo NEXT\nBEGIN;\n" + s + ";\nROLLBACK;\n";
    write_bytes(folder / "all.sql", script);
    const std::string command = fmt::format("psql -X -q -w '{}' -f '{}' >'{}' 2>&1", address,
                                            (folder / "all.sql").string(), (folder / "out").string());
    REQUIRE(std::system(command.c_str()) == 0);
    std::istringstream lines(read_file(folder / "out"));
    std::vector<std::string> out;
    for (std::string line; std::getline(lines, line);) {
        if (line == "NEXT") out.emplace_back();
        const std::size_t at = line.find("ERROR:");
        if (at != std::string::npos && !out.empty() && out.back().empty()) out.back() = line.substr(line.size() - 5);
    }
    REQUIRE(out.size() == statements.size());
    return out;
}

struct StudioOfRoles {
    StorePlace place{"server"};
    Store keeper{place.address(), Access::begin};
    std::vector<Login> logins;

    StudioOfRoles() {
        on_test_server("postgres",
                       "DO $$ BEGIN CREATE ROLE with_password; EXCEPTION WHEN duplicate_object OR "
                       "unique_violation THEN NULL; END $$");
        int rank = 0;
        for (const Role role : {Role::looks, Role::works, Role::approves, Role::keeps}) {
            const std::string name = fmt::format("r{}{}", place.database(), rank);
            keeper.people()->put({name, role});
            on_test_server("postgres",
                           fmt::format("ALTER ROLE {} PASSWORD 'of {}'; GRANT with_password TO {}", name, rank, name));
            logins.push_back({role, name, rank++});
        }
    }
    ~StudioOfRoles() {
        for (const Login& l : logins) on_test_server("postgres", "DROP ROLE IF EXISTS " + l.name);
    }
    std::string address_of(const Login& l, const std::string& password) const {
        const std::string server = test_server();
        return fmt::format("postgresql://{}:{}@{}/{}", l.name, password, server.substr(server.find('@') + 1),
                           place.database());
    }
    std::string address_of(const Login& l) const { return address_of(l, fmt::format("of%20{}", l.rank)); }
};

}  // namespace

TEST_CASE("each role may do with each table what it should, and nothing else", "[store][people][server]") {
    StudioOfRoles s;
    // Every table that there is, with one column of it.
    std::map<std::string, std::string> columns;
    QSqlQuery q = s.keeper.engine().run(
        "SELECT c.relname::text, min(a.attname::text) FROM pg_catalog.pg_class c JOIN pg_catalog.pg_namespace n ON "
        "n.oid = "
        "c.relnamespace JOIN pg_catalog.pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped "
        "AND "
        "a.attidentity = '' WHERE n.nspname = 'optrel' AND c.relkind IN ('r', 'v', 'm', 'p', 'f') GROUP BY c.relname");
    while (q.next()) columns[q.value(0).toString().toStdString()] = q.value(1).toString().toStdString();
    std::set<std::string> there, known;
    for (const auto& [table, column] : columns) there.insert(table);
    for (const auto& [table, rights] : wanted()) known.insert(table);
    CHECK(there == known);
    for (const Login& who : s.logins) {
        std::vector<std::string> statements, about;
        std::vector<bool> allowed;
        for (const auto& [table, rights] : wanted())
            for (const char* verb : verbs) {
                statements.push_back(statement(verb, table, columns[table]));
                about.push_back(fmt::format("{} {} as {}", verb, table, to_string(who.role)));
                allowed.push_back(may(who, rights, verb));
            }
        const std::vector<std::string> found = codes(s.address_of(who), statements);
        for (std::size_t i = 0; i < found.size(); ++i) {
            INFO(about[i]);
            CHECK(found[i] == (allowed[i] ? "" : "42501"));
        }
    }
}

TEST_CASE("server and program name the same roles for publishing measurements", "[store][people][server]") {
    StudioOfRoles s;
    std::map<std::string, std::string> on_server, here;
    QSqlQuery q = s.keeper.engine().run("SELECT kind, publisher FROM measurement_kinds");
    while (q.next()) on_server[text(q.value(0))] = text(q.value(1));
    for (const MeasurementKind* kind : measurement_kinds()) here[kind->id] = kind->publisher;
    CHECK(on_server == here);
}

TEST_CASE("nobody but the owner changes what the store is made of, or stops the others by a lock",
          "[store][people][server]") {
    StudioOfRoles s;
    const std::vector<std::string> nobody{
        "CREATE TABLE optrel.mine (a int)",
        "CREATE TEMP TABLE settings (name text, value text)",
        "CREATE TABLE public.mine (a int)",
        "ALTER TABLE optrel.history DISABLE TRIGGER ALL",
        "DROP TRIGGER kept ON optrel.history",
        "CREATE OR REPLACE FUNCTION optrel.is_owner(oid) RETURNS boolean LANGUAGE sql AS 'SELECT true'",
        "SET session_replication_role = replica"};
    for (const Login& who : s.logins) {
        const std::vector<std::string> found = codes(s.address_of(who), nobody);
        for (std::size_t i = 0; i < found.size(); ++i) {
            INFO(nobody[i] << " as " << to_string(who.role));
            CHECK_FALSE(found[i].empty());
        }
    }
    // What everybody needs can be locked by who may work there alone.
    const std::vector<std::string> locks{"SELECT 1 FROM optrel.locks FOR UPDATE", "SELECT optrel.take_turn('history')",
                                         "LOCK TABLE optrel.frames IN EXCLUSIVE MODE",
                                         "LOCK TABLE optrel.locks IN SHARE MODE"};
    for (const std::string& code : codes(s.address_of(s.logins[0]), locks)) CHECK(code == "42501");
    CHECK(codes(s.address_of(s.logins[1]), {locks[0]})[0].empty());
    // A wrong password opens nothing.
    const std::string command =
        fmt::format("psql -X -q -w '{}' -c 'SELECT 1' >/dev/null 2>&1", s.address_of(s.logins[1], "wrong"));
    CHECK(std::system(command.c_str()) != 0);
    // Numbers that anybody may lock stop nobody.
    Store looker(s.place.address());
    looker.engine().run("SELECT pg_advisory_lock(1869640705, 1)");
    looker.engine().run("SELECT pg_advisory_lock(1869640705, 2)");
    Store worker(s.place.address());
    worker.history().append({"", "Iva", "tier", "x", "edit", "", ""});
    CHECK(worker.history().entries("tier", "x").size() == 1);
}

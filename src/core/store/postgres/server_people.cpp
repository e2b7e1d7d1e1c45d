// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/postgres/server_people.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/words.h"
#include "store/engine.h"
#include "store/history.h"

namespace optrel::postgres {
namespace {

constexpr Role all_roles[] = {Role::looks, Role::works, Role::approves, Role::keeps};

struct Grant {
    Role role;
    const char *what, *tables;
};

// Tables of published, approved or recorded things: only their owner may change rows.
constexpr Grant grants[] = {
    {Role::looks, "SELECT", "ALL TABLES IN SCHEMA optrel"},
    {Role::works, "INSERT, UPDATE, DELETE",
     "frames, moves, models, bodies, lenses, claims, draft, runs, run_frames, body_runs, deliveries, export_orders, "
     "exports, "
     "film_rules, intake_folders, selections, roots, jobs, portions, found_bundles, presence, machines"},
    {Role::works, "INSERT, UPDATE", "counters, rollouts"},
    {Role::works, "INSERT, UPDATE, DELETE", "leases"},
    {Role::works, "INSERT, UPDATE", "locks"},
    {Role::works, "INSERT, UPDATE, DELETE", "commit_marks"},
    {Role::works, "INSERT",
     "arrivals, history, measurements, measurement_events, baselines, colour_files, rollout_pieces"},
    {Role::works, "INSERT", "proposals"},
    {Role::works, "INSERT, UPDATE", "remarks"},
    {Role::approves, "UPDATE", "proposals"},
    // Trust in keys decides which profiles are applied automatically.
    {Role::approves, "INSERT, UPDATE, DELETE", "measurers"},
    {Role::keeps, "INSERT, UPDATE, DELETE", "settings"},
};

/// Names that need no quoting and cannot be confused with anything else.
void check_name(const std::string& name) {
    const bool sound = !name.empty() && name.size() <= 40 && name[0] >= 'a' && name[0] <= 'z' &&
                       std::all_of(name.begin(), name.end(), [](unsigned char c) {
                           return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_' || c == '-' || c == '.';
                       });
    if (!sound)
        throw input_error(fmt::format(
            "'{}' is no name that a server can know somebody by; write up to 40 small letters, figures, dots, dashes "
            "or underscores, a letter first.",
            printable(name)));
}

/// The database name may contain any character, and is part of the group names.
std::string quoted(const std::string& name) {
    std::string out = "\"";
    for (const char sign : name) out += sign == '"' ? std::string("\"\"") : std::string(1, sign);
    return out + "\"";
}

}  // namespace

std::string ServerPeople::group(Role role) const { return fmt::format("optrel_{}_{}", database_, to_string(role)); }

void ServerPeople::grant() {
    std::string below;
    for (const Role role : all_roles) {
        const std::string name = group(role);
        if (!engine_.run("SELECT 1 FROM pg_roles WHERE rolname = ?", {text(name)}).next())
            engine_.direct("CREATE ROLE " + quoted(name) + " NOLOGIN");
        if (!below.empty()) engine_.direct("GRANT " + below + " TO " + quoted(name));
        below = quoted(name);
    }
    // Users with the role `keeps` may grant roles to existing logins.
    for (const Role role : {Role::looks, Role::works, Role::approves})
        engine_.direct("GRANT " + quoted(group(role)) + " TO " + below + " WITH ADMIN OPTION");
    engine_.direct("GRANT USAGE ON SCHEMA optrel TO " + quoted(group(Role::looks)));
    for (const Grant& g : grants)
        engine_.direct(fmt::format("GRANT {} ON {} TO {}", g.what, g.tables, quoted(group(g.role))));
}

std::vector<Person> ServerPeople::all() const {
    std::vector<Person> out;
    for (const Role role : all_roles) {
        QSqlQuery q = engine_.run(
            "SELECT member.rolname::text FROM pg_auth_members m JOIN pg_roles member ON member.oid = m.member JOIN "
            "pg_roles grp ON grp.oid = m.roleid WHERE grp.rolname = ? AND member.rolcanlogin",
            {text(group(role))});
        while (q.next()) out.push_back({text(q.value(0)), role});
    }
    std::sort(out.begin(), out.end(), [](const Person& a, const Person& b) { return a.name < b.name; });
    return out;
}

std::optional<Role> ServerPeople::mine() const {
    std::optional<Role> out;
    for (const Role role : all_roles) {
        QSqlQuery q = engine_.run("SELECT pg_has_role(session_user, oid, 'member') FROM pg_roles WHERE rolname = ?",
                                  {text(group(role))});
        if (q.next() && q.value(0).toBool()) out = role;
    }
    return out;
}

void ServerPeople::put(const Person& person) {
    check_name(person.name);
    Transaction transaction(engine_, "people");
    std::string before;
    for (const Person& p : all())
        if (p.name == person.name) {
            before = to_string(p.role);
            engine_.direct("REVOKE " + quoted(group(p.role)) + " FROM " + quoted(p.name));
        }
    if (!engine_.run("SELECT 1 FROM pg_roles WHERE rolname = ?", {text(person.name)}).next())
        engine_.direct("CREATE ROLE " + quoted(person.name) + " LOGIN");
    engine_.direct("GRANT " + quoted(group(person.role)) + " TO " + quoted(person.name));
    engine_.record({"", "", "person", person.name, "give a role", before, to_string(person.role)});
    engine_.stamp("people");
    transaction.commit();
}

void ServerPeople::remove(const std::string& name) {
    Transaction transaction(engine_, "people");
    const std::vector<Person> people = all();
    std::vector<std::string> names;
    for (const Person& p : people) names.push_back(p.name);
    const auto it = std::find(names.begin(), names.end(), name);
    if (it == names.end())
        throw input_error(
            fmt::format("There is nobody '{}' in this studio{}.", printable(name), nearest_clause(name, names)));
    const Role role = people[static_cast<std::size_t>(it - names.begin())].role;
    engine_.direct("REVOKE " + quoted(group(role)) + " FROM " + quoted(name));
    engine_.record({"", "", "person", name, "take out", to_string(role), ""});
    engine_.stamp("people");
    transaction.commit();
}

}  // namespace optrel::postgres

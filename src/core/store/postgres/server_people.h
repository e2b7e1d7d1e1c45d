// SPDX-License-Identifier: GPL-3.0-or-later
// People of a store on a server: logins of its database that are members of one of four group roles.
//
// What each group may do is granted table by table, so that a client that lies gets nowhere (manual, "Database Roles",
// "Privileges"). The groups belong to one database: their names begin with optrel_NAME.
#pragma once

#include "store/people.h"

namespace optrel::postgres {

class PostgresEngine;

class ServerPeople final : public StorePeople {
public:
    explicit ServerPeople(PostgresEngine& engine) : engine_(engine) {}
    std::vector<Person> all() override;
    std::optional<Role> mine() override;
    void put(const Person& person) override;
    void remove(const std::string& name) override;

    /// Makes the groups where they are missing, and grants them what they need of the tables that there are. The caller
    /// holds a transaction.
    void grant();

private:
    std::string group(Role role);

    PostgresEngine& engine_;
};

}  // namespace optrel::postgres

// SPDX-License-Identifier: GPL-3.0-or-later
// Users of a server store: logins of the database that are members of one of four group roles.
//
// Each group has privileges on tables, so that a manipulated client gains nothing (PostgreSQL manual, "Database Roles",
// "Privileges"). The group names contain the database name: optrel_NAME_...
#pragma once

#include "store/people.h"

namespace optrel {
class Engine;
}

namespace optrel::postgres {

class ServerPeople final : public StorePeople {
public:
    /// `database`: name of the database, part of the group names.
    ServerPeople(Engine& engine, const std::string& database) : engine_(engine), database_(database) {}
    std::vector<Person> all() const override;
    std::optional<Role> mine() const override;
    void put(const Person& person) override;
    void remove(const std::string& name) override;

    /// Creates missing groups and grants them privileges on all existing tables. The caller must hold a transaction.
    void grant();

private:
    std::string group(Role role) const;

    Engine& engine_;
    const std::string& database_;
};

}  // namespace optrel::postgres

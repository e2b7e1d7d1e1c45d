// SPDX-License-Identifier: GPL-3.0-or-later
// Users of a studio and their roles.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace optrel {

/// Each role includes the ones before it. approves: may approve proposals of others. keeps: may change the settings of
/// the studio and the roles of users.
enum class Role { looks, works, approves, keeps };
std::string to_string(Role role);
/// Throws Error(input) with similar names.
Role role_named(const std::string& name);

struct Person {
    std::string name;
    Role role = Role::looks;
    bool operator==(const Person&) const = default;
};

/// User management of a store.
class StorePeople {
public:
    virtual ~StorePeople() = default;
    /// All users, ordered by name.
    virtual std::vector<Person> all() const = 0;
    /// Role of the current user; nothing when the user has none.
    virtual std::optional<Role> mine() const = 0;
    /// Adds a user or changes the role. Throws Error(input) for an invalid name, Error(store) without permission.
    virtual void put(const Person& person) = 0;
    /// Removes a user's access. Throws Error(input) for an unknown user.
    virtual void remove(const std::string& name) = 0;
};

}  // namespace optrel

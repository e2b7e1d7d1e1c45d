// SPDX-License-Identifier: GPL-3.0-or-later
// The people of a studio, and what each may do.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace optrel {

/// Each may do what those before it may. approves: is the second person where one is needed. keeps: settles what holds
/// for the studio, and who may do what.
enum class Role { looks, works, approves, keeps };
std::string to_string(Role role);
/// Throws Error(input) with the nearest ones.
Role role_named(const std::string& name);

struct Person {
    std::string name;
    Role role = Role::looks;
    bool operator==(const Person&) const = default;
};

/// Of a store that knows people.
class StorePeople {
public:
    virtual ~StorePeople() = default;
    /// By name.
    virtual std::vector<Person> all() = 0;
    /// What who works here may do; nothing for somebody who may not even look.
    virtual std::optional<Role> mine() = 0;
    /// Lets somebody in, or gives another role. Throws Error(input) for a name that is none, Error(store) for who may
    /// not do that.
    virtual void put(const Person& person) = 0;
    /// Lets somebody in no more. Throws Error(input) for who is not there.
    virtual void remove(const std::string& name) = 0;
};

}  // namespace optrel

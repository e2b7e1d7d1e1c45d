// SPDX-License-Identifier: GPL-3.0-or-later
// Address of a store on a PostgreSQL server: postgresql://USER@HOST[:PORT]/NAME[?sslmode=...].
//
// The form follows the connection URIs of libpq (PostgreSQL manual, "Connection URIs"). HOST may be left out, or be the
// folder of a socket with its slashes written as %2F. Passwords are refused, because they would appear in process lists
// and shell histories.
#pragma once

#include <string>

namespace optrel::postgres {

struct Address {
    std::string host, user, name;
    int port = 0;         ///< 0: PostgreSQL's default
    std::string options;  ///< further options of libpq ("sslmode=verify-full")
    /// The address for display, without options.
    std::string shown() const;
};

/// Whether a text is the address of a PostgreSQL server, valid or not.
bool is_address(const std::string& text);

/// Throws Error(input) that says what is wrong.
Address parse_address(const std::string& text);

}  // namespace optrel::postgres

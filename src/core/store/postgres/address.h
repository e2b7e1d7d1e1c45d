// SPDX-License-Identifier: GPL-3.0-or-later
// Where a store on a PostgreSQL server is: postgresql://USER@HOST[:PORT]/NAME[?sslmode=...].
//
// The form is that of the connection URIs of PostgreSQL's own library (manual, "Connection URIs"). HOST may be the
// folder of a socket, with its slashes written as %2F, or be left out. A password is refused: it would stand in lists
// of processes and in histories of shells.
#pragma once

#include <string>

namespace optrel::postgres {

struct Address {
    std::string host, user, name;
    int port = 0;         ///< 0: PostgreSQL's own
    std::string options;  ///< further ones, as the library of PostgreSQL reads them ("sslmode=verify-full")
    /// As people are shown it, without options.
    std::string shown() const;
};

/// Whether an address is one of a PostgreSQL server, sound or not.
bool is_address(const std::string& text);

/// Throws Error(input) that says what is wrong with it.
Address parse_address(const std::string& text);

}  // namespace optrel::postgres

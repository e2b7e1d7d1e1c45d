// SPDX-License-Identifier: GPL-3.0-or-later
// The tables of a store by their columns, for what is done with all of them alike (copy.h). Rollouts are not among
// them: each engine keeps them in its own way (rollout/shelf.h).
#pragma once

#include <string>
#include <vector>

namespace optrel {

struct TableColumn {
    /// yes: true or false. bytes: of any value.
    enum class Kind { words, whole, real, yes, bytes };
    std::string name;
    Kind kind = Kind::words;
};

struct StoreTable {
    std::string name, key;  ///< the columns of the key, as in an ORDER BY
    std::vector<TableColumn> columns;
    bool numbered = false;    ///< its id is given by the engine
    bool only_added = false;  ///< a row that is there never changes
    std::vector<std::string> column_names() const;
};

/// In an order in which they can be filled.
const std::vector<StoreTable>& store_tables();

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The tables of a store and their columns. Statements follow from them (table_rows.h, copy.h), and a test holds the
// schemas of both engines against them. Rollouts are not listed, because each
// engine stores them differently (rollout/rollout_store.h).
#pragma once

#include <string>
#include <vector>

namespace optrel {

struct TableColumn {
    /// Column types. yes: boolean. bytes: arbitrary bytes.
    enum class Kind { words, whole, real, yes, bytes };
    std::string name;
    Kind kind = Kind::words;
};

struct StoreTable {
    std::string name, key;  ///< columns of the primary key, as in ORDER BY
    std::vector<TableColumn> columns;
    bool numbered = false;    ///< the engine assigns the id
    bool only_added = false;  ///< rows are never updated
    std::vector<std::string> column_names() const;
};

/// In an order that satisfies all references between tables.
const std::vector<StoreTable>& store_tables();
/// The description of one table. Throws std::logic_error when store_tables() does not list it.
const StoreTable& store_table(const std::string& name);

}  // namespace optrel

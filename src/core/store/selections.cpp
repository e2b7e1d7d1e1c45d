// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/selections.h"

#include <fmt/format.h>

#include <vector>

#include "base/error.h"
#include "base/words.h"
#include "store/document_paths.h"
#include "store/engine.h"

namespace optrel {

namespace {

const std::string& key_of(const std::map<std::string, std::string>& selections, const std::string& name) {
    std::vector<std::string> names;
    for (const auto& [key, document] : selections) {
        if (lowered(key) == lowered(trimmed(name))) return key;
        names.push_back(key);
    }
    throw input_error(fmt::format("There is no selection '{}'{}.", printable(name), nearest_clause(name, names)));
}

}  // namespace

std::map<std::string, std::string> StoredSelections::all() const {
    std::map<std::string, std::string> out;
    QSqlQuery q = engine_.run("SELECT name, document FROM selections");
    while (q.next()) out[text(q.value(0))] = with_paths_here(engine_, text(q.value(1)));
    return out;
}

std::string StoredSelections::named(const std::string& name) const {
    const auto selections = all();
    return selections.at(key_of(selections, name));
}

void StoredSelections::put(const std::string& name, const std::string& document) {
    const std::string kept = trimmed(name);
    if (kept.empty() || !is_utf8(kept)) throw input_error("A selection needs a name; write one.");
    Transaction transaction(engine_, "selections");
    for (const auto& [key, old] : all())
        if (lowered(key) == lowered(kept)) engine_.run("DELETE FROM selections WHERE name = ?", {text(key)});
    engine_.run("INSERT INTO selections (name, document) VALUES (?, ?)",
                {text(kept), text(with_kept_paths(engine_, document))});
    engine_.record({"", "", "selection", kept, "keep", "", document});
    engine_.stamp("selections");
    transaction.commit();
}

void StoredSelections::remove(const std::string& name) {
    Transaction transaction(engine_, "selections");
    const std::string key = key_of(all(), name);
    engine_.run("DELETE FROM selections WHERE name = ?", {text(key)});
    engine_.record({"", "", "selection", key, "take out", "", ""});
    engine_.stamp("selections");
    transaction.commit();
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/settings.h"

#include "store/engine.h"
#include "store/history.h"

namespace optrel {

std::map<std::string, std::string> StoredSettings::all() const {
    std::map<std::string, std::string> out;
    QSqlQuery q = engine_.run("SELECT name, value FROM settings");
    while (q.next()) out[text(q.value(0))] = text(q.value(1));
    return out;
}

std::string StoredSettings::get(const std::string& name) const {
    QSqlQuery q = engine_.run("SELECT value FROM settings WHERE name = ?", {text(name)});
    return q.next() ? text(q.value(0)) : "";
}

void StoredSettings::put(const std::string& name, const std::string& value) {
    Transaction transaction(engine_, "settings");
    const std::string before = get(name);
    if (value.empty())
        engine_.run("DELETE FROM settings WHERE name = ?", {text(name)});
    else
        engine_.run(upsert("settings", {"name", "value"}, "name"), {text(name), text(value)});
    engine_.record({"", "", "setting", name, "settle", before, value});
    engine_.stamp("settings");
    transaction.commit();
}

}  // namespace optrel

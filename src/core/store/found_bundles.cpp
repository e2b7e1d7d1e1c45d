// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/found_bundles.h"

#include "store/engine.h"

namespace optrel {

std::vector<FoundBundle> StoredFoundBundles::waiting() const {
    std::vector<FoundBundle> out;
    QSqlQuery q = engine_.run("SELECT path, hash, settled FROM found_bundles ORDER BY path");
    while (q.next())
        if (!q.value(2).toBool()) out.push_back({engine_.here(q.value(0)), text(q.value(1)), false});
    return out;
}

void StoredFoundBundles::found(const std::filesystem::path& path, const std::string& hash) {
    Transaction transaction(engine_, "found_bundles");
    QSqlQuery there = engine_.run("SELECT hash FROM found_bundles WHERE path = ?", {engine_.kept(path)});
    if (there.next() && text(there.value(0)) == hash) return transaction.commit();
    there.finish();
    engine_.run(upsert("found_bundles", {"path", "hash", "settled"}, "path"), {engine_.kept(path), text(hash), false});
    engine_.stamp("found_bundles");
    transaction.commit();
}

void StoredFoundBundles::settle(const std::filesystem::path& path, const std::string& what, const std::string& author) {
    Transaction transaction(engine_, "found_bundles");
    QSqlQuery done = engine_.run("UPDATE found_bundles SET settled = ? WHERE path = ? AND settled = ?",
                                 {true, engine_.kept(path), false});
    if (done.numRowsAffected() > 0) {
        engine_.record({"", author, "bundle", path.filename().string(), what, "", ""});
        engine_.stamp("found_bundles");
    }
    transaction.commit();
}

}  // namespace optrel

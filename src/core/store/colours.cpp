// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/colours.h"

#include <algorithm>

#include "base/error.h"
#include "base/files.h"
#include "store/engine.h"
#include "store/table_rows.h"

namespace optrel {

std::vector<ColourFile> StoredColours::all() const {
    std::vector<ColourFile> out;
    TableReader row(engine_, "colour_files", "ORDER BY name, hash");
    while (row.next())
        out.push_back({row.text("hash"), row.text("name"), row.text("camera"), row.text("contents"), row.text("origin"),
                       row.text("author"), row.text("time")});
    return out;
}

ColourFile StoredColours::put(const ColourProfile& profile, const std::string& origin, const std::string& author) {
    Transaction transaction(engine_);
    const std::string hash = bytes_hash(profile.bytes);
    if (!engine_.run("SELECT 1 FROM colour_files WHERE hash = ?", {text(hash)}).next()) {
        add_missing_row(engine_, "colour_files",
                        {{"hash", text(hash)},
                         {"name", text(profile.name)},
                         {"camera", text(profile.camera)},
                         {"contents", text(profile.contents())},
                         {"origin", text(origin)},
                         {"author", text(author)},
                         {"time", text(engine_.now())},
                         {"document", QByteArray(profile.bytes.data(), static_cast<qsizetype>(profile.bytes.size()))}});
        engine_.record({"", author, "colours", profile.name, "take in from " + origin, "", "sha256 " + hash});
        engine_.stamp("colours");
    }
    transaction.commit();
    const std::vector<ColourFile> files = all();
    return *std::find_if(files.begin(), files.end(), [&](const ColourFile& f) { return f.hash == hash; });
}

std::shared_ptr<const ColourProfile> StoredColours::fetch(const Value& value) const {
    const std::string hash = colour_file_hash(value);
    if (hash.empty()) return nullptr;
    QSqlQuery q = engine_.run("SELECT hash, name, document FROM colour_files WHERE substr(hash, 1, ?) = ?",
                              {static_cast<int>(hash.size()), text(hash)});
    if (!q.next()) return nullptr;
    const std::string bytes = q.value(2).toByteArray().toStdString(), name = text(q.value(1));
    if (bytes_hash(bytes) != text(q.value(0)))
        throw input_error("The colour file '" + name + "' was damaged in the store; take it in again.");
    auto out = std::make_shared<ColourProfile>(colour_profile_from(bytes, "The colour file '" + name + "'"));
    out->name = name;
    return out;
}

}  // namespace optrel

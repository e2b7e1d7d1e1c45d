// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/body_runs.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/path_text.h"
#include "store/document_paths.h"
#include "store/engine.h"

namespace optrel {
namespace {

using nlohmann::json;

std::string document_of(const BodyRun& run) {
    json frames = json::array(), dropped = json::array();
    for (const BodyRunFrame& f : run.frames) {
        frames.push_back(path_to_text(f.path.native()));
        dropped.push_back(f.dropped);
    }
    return json_text({{"folder", path_to_text(run.folder.native())}, {"frames", frames}, {"dropped", dropped}});
}

void read_document(const std::string& document, BodyRun& run) {
    const json j = parse_json(document, fmt::format("Body run {} of the store", run.id));
    run.folder = path_from_text(j.at("folder").get<std::string>());
    const json& frames = j.at("frames");
    const json& dropped = j.at("dropped");
    for (std::size_t i = 0; i < frames.size(); ++i)
        run.frames.push_back({path_from_text(frames.at(i).get<std::string>()), dropped.at(i).get<bool>()});
}

}  // namespace

std::vector<std::filesystem::path> BodyRun::used() const {
    std::vector<std::filesystem::path> out;
    for (const BodyRunFrame& f : frames)
        if (!f.dropped) out.push_back(f.path);
    return out;
}

std::vector<BodyRun> StoredBodyRuns::all() const {
    std::vector<BodyRun> out;
    QSqlQuery q = engine_.run("SELECT id, kind, name, document, result FROM body_runs ORDER BY id DESC");
    while (q.next()) {
        BodyRun run{q.value(0).toInt(), text(q.value(1)), text(q.value(2)), {}, {}, text(q.value(4))};
        try {
            read_document(with_paths_here(engine_, text(q.value(3))), run);
            out.push_back(std::move(run));
        } catch (const std::exception&) {
            // On a server, anybody who works here can write a row that cannot be read; the other runs stay usable.
        }
    }
    return out;
}

int StoredBodyRuns::put(const BodyRun& given) {
    Transaction transaction(engine_, "runs");
    BodyRun run = given;
    // Frames are dropped, never removed, so another station has added those that only the store has.
    if (run.id != 0)
        for (const BodyRun& there : all())
            if (there.id == run.id)
                for (const BodyRunFrame& f : there.frames)
                    if (std::none_of(given.frames.begin(), given.frames.end(),
                                     [&](const BodyRunFrame& own) { return own.path == f.path; }))
                        run.frames.push_back(f);
    const QVariantList values{text(run.kind), text(run.name), text(with_kept_paths(engine_, document_of(run))),
                              text(run.result)};
    int id = run.id;
    if (id == 0) {
        QSqlQuery q =
            engine_.run("INSERT INTO body_runs (kind, name, document, result) VALUES (?,?,?,?) RETURNING id", values);
        q.next();
        id = q.value(0).toInt();
    } else {
        engine_.run("UPDATE body_runs SET kind = ?, name = ?, document = ?, result = ? WHERE id = ?",
                    values + QVariantList{id});
    }
    transaction.commit();
    return id;
}

}  // namespace optrel

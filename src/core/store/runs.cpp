// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/runs.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "calibration/run_json.h"
#include "store/engine.h"

namespace optrel {

std::string StoredRuns::document_of(const RunFrame& frame) const {
    RunFrame kept = frame;
    kept.path = text(engine_.kept(frame.path));
    return run_frame_to_json(kept);
}

std::vector<RunFrame> StoredRuns::frames_of(int id) const {
    std::vector<RunFrame> out;
    QSqlQuery f = engine_.run("SELECT document FROM run_frames WHERE run = ? ORDER BY position", {id});
    while (f.next()) {
        out.push_back(run_frame_from_json(text(f.value(0)), fmt::format("run {} of the store", id)));
        out.back().path = engine_.here(text(out.back().path.string()));
    }
    return out;
}

namespace {

/// Adds measurements of the store that the window does not have.
void keep_measured(std::vector<RunFrame>& frames, const std::vector<RunFrame>& there) {
    for (RunFrame& f : frames) {
        if (f.settled()) continue;
        const auto known = std::find_if(there.begin(), there.end(),
                                        [&](const RunFrame& t) { return t.settled() && t.path == f.path; });
        if (known == there.end()) continue;
        RunFrame measured = *known;
        measured.dropped = f.dropped;
        measured.dropped_corners = f.dropped_corners;
        f = std::move(measured);
    }
}

}  // namespace

std::vector<RunRecord> StoredRuns::all() const {
    std::vector<RunRecord> out;
    QSqlQuery q = engine_.run("SELECT id, name, chart, folder FROM runs ORDER BY id DESC");
    while (q.next())
        out.push_back({q.value(0).toInt(), text(q.value(1)), text(q.value(2)), engine_.here(q.value(3)).string(), {}});
    for (RunRecord& run : out) run.frames = frames_of(run.id);
    return out;
}

std::optional<RunRecord> StoredRuns::unfinished(const std::string& name, const std::string& folder,
                                                const std::string& chart) const {
    QSqlQuery q = engine_.run("SELECT id FROM runs WHERE name = ? AND folder = ? AND chart = ? ORDER BY id DESC",
                              {text(name), engine_.kept(folder), text(chart)});
    while (q.next()) {
        RunRecord run{q.value(0).toInt(), name, chart, folder, {}};
        run.frames = frames_of(run.id);
        if (std::any_of(run.frames.begin(), run.frames.end(), [](const RunFrame& f) { return !f.settled(); }))
            return run;
    }
    return std::nullopt;
}

int StoredRuns::put(const RunRecord& given) {
    Transaction transaction(engine_, "runs");
    RunRecord run = given;
    // Measurements with another chart are invalid.
    QSqlQuery before = engine_.run("SELECT 1 FROM runs WHERE id = ? AND chart = ?", {run.id, text(run.chart)});
    if (before.next()) keep_measured(run.frames, frames_of(run.id));
    before.finish();
    int id = run.id;
    if (id == 0) {
        QSqlQuery q = engine_.run("INSERT INTO runs (name, chart, folder) VALUES (?,?,?) RETURNING id",
                                  {text(run.name), text(run.chart), engine_.kept(run.folder)});
        q.next();
        id = q.value(0).toInt();
    } else {
        engine_.run("UPDATE runs SET name = ?, chart = ?, folder = ? WHERE id = ?",
                    {text(run.name), text(run.chart), engine_.kept(run.folder), id});
        engine_.run("DELETE FROM run_frames WHERE run = ?", {id});
    }
    for (std::size_t i = 0; i < run.frames.size(); ++i)
        engine_.run("INSERT INTO run_frames (run, position, document) VALUES (?,?,?)",
                    {id, static_cast<int>(i), text(document_of(run.frames[i]))});
    transaction.commit();
    return id;
}

void StoredRuns::put_measurement(int run, const RunFrame& frame) {
    Transaction transaction(engine_, "runs");
    const std::vector<RunFrame> now = frames_of(run);
    for (std::size_t i = 0; i < now.size(); ++i) {
        if (now[i].path != frame.path || now[i].settled()) continue;
        RunFrame measured = frame;
        measured.dropped = now[i].dropped;
        measured.dropped_corners = now[i].dropped_corners;
        put_frame(run, static_cast<int>(i), measured);
    }
    transaction.commit();
}

void StoredRuns::put_frame(int run, int position, const RunFrame& frame) {
    engine_.run("UPDATE run_frames SET document = ? WHERE run = ? AND position = ?",
                {text(document_of(frame)), run, position});
}

RunFrame StoredRuns::frame(int run, int position) const {
    QSqlQuery q = engine_.run("SELECT document FROM run_frames WHERE run = ? AND position = ?", {run, position});
    if (!q.next()) throw input_error(fmt::format("Run {} has no frame {} any more.", run, position + 1));
    RunFrame out = run_frame_from_json(text(q.value(0)), fmt::format("run {} of the store", run));
    out.path = engine_.here(text(out.path.string()));
    return out;
}

std::string StoredRuns::chart_of(int run) const {
    QSqlQuery q = engine_.run("SELECT chart FROM runs WHERE id = ?", {run});
    if (!q.next())
        throw input_error(fmt::format("There is no run {} in the store; see 'optrel-cli store list runs'.", run));
    return text(q.value(0));
}

void StoredRuns::remove(int id) { engine_.run("DELETE FROM runs WHERE id = ?", {id}); }

}  // namespace optrel

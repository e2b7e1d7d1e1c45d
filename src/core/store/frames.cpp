// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/frames.h"

#include <fmt/format.h>

#include <map>
#include <set>
#include <tuple>

#include "fleet/register.h"
#include "store/engine.h"

namespace optrel {
namespace {

const std::vector<std::string> frame_columns{
    "path",      "rendered", "maker",    "model",         "body_serial",  "lens",     "lens_serial",
    "focal_mm",  "aperture", "iso",      "distance_m",    "pitch_um",     "width",    "height",
    "time",      "size",     "modified", "other_serials", "filter",       "recorded", "orientation",
    "corrected", "carries",  "colours",  "mark",          "equivalent_mm"};

std::string select_frames() { return fmt::format("SELECT {} FROM frames", fmt::join(frame_columns, ", ")); }

FrameRecord frame_from(const Engine& engine, const QSqlQuery& q, MetadataPool& pool) {
    FrameRecord f;
    f.path = engine.here(q.value(0));
    Metadata m;
    m.kind = q.value(1).toBool() ? FrameKind::rendered : FrameKind::raw;
    m.maker = text(q.value(2));
    m.model = text(q.value(3));
    m.body_serial = text(q.value(4));
    m.lens = text(q.value(5));
    m.lens_serial = text(q.value(6));
    m.focal_mm = q.value(7).toDouble();
    m.aperture = q.value(8).toDouble();
    m.iso = q.value(9).toInt();
    m.distance_m = q.value(10).toDouble();
    m.pitch_um = q.value(11).toDouble();
    m.width = q.value(12).toInt();
    m.height = q.value(13).toInt();
    m.time = text(q.value(14));
    f.size = q.value(15).toLongLong();
    f.modified = q.value(16).toLongLong();
    for (const QString& s : q.value(17).toString().split('\n', Qt::SkipEmptyParts))
        m.other_serials.push_back(s.toStdString());
    m.filter = text(q.value(18));
    m.orientation = q.value(20).toInt();
    m.corrected = text(q.value(21));
    m.carries = text(q.value(22));
    m.colours = text(q.value(23));
    f.mark = ContentMark(text(q.value(24)));
    m.equivalent_mm = q.value(25).toInt();
    // Four characters: contrast, saturation and sharpness as digits or -, and whether a rendering is embedded.
    if (const std::string r = text(q.value(19)); r.size() == 4) {
        const auto level = [](char c) { return c >= '0' && c <= '2' ? c - '0' : -1; };
        m.recorded_contrast = level(r[0]);
        m.recorded_saturation = level(r[1]);
        m.recorded_sharpness = level(r[2]);
        m.recorded_rendering = r[3] == 'r';
    }
    f.metadata = pool.of(m);
    return f;
}

std::string recorded_text(const Metadata& m) {
    const auto level = [](int v) { return v < 0 ? '-' : static_cast<char>('0' + v); };
    return {level(m.recorded_contrast), level(m.recorded_saturation), level(m.recorded_sharpness),
            m.recorded_rendering ? 'r' : '-'};
}

/// In the order of the columns.
QVariantList row_of(const Engine& engine, const FrameRecord& f) {
    const Metadata m = f.metadata;
    return {engine.kept(f.path),
            m.kind == FrameKind::rendered,
            text(m.maker),
            text(m.model),
            text(m.body_serial),
            text(m.lens),
            text(m.lens_serial),
            m.focal_mm,
            m.aperture,
            m.iso,
            m.distance_m,
            m.pitch_um,
            m.width,
            m.height,
            text(m.time),
            f.size,
            f.modified,
            text(fmt::format("{}", fmt::join(m.other_serials, "\n"))),
            text(m.filter),
            text(recorded_text(m)),
            m.orientation,
            text(m.corrected),
            text(m.carries),
            text(m.colours),
            text(f.mark.text()),
            m.equivalent_mm};
}

/// Index of the register by the values that frames report.
struct RegisterIds {
    std::set<std::string> models, bodies, lenses;
    std::set<std::tuple<std::string, std::string, std::string>> numbers;  ///< maker, model, serial number of bodies

    explicit RegisterIds(Engine& engine) {
        for (QSqlQuery q = engine.run("SELECT id FROM models"); q.next();) models.insert(text(q.value(0)));
        for (QSqlQuery q = engine.run("SELECT id FROM lenses"); q.next();) lenses.insert(text(q.value(0)));
        for (QSqlQuery q = engine.run("SELECT id, maker, model, serial FROM bodies"); q.next();) {
            bodies.insert(text(q.value(0)));
            numbers.emplace(text(q.value(1)), text(q.value(2)), text(q.value(3)));
        }
    }
};

/// Distinct reported values, ordered by name, so that concurrent transactions cannot deadlock.
struct ReportedEntries {
    std::map<std::string, ModelEntry> models;
    std::map<std::string, Body> bodies;
    std::map<std::string, LensEntry> lenses;

    explicit ReportedEntries(const std::vector<FrameRecord>& frames) {
        for (const FrameRecord& f : frames) {
            if (const ModelEntry e = model_from(f.metadata); !e.id.empty()) models.emplace(e.id, e);
            if (const Body b = body_from(f.metadata); !b.id.empty()) bodies.emplace(b.id, b);
            if (const LensEntry l = lens_from(f.metadata); !l.id.empty()) lenses.emplace(l.id, l);
        }
    }
    void leave_out_known(Engine& engine) {
        const RegisterIds there(engine);
        std::erase_if(models, [&](const auto& e) { return there.models.count(e.first) > 0; });
        std::erase_if(lenses, [&](const auto& e) { return there.lenses.count(e.first) > 0; });
        std::erase_if(bodies, [&](const auto& e) {
            const Body& b = e.second;
            return there.bodies.count(e.first) > 0 || there.numbers.count({b.maker, b.model, b.serial}) > 0;
        });
    }
    bool empty() const { return models.empty() && bodies.empty() && lenses.empty(); }
};

/// Registers identities with a serial number that are missing. Returns whether there were any.
bool enter_reported(Engine& engine, const std::vector<FrameRecord>& frames) {
    ReportedEntries fresh(frames);
    fresh.leave_out_known(engine);
    if (fresh.empty()) return false;
    engine.lock_part("fleet");
    fresh.leave_out_known(engine);
    for (const auto& [id, e] : fresh.models)
        engine.run(insert_missing("models", {"id", "maker", "model", "width", "height", "pitch_um", "filter"}),
                   {text(id), text(e.maker), text(e.model), e.width, e.height, e.pitch_um, text(e.filter)});
    for (const auto& [id, b] : fresh.bodies)
        engine.run(insert_missing("bodies", {"id", "maker", "model", "serial", "name", "asset_tag", "width", "height",
                                             "pitch_um"}),
                   {text(id), text(b.maker), text(b.model), text(b.serial), "", "", b.width, b.height, b.pitch_um});
    for (const auto& [id, l] : fresh.lenses)
        engine.run(insert_missing("lenses", {"id", "lens", "serial", "name", "asset_tag", "focal_min", "focal_max",
                                             "aperture_min"}),
                   {text(id), text(l.lens), text(l.serial), "", "", l.focal_min_mm, l.focal_max_mm, l.aperture_min});
    return true;
}

}  // namespace

std::vector<FrameRecord> StoredFrames::all() const {
    std::vector<FrameRecord> out;
    MetadataPool pool;
    // Reserves memory, because growing would temporarily need up to three times as much.
    out.reserve(static_cast<std::size_t>(count()));
    QSqlQuery q = engine_.streamed(select_frames() + " ORDER BY path");
    engine_.execute(q, {});
    while (q.next()) out.push_back(frame_from(engine_, q, pool));
    return out;
}

std::vector<FrameRecord> StoredFrames::within(const std::string& first, const std::string& last) const {
    std::vector<FrameRecord> out;
    MetadataPool pool;
    QSqlQuery q =
        engine_.run(select_frames() + " WHERE path >= ? AND path <= ? ORDER BY path", {text(first), text(last)});
    while (q.next()) out.push_back(frame_from(engine_, q, pool));
    return out;
}

std::vector<StoredFrames::Span> StoredFrames::spans(int size) const {
    std::vector<Span> out;
    QSqlQuery q = engine_.run(
        fmt::format("SELECT min(path), max(path), count(*) FROM (SELECT path, (row_number() OVER (ORDER BY path) - 1) "
                    "/ {} AS span FROM frames) AS numbered GROUP BY span ORDER BY span",
                    size));
    while (q.next()) out.push_back({text(q.value(0)), text(q.value(1)), q.value(2).toInt()});
    return out;
}

Reported StoredFrames::reported() const {
    Reported out;
    QSqlQuery q = engine_.run("SELECT DISTINCT maker, model FROM frames");
    while (q.next()) {
        Metadata m;
        m.maker = text(q.value(0));
        m.model = text(q.value(1));
        if (const std::string name = camera_name(m); !name.empty()) out.models.push_back(name);
    }
    QSqlQuery l = engine_.run("SELECT DISTINCT lens FROM frames WHERE lens != ''");
    while (l.next()) out.lenses.push_back(text(l.value(0)));
    return out;
}

bool StoredFrames::move(const std::filesystem::path& from, const std::filesystem::path& to) {
    Transaction transaction(engine_);
    if (!find(from)) return false;
    const QVariant old_path = engine_.kept(from), new_path = engine_.kept(to);
    engine_.run("DELETE FROM frames WHERE path = ?", {new_path});
    engine_.run("UPDATE frames SET path = ? WHERE path = ?", {new_path, old_path});
    // Every earlier path maps directly to the current one, and the current one maps to nothing.
    engine_.run("UPDATE moves SET to_path = ? WHERE to_path = ?", {new_path, old_path});
    engine_.run("DELETE FROM moves WHERE from_path = ? OR from_path = ?", {new_path, old_path});
    engine_.run("INSERT INTO moves (from_path, to_path) VALUES (?, ?)", {old_path, new_path});
    engine_.record({"", "", "frame", text(old_path), "moved", "", text(new_path)});
    engine_.stamp("frames");
    transaction.commit();
    return true;
}

std::map<std::string, std::filesystem::path> StoredFrames::moves() const {
    std::map<std::string, std::filesystem::path> out;
    QSqlQuery q = engine_.run("SELECT from_path, to_path FROM moves");
    while (q.next()) out[engine_.here(q.value(0)).string()] = engine_.here(q.value(1));
    return out;
}

std::optional<FrameRecord> StoredFrames::find(const std::filesystem::path& path) const {
    QSqlQuery q = engine_.run(select_frames() + " WHERE path = ?", {engine_.kept(path)});
    if (!q.next()) return std::nullopt;
    MetadataPool own;
    return frame_from(engine_, q, own);
}

void StoredFrames::put(const std::vector<FrameRecord>& frames, bool enter) {
    Transaction transaction(engine_);
    // Ordered by path, so that concurrent transactions cannot deadlock; of two records with one path the later wins.
    std::map<std::string, const FrameRecord*> by_path;
    for (const FrameRecord& f : frames) by_path[f.path.native()] = &f;
    std::vector<QVariantList> rows;
    for (const auto& [path, frame] : by_path) rows.push_back(row_of(engine_, *frame));
    upsert_rows(engine_, "frames", frame_columns, "path", rows);
    const bool entered = enter && enter_reported(engine_, frames);
    engine_.record({"", "", "frames", "", fmt::format("take in {}", frames.size()), "",
                    frames.empty() ? "" : text(engine_.kept(frames.front().path))});
    engine_.stamp("frames");
    if (entered) engine_.stamp("fleet");
    transaction.commit();
}

int StoredFrames::count() const {
    QSqlQuery q = engine_.run("SELECT count(*) FROM frames");
    return q.next() ? q.value(0).toInt() : 0;
}

}  // namespace optrel

#include "store/store.h"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <QStandardPaths>
#include <algorithm>

#include "base/error.h"
#include "calibration/run_json.h"
#include "store/database.h"

namespace optrel {

Store::Store(const std::filesystem::path& folder) : folder_(folder) {
    std::error_code failed;
    std::filesystem::create_directories(folder, failed);
    if (failed || !std::filesystem::is_directory(folder))
        throw store_error(fmt::format("The store's folder {} cannot be made ({}); choose another one.", folder.string(), failed.message()));
    db_ = std::make_unique<Database>(folder / "store.sqlite");
    std::filesystem::create_directories(rollouts_folder(), failed);
}

Store::~Store() = default;

std::filesystem::path default_store_folder() {
    return QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation).toStdString() + "/optrel";
}

namespace {

const char* frame_columns = "path, rendered, maker, model, body_serial, lens, lens_serial, focal_mm, aperture, iso, distance_m, pitch_um, width, height, time, size, modified";

FrameRecord frame_from(const QSqlQuery& q) {
    FrameRecord f;
    f.path = text(q.value(0));
    Metadata& m = f.metadata;
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
    return f;
}

}  // namespace

std::vector<FrameRecord> Store::frames() {
    std::vector<FrameRecord> out;
    QSqlQuery q = db_->run(fmt::format("SELECT {} FROM frames ORDER BY path", frame_columns));
    while (q.next()) out.push_back(frame_from(q));
    return out;
}

std::optional<FrameRecord> Store::frame(const std::filesystem::path& path) {
    QSqlQuery q = db_->run(fmt::format("SELECT {} FROM frames WHERE path = ?", frame_columns), {text(path.string())});
    if (!q.next()) return std::nullopt;
    return frame_from(q);
}

void Store::put_frames(const std::vector<FrameRecord>& frames) {
    Database::Transaction transaction(*db_);
    for (const FrameRecord& f : frames) {
        const Metadata& m = f.metadata;
        db_->run(fmt::format("INSERT OR REPLACE INTO frames ({}) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)", frame_columns),
                 {text(f.path.string()), m.kind == FrameKind::rendered, text(m.maker), text(m.model), text(m.body_serial), text(m.lens), text(m.lens_serial), m.focal_mm,
                  m.aperture, m.iso, m.distance_m, m.pitch_um, m.width, m.height, text(m.time), f.size, f.modified});
        if (const Body b = body_from(m); !b.id.empty())
            db_->run("INSERT OR IGNORE INTO bodies (id, maker, model, serial, name, asset_tag, width, height, pitch_um) VALUES (?,?,?,?,?,?,?,?,?)",
                     {text(b.id), text(b.maker), text(b.model), text(b.serial), "", "", b.width, b.height, b.pitch_um});
        if (const LensEntry l = lens_from(m); !l.id.empty())
            db_->run("INSERT OR IGNORE INTO lenses (id, lens, serial, name, asset_tag) VALUES (?,?,?,?,?)", {text(l.id), text(l.lens), text(l.serial), "", ""});
    }
    transaction.commit();
}

std::vector<Body> Store::bodies() {
    std::vector<Body> out;
    QSqlQuery q = db_->run("SELECT id, maker, model, serial, name, asset_tag, width, height, pitch_um FROM bodies ORDER BY id");
    while (q.next()) {
        Body b;
        b.id = text(q.value(0));
        b.maker = text(q.value(1));
        b.model = text(q.value(2));
        b.serial = text(q.value(3));
        b.name = text(q.value(4));
        b.asset_tag = text(q.value(5));
        b.width = q.value(6).toInt();
        b.height = q.value(7).toInt();
        b.pitch_um = q.value(8).toDouble();
        out.push_back(std::move(b));
    }
    return out;
}

std::vector<LensEntry> Store::lenses() {
    std::vector<LensEntry> out;
    QSqlQuery q = db_->run("SELECT id, lens, serial, name, asset_tag FROM lenses ORDER BY id");
    while (q.next()) out.push_back({text(q.value(0)), text(q.value(1)), text(q.value(2)), text(q.value(3)), text(q.value(4))});
    return out;
}

void Store::put_body(const Body& b) {
    db_->run("INSERT OR REPLACE INTO bodies (id, maker, model, serial, name, asset_tag, width, height, pitch_um) VALUES (?,?,?,?,?,?,?,?,?)",
             {text(b.id), text(b.maker), text(b.model), text(b.serial), text(b.name), text(b.asset_tag), b.width, b.height, b.pitch_um});
}

void Store::put_lens(const LensEntry& l) {
    db_->run("INSERT OR REPLACE INTO lenses (id, lens, serial, name, asset_tag) VALUES (?,?,?,?,?)", {text(l.id), text(l.lens), text(l.serial), text(l.name), text(l.asset_tag)});
}

std::vector<Profile> Store::profiles(bool all_versions) {
    std::vector<Profile> out;
    QSqlQuery q = db_->run("SELECT id, version, document FROM profiles ORDER BY id, version DESC");
    while (q.next()) {
        if (!all_versions && !out.empty() && out.back().id == text(q.value(0))) continue;
        out.push_back(profile_from_json(text(q.value(2)), fmt::format("Profile {} version {} in the store", text(q.value(0)), q.value(1).toInt())));
    }
    std::stable_sort(out.begin(), out.end(), [](const Profile& a, const Profile& b) { return a.name < b.name; });
    return out;
}

Profile Store::publish_profile(Profile profile) {
    Database::Transaction transaction(*db_);
    int version = 0;
    for (const Profile& p : profiles(true))
        if (p.lens == profile.lens && p.lens_serial == profile.lens_serial && p.camera == profile.camera && p.version > version) {
            profile.id = p.id;
            version = p.version;
        }
    profile.version = version + 1;
    db_->run("INSERT INTO profiles (id, version, document) VALUES (?,?,?)", {text(profile.id), profile.version, text(profile_to_json(profile))});
    transaction.commit();
    return profile;
}

Revision Store::draft() {
    QSqlQuery q = db_->run("SELECT document FROM baselines WHERE number = 0");
    if (q.next()) return revision_from_json(text(q.value(0)), "the store's draft");
    Revision fresh = current_revision();
    fresh.number = 0;
    return fresh;
}

void Store::put_draft(const Revision& draft) {
    Revision d = draft;
    d.number = 0;
    db_->run("INSERT OR REPLACE INTO baselines (number, document) VALUES (0, ?)", {text(revision_to_json(d))});
}

std::vector<Revision> Store::revisions() {
    std::vector<Revision> out;
    QSqlQuery q = db_->run("SELECT number, document FROM baselines WHERE number > 0 ORDER BY number DESC");
    while (q.next()) out.push_back(revision_from_json(text(q.value(1)), fmt::format("revision {} of the store", q.value(0).toInt())));
    return out;
}

Revision Store::current_revision() {
    QSqlQuery q = db_->run("SELECT document FROM baselines WHERE number > 0 ORDER BY number DESC LIMIT 1");
    return q.next() ? revision_from_json(text(q.value(0)), "the store's newest revision") : Revision{};
}

Revision Store::publish_draft(const std::string& author, const std::string& note) {
    Database::Transaction transaction(*db_);
    Revision r = draft();
    if (const std::vector<Conflict> conflicts = find_conflicts(r.tiers); !conflicts.empty()) throw input_error(conflicts.front().sentence());
    r.number = current_revision().number + 1;
    r.author = author;
    r.note = note;
    r.time = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
    db_->run("INSERT INTO baselines (number, document) VALUES (?, ?)", {r.number, text(revision_to_json(r))});
    put_draft(r);
    transaction.commit();
    return r;
}

std::vector<RunRecord> Store::runs() {
    std::vector<RunRecord> out;
    QSqlQuery q = db_->run("SELECT id, name, chart, folder FROM runs ORDER BY id DESC");
    while (q.next()) out.push_back({q.value(0).toInt(), text(q.value(1)), text(q.value(2)), text(q.value(3)), {}});
    for (RunRecord& run : out) {
        QSqlQuery f = db_->run("SELECT document FROM run_frames WHERE run = ? ORDER BY position", {run.id});
        while (f.next()) run.frames.push_back(run_frame_from_json(text(f.value(0)), fmt::format("run {} of the store", run.id)));
    }
    return out;
}

int Store::put_run(const RunRecord& run) {
    Database::Transaction transaction(*db_);
    int id = run.id;
    if (id == 0) {
        QSqlQuery q = db_->run("INSERT INTO runs (name, chart, folder) VALUES (?,?,?)", {text(run.name), text(run.chart), text(run.folder)});
        id = q.lastInsertId().toInt();
    } else {
        db_->run("UPDATE runs SET name = ?, chart = ?, folder = ? WHERE id = ?", {text(run.name), text(run.chart), text(run.folder), id});
        db_->run("DELETE FROM run_frames WHERE run = ?", {id});
    }
    for (std::size_t i = 0; i < run.frames.size(); ++i)
        db_->run("INSERT INTO run_frames (run, position, document) VALUES (?,?,?)", {id, static_cast<int>(i), text(run_frame_to_json(run.frames[i]))});
    transaction.commit();
    return id;
}

void Store::put_run_frame(int run, int position, const RunFrame& frame) {
    db_->run("UPDATE run_frames SET document = ? WHERE run = ? AND position = ?", {text(run_frame_to_json(frame)), run, position});
}

void Store::delete_run(int id) { db_->run("DELETE FROM runs WHERE id = ?", {id}); }

}  // namespace optrel

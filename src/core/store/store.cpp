#include "store/store.h"

#include <fmt/format.h>

#include <QStandardPaths>
#include <algorithm>
#include <cctype>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"
#include "calibration/run_json.h"
#include "store/database.h"

namespace optrel {

namespace {

namespace fs = std::filesystem;

/// Stores beside the folder that was asked for, for somebody who mistyped its name.
std::vector<std::string> stores_beside(const fs::path& folder) {
    std::vector<std::string> out;
    std::error_code none;
    const fs::path parent = fs::absolute(folder).lexically_normal().parent_path();
    for (const fs::directory_entry& entry : fs::directory_iterator(parent, none))
        if (is_store(entry.path()))
            out.push_back(
                (folder.has_parent_path() ? folder.parent_path() / entry.path().filename() : entry.path().filename())
                    .string());
    return out;
}

void refuse_address(const fs::path& folder) {
    const std::string text = folder.string();
    if (const auto at = text.find(":/"); at != std::string::npos && at > 1 && text.find('/') > at &&
                                         std::all_of(text.begin(), text.begin() + at, [](unsigned char c) {
                                             return std::isalnum(c) || c == '+' || c == '-';
                                         }))
        throw input_error(
            fmt::format("'{}' is an address, and this version keeps a store in a folder only; name a folder.", text));
}

/// A folder for a store that is to be begun: made when missing, refused when it holds pictures.
void make_place(const fs::path& folder) {
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder, failed)) {
        std::string extension = entry.path().extension().string();
        std::transform(extension.begin(), extension.end(), extension.begin(),
                       [](unsigned char c) { return std::tolower(c); });
        for (const char* picture : {".dng", ".tif", ".tiff", ".jpg", ".jpeg", ".png", ".raw"})
            if (extension == picture)
                throw input_error(
                    fmt::format("{} holds pictures ({}), so no store is begun in it; name a folder of its own.",
                                printable(folder.string()), printable(entry.path().filename().string())));
    }
    failed.clear();
    fs::create_directories(folder, failed);
    if (failed || !fs::is_directory(folder))
        throw store_error(fmt::format("The store's folder {} cannot be made ({}); choose another one.", folder.string(),
                                      failed.message()));
}

}  // namespace

bool is_store(const fs::path& folder) {
    std::error_code none;
    return fs::is_regular_file(folder / "store.sqlite", none);
}

Store::Store(const fs::path& folder, Access access) : folder_(folder) {
    refuse_address(folder);
    if (!is_store(folder)) {
        if (access != Access::begin)
            throw input_error(fmt::format(
                "There is no store in {}{}; check the path, or begin one there with 'optrel-cli store begin'.",
                printable(folder.string()), nearest_clause(folder.string(), stores_beside(folder))));
        make_place(folder);
    }
    db_ = std::make_unique<Database>(folder / "store.sqlite", access);
    std::error_code failed;
    if (db_->writable()) fs::create_directories(rollouts_folder(), failed);
}

bool Store::writable() const { return db_->writable(); }

std::map<std::string, int> Store::stamps() {
    std::map<std::string, int> out;
    QSqlQuery q = db_->run("SELECT name, value FROM counters");
    while (q.next()) out[text(q.value(0))] = q.value(1).toInt();
    return out;
}

void Store::stamp(const char* part) {
    db_->run("INSERT INTO counters (name, value) VALUES (?, 1) ON CONFLICT (name) DO UPDATE SET value = value + 1",
             {part});
}

int Store::frame_count() {
    QSqlQuery q = db_->run("SELECT count(*) FROM frames");
    return q.next() ? q.value(0).toInt() : 0;
}

Store::~Store() = default;

std::filesystem::path default_store_folder() {
    return QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation).toStdString() + "/optrel";
}

namespace {

const char* frame_columns =
    "path, rendered, maker, model, body_serial, lens, lens_serial, focal_mm, aperture, iso, distance_m, pitch_um, "
    "width, height, time, size, modified, other_serials, filter, recorded, orientation";

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
    for (const QString& s : q.value(17).toString().split('\n', Qt::SkipEmptyParts))
        m.other_serials.push_back(s.toStdString());
    m.filter = text(q.value(18));
    m.orientation = q.value(20).toInt();
    // Four characters: contrast, saturation, sharpness as figures or -, and whether a rendering is embedded.
    if (const std::string r = text(q.value(19)); r.size() == 4) {
        const auto level = [](char c) { return c >= '0' && c <= '2' ? c - '0' : -1; };
        m.recorded_contrast = level(r[0]);
        m.recorded_saturation = level(r[1]);
        m.recorded_sharpness = level(r[2]);
        m.recorded_rendering = r[3] == 'r';
    }
    return f;
}

std::string recorded_text(const Metadata& m) {
    const auto level = [](int v) { return v < 0 ? '-' : static_cast<char>('0' + v); };
    return {level(m.recorded_contrast), level(m.recorded_saturation), level(m.recorded_sharpness),
            m.recorded_rendering ? 'r' : '-'};
}

/// Registers what names itself by a serial number and is not there yet.
template <class Db>
void enter_reported(Db& db, const std::vector<FrameRecord>& frames) {
    for (const FrameRecord& f : frames) {
        const Metadata& m = f.metadata;
        if (const ModelEntry e = model_from(m); !e.id.empty())
            db.run(
                "INSERT OR IGNORE INTO models (id, maker, model, width, height, pitch_um, filter) VALUES "
                "(?,?,?,?,?,?,?)",
                {text(e.id), text(e.maker), text(e.model), e.width, e.height, e.pitch_um, text(e.filter)});
        if (const Body b = body_from(m); !b.id.empty())
            db.run(
                "INSERT INTO bodies (id, maker, model, serial, name, asset_tag, width, height, pitch_um) SELECT "
                "?,?,?,?,'','',?,?,?"
                " WHERE NOT EXISTS (SELECT 1 FROM bodies WHERE id = ? OR (maker = ? AND model = ? AND serial = ?))",
                {text(b.id), text(b.maker), text(b.model), text(b.serial), b.width, b.height, b.pitch_um, text(b.id),
                 text(b.maker), text(b.model), text(b.serial)});
        if (const LensEntry l = lens_from(m); !l.id.empty())
            db.run(
                "INSERT OR IGNORE INTO lenses (id, lens, serial, name, asset_tag, focal_min, focal_max, aperture_min) "
                "VALUES (?,?,?,'','',?,?,?)",
                {text(l.id), text(l.lens), text(l.serial), l.focal_min_mm, l.focal_max_mm, l.aperture_min});
    }
}

}  // namespace

std::vector<FrameRecord> Store::frames() {
    std::vector<FrameRecord> out;
    QSqlQuery q = db_->run(fmt::format("SELECT {} FROM frames ORDER BY path", frame_columns));
    while (q.next()) out.push_back(frame_from(q));
    return out;
}

Store::Reported Store::reported() {
    Reported out;
    QSqlQuery q = db_->run("SELECT DISTINCT maker, model FROM frames");
    while (q.next()) {
        Metadata m;
        m.maker = text(q.value(0));
        m.model = text(q.value(1));
        if (const std::string name = camera_name(m); !name.empty()) out.models.push_back(name);
    }
    QSqlQuery l = db_->run("SELECT DISTINCT lens FROM frames WHERE lens != ''");
    while (l.next()) out.lenses.push_back(text(l.value(0)));
    return out;
}

std::optional<FrameRecord> Store::frame(const std::filesystem::path& path) {
    QSqlQuery q = db_->run(fmt::format("SELECT {} FROM frames WHERE path = ?", frame_columns), {text(path.string())});
    if (!q.next()) return std::nullopt;
    return frame_from(q);
}

void Store::put_frames(const std::vector<FrameRecord>& frames, bool enter) {
    Database::Transaction transaction(*db_);
    QSqlQuery put = db_->prepared(fmt::format(
        "INSERT OR REPLACE INTO frames ({}) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)", frame_columns));
    for (const FrameRecord& f : frames) {
        const Metadata& m = f.metadata;
        db_->execute(put, {text(f.path.string()),
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
                           m.orientation});
    }
    if (enter) enter_reported(*db_, frames);
    stamp("frames");
    if (enter) stamp("fleet");
    transaction.commit();
}

std::vector<Profile> Store::profiles(bool all_versions) {
    std::vector<Profile> out;
    QSqlQuery q = db_->run("SELECT id, version, document FROM profiles ORDER BY id, version DESC");
    while (q.next()) {
        if (!all_versions && !out.empty() && out.back().id == text(q.value(0))) continue;
        out.push_back(profile_from_json(
            text(q.value(2)), fmt::format("Profile {} version {} in the store", text(q.value(0)), q.value(1).toInt())));
    }
    std::stable_sort(out.begin(), out.end(), [](const Profile& a, const Profile& b) { return a.name < b.name; });
    return out;
}

Profile Store::publish_profile(Profile profile, bool keep_settings) {
    Database::Transaction transaction(*db_);
    std::optional<Profile> before;
    for (const Profile& p : profiles(true))
        if (same_subject(p, profile) && (!before || p.version > before->version)) before = p;
    if (before && keep_settings) profile = merged(*before, profile);
    if (before) profile.id = before->id;
    // Another subject may have taken the id, as when a file was copied.
    for (const Profile& p : profiles(true))
        if (!before && p.id == profile.id)
            profile.id += fmt::format("-{:08x}", fnv1a(profile_to_json(profile)) & 0xffffffffu);
    profile.version = before ? before->version + 1 : 1;
    db_->run("INSERT INTO profiles (id, version, document) VALUES (?,?,?)",
             {text(profile.id), profile.version, text(profile_to_json(profile))});
    stamp("profiles");
    transaction.commit();
    return profile;
}

std::vector<RunFrame> Store::frames_of_run(int id) {
    std::vector<RunFrame> out;
    QSqlQuery f = db_->run("SELECT document FROM run_frames WHERE run = ? ORDER BY position", {id});
    while (f.next()) out.push_back(run_frame_from_json(text(f.value(0)), fmt::format("run {} of the store", id)));
    return out;
}

std::vector<RunRecord> Store::runs() {
    std::vector<RunRecord> out;
    QSqlQuery q = db_->run("SELECT id, name, chart, folder FROM runs ORDER BY id DESC");
    while (q.next()) out.push_back({q.value(0).toInt(), text(q.value(1)), text(q.value(2)), text(q.value(3)), {}});
    for (RunRecord& run : out) run.frames = frames_of_run(run.id);
    return out;
}

std::optional<RunRecord> Store::unfinished_run(const std::string& name, const std::string& folder,
                                               const std::string& chart) {
    QSqlQuery q = db_->run("SELECT id FROM runs WHERE name = ? AND folder = ? AND chart = ? ORDER BY id DESC",
                           {text(name), text(folder), text(chart)});
    while (q.next()) {
        RunRecord run{q.value(0).toInt(), name, chart, folder, {}};
        run.frames = frames_of_run(run.id);
        if (std::any_of(run.frames.begin(), run.frames.end(), [](const RunFrame& f) { return !f.settled(); }))
            return run;
    }
    return std::nullopt;
}

int Store::put_run(const RunRecord& run) {
    Database::Transaction transaction(*db_);
    int id = run.id;
    if (id == 0) {
        QSqlQuery q = db_->run("INSERT INTO runs (name, chart, folder) VALUES (?,?,?)",
                               {text(run.name), text(run.chart), text(run.folder)});
        id = q.lastInsertId().toInt();
    } else {
        db_->run("UPDATE runs SET name = ?, chart = ?, folder = ? WHERE id = ?",
                 {text(run.name), text(run.chart), text(run.folder), id});
        db_->run("DELETE FROM run_frames WHERE run = ?", {id});
    }
    for (std::size_t i = 0; i < run.frames.size(); ++i)
        db_->run("INSERT INTO run_frames (run, position, document) VALUES (?,?,?)",
                 {id, static_cast<int>(i), text(run_frame_to_json(run.frames[i]))});
    transaction.commit();
    return id;
}

void Store::put_run_frame(int run, int position, const RunFrame& frame) {
    db_->run("UPDATE run_frames SET document = ? WHERE run = ? AND position = ?",
             {text(run_frame_to_json(frame)), run, position});
}

void Store::delete_run(int id) { db_->run("DELETE FROM runs WHERE id = ?", {id}); }

}  // namespace optrel

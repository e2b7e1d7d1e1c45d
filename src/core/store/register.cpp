// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/register.h"

#include <fmt/format.h>

#include <algorithm>
#include <type_traits>
#include <unordered_map>
#include <unordered_set>

#include "base/error.h"
#include "fleet/register_index.h"
#include "store/baselines.h"
#include "store/document_paths.h"
#include "store/engine.h"
#include "store/history.h"
#include "store/table_rows.h"

namespace optrel {
namespace {

template <class T>
EntryEdit<T> turned(const EntryEdit<T>& e) {
    return {e.after, e.before};
}
template <class T>
void turn(const std::vector<EntryEdit<T>>& from, std::vector<EntryEdit<T>>& to) {
    for (auto it = from.rbegin(); it != from.rend(); ++it) to.push_back(turned(*it));
}

std::string document(const ModelEntry& m) { return to_json(m); }
std::string document(const Body& b) { return to_json(b); }
std::string document(const LensEntry& l) { return to_json(l); }
std::string document(const Claim& c) { return claim_to_json(c); }
std::string label(const ModelEntry& m) { return m.id; }
std::string label(const Body& b) { return b.label(); }
std::string label(const LensEntry& l) { return l.label(); }
std::string label(const Claim& c) { return "The claim of " + c.target; }

template <class T>
using ById = std::unordered_map<std::string, T>;

template <class T>
ById<T> by_id(const std::vector<T>& list) {
    ById<T> out;
    for (const T& t : list) out.emplace(t.id, t);
    return out;
}

/// Applies edits to entries of the store; refuses entries that have changed.
template <class T>
void apply(const std::vector<EntryEdit<T>>& edits, ById<T> there, RegisterIndex& index) {
    for (const EntryEdit<T>& e : edits) {
        const T& named = e.after ? *e.after : e.before.value();
        const auto it = there.find(e.before ? e.before->id : named.id);
        if (e.before ? it == there.end() || !(it->second == *e.before) : it != there.end())
            throw input_error(
                fmt::format("{} was changed at another station meanwhile, so your change was not taken; look at it and "
                            "change it again.",
                            label(it == there.end() ? named : it->second)));
        if (it != there.end()) {
            if constexpr (!std::is_same_v<T, Claim>) index.take_out(it->second);
            there.erase(it);
        }
        if (e.after) there.emplace(e.after->id, *e.after);
    }
}

const RecordColumns<ModelEntry>& model_columns() {
    static const RecordColumns<ModelEntry> columns{
        {"id", &ModelEntry::id},         {"maker", &ModelEntry::maker},
        {"model", &ModelEntry::model},   {"width", &ModelEntry::width},
        {"height", &ModelEntry::height}, {"pitch_um", &ModelEntry::pitch_um},
        {"filter", &ModelEntry::filter}, {"recorded_adds", &ModelEntry::recorded_adds},
        {"notes", &ModelEntry::notes}};
    return columns;
}

const RecordColumns<Body>& body_columns() {
    static const RecordColumns<Body> columns{{"id", &Body::id},
                                             {"maker", &Body::maker},
                                             {"model", &Body::model},
                                             {"serial", &Body::serial},
                                             {"name", &Body::name},
                                             {"asset_tag", &Body::asset_tag},
                                             {"width", &Body::width},
                                             {"height", &Body::height},
                                             {"pitch_um", &Body::pitch_um},
                                             {"room", &Body::room},
                                             {"condition", &Body::condition},
                                             {"notes", &Body::notes},
                                             {"in_service", &Body::in_service}};
    return columns;
}

const RecordColumns<LensEntry>& lens_columns() {
    static const RecordColumns<LensEntry> columns{{"id", &LensEntry::id},
                                                  {"lens", &LensEntry::lens},
                                                  {"serial", &LensEntry::serial},
                                                  {"name", &LensEntry::name},
                                                  {"asset_tag", &LensEntry::asset_tag},
                                                  {"contacts", &LensEntry::contacts},
                                                  {"focal_min", &LensEntry::focal_min_mm},
                                                  {"focal_max", &LensEntry::focal_max_mm},
                                                  {"aperture_min", &LensEntry::aperture_min},
                                                  {"aperture_max", &LensEntry::aperture_max},
                                                  {"room", &LensEntry::room},
                                                  {"notes", &LensEntry::notes},
                                                  {"in_service", &LensEntry::in_service}};
    return columns;
}

}  // namespace

FleetEdit FleetEdit::reversed() const {
    FleetEdit out;
    out.what = what;
    turn(models, out.models);
    turn(bodies, out.bodies);
    turn(lenses, out.lenses);
    turn(claims, out.claims);
    return out;
}

std::vector<ModelEntry> StoredRegister::models() const {
    return read_records(engine_, "models", model_columns(), "ORDER BY id");
}

std::vector<Body> StoredRegister::bodies() const {
    return read_records(engine_, "bodies", body_columns(), "ORDER BY id");
}

std::vector<LensEntry> StoredRegister::lenses() const {
    return read_records(engine_, "lenses", lens_columns(), "ORDER BY id");
}

std::vector<Claim> StoredRegister::claims() const {
    std::vector<Claim> out;
    QSqlQuery q = engine_.run("SELECT document FROM claims ORDER BY id");
    while (q.next()) out.push_back(claim_from_json(with_paths_here(engine_, text(q.value(0))), "the store"));
    return out;
}

std::set<std::string> StoredRegister::numbering_models() const {
    std::set<std::string> out;
    Metadata m;
    // The same limit as the index: a server cannot look up keys of thousands of characters.
    const std::string names = "substr(maker, 1, 200), substr(model, 1, 200)";
    // Each query finds the next model by the index, which is faster than reading all frames.
    for (bool first = true;; first = false) {
        QSqlQuery q = engine_.run(
            fmt::format(
                "SELECT {0} FROM frames WHERE (body_serial <> '' OR other_serials <> '') {1} ORDER BY {0} LIMIT 1",
                names, first ? "" : fmt::format("AND ({}) > (?, ?)", names)),
            first ? QVariantList() : QVariantList{text(m.maker), text(m.model)});
        if (!q.next()) return out;
        m.maker = text(q.value(0));
        m.model = text(q.value(1));
        out.insert(camera_name(m));
    }
}

namespace {

/// Properties of each kind of entry.
template <class T>
struct Kind;

template <>
struct Kind<ModelEntry> {
    static constexpr const char *name = "model", *table = "models";
    static NamedValues row(const Engine&, const ModelEntry& e) { return row_of(e, model_columns()); }
    static void check(const ModelEntry& m, RegisterIndex&) {
        check_entry(m);
        if (!m.recorded_adds.empty()) pins_from_json(m.recorded_adds, "the register's entry of " + m.id);
    }
};

template <>
struct Kind<Body> {
    static constexpr const char *name = "body", *table = "bodies";
    static NamedValues row(const Engine&, const Body& e) { return row_of(e, body_columns()); }
    static void check(const Body& b, RegisterIndex& index) {
        index.check(b);
        index.put(b);
    }
};

template <>
struct Kind<LensEntry> {
    static constexpr const char *name = "lens", *table = "lenses";
    static NamedValues row(const Engine&, const LensEntry& e) { return row_of(e, lens_columns()); }
    static void check(const LensEntry& l, RegisterIndex& index) {
        index.check(l);
        index.put(l);
    }
};

template <>
struct Kind<Claim> {
    static constexpr const char *name = "claim", *table = "claims";
    static NamedValues row(const Engine& engine, const Claim& e) {
        return {{"id", text(e.id)}, {"document", text(with_kept_paths(engine, claim_to_json(e)))}};
    }
    static void check(const Claim& c, RegisterIndex&) { check_claim(c); }
};

/// Author and text of the edit.
struct Signature {
    std::string author, what;
};

template <class T>
void write(Engine& engine, const std::vector<EntryEdit<T>>& edits, RegisterIndex& index, const Signature& signature) {
    using K = Kind<T>;
    for (const EntryEdit<T>& e : edits) {
        if (e.after) {
            K::check(*e.after, index);
            put_row(engine, K::table, K::row(engine, *e.after));
        }
        if (e.before && (!e.after || e.after->id != e.before->id))
            engine.run(fmt::format("DELETE FROM {} WHERE id = ?", K::table), {text(e.before->id)});
        engine.record({"", signature.author, K::name, e.after ? e.after->id : e.before->id, signature.what,
                       e.before ? document(*e.before) : "", e.after ? document(*e.after) : ""});
    }
}

}  // namespace

void StoredRegister::edit(const FleetEdit& edit, const std::string& author,
                          const std::function<void(Revision&)>& with_draft) {
    Transaction transaction(engine_, "fleet");
    const Register all = entries();
    RegisterIndex index(all);
    apply(edit.models, by_id(all.models), index);
    apply(edit.bodies, by_id(all.bodies), index);
    apply(edit.lenses, by_id(all.lenses), index);
    apply(edit.claims, by_id(claims()), index);
    const Signature signature{author, edit.what};
    write(engine_, edit.models, index, signature);
    write(engine_, edit.bodies, index, signature);
    write(engine_, edit.lenses, index, signature);
    write(engine_, edit.claims, index, signature);
    if (with_draft) baselines_.change_draft(with_draft);
    engine_.stamp("fleet");
    transaction.commit();
}

FleetEdit StoredRegister::edit_for(const RegisterImport& import) const {
    FleetEdit out;
    out.what = "import";
    const Register now_there = entries();
    const auto add = [](const auto& fresh, const auto& there, auto& edits) {
        for (const auto& entry : fresh) {
            const auto old = there.find(entry.id);
            if (old != there.end() && old->second == entry) continue;
            edits.push_back({old == there.end() ? std::nullopt : std::optional(old->second), entry});
        }
    };
    add(import.models, by_id(now_there.models), out.models);
    add(import.bodies, by_id(now_there.bodies), out.bodies);
    add(import.lenses, by_id(now_there.lenses), out.lenses);
    add(import.claims, by_id(claims()), out.claims);
    // Adding a body also adds its missing model.
    std::unordered_set<std::string> models;
    for (const ModelEntry& m : now_there.models) models.insert(m.id);
    for (const EntryEdit<ModelEntry>& m : out.models) models.insert(m.after->id);
    for (const EntryEdit<Body>& e : out.bodies)
        if (const std::string camera = e.after->camera(); models.insert(camera).second)
            out.models.push_back({std::nullopt, ModelEntry{camera, e.after->maker, e.after->model, e.after->width,
                                                           e.after->height, e.after->pitch_um, "", "", ""}});
    return out;
}

std::vector<HistoryEntry> StoredRegister::history(const std::string& kind, const std::string& subject, int most) const {
    // By default only kinds of the register; the history has more.
    if (!kind.empty()) return StoredHistory(engine_).entries(kind, subject, most);
    std::vector<HistoryEntry> out;
    for (const char* each : {Kind<ModelEntry>::name, Kind<Body>::name, Kind<LensEntry>::name, Kind<Claim>::name})
        for (HistoryEntry& e : StoredHistory(engine_).entries(each, subject, most)) out.push_back(std::move(e));
    std::sort(out.begin(), out.end(), [](const HistoryEntry& a, const HistoryEntry& b) { return a.id > b.id; });
    if (static_cast<int>(out.size()) > most) out.resize(static_cast<std::size_t>(most));
    return out;
}

}  // namespace optrel

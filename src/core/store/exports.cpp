// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/exports.h"

#include "store/engine.h"

namespace optrel {

namespace {

constexpr const char* export_columns =
    "e.in_order, e.position, e.frame, o.folder, e.out, o.delivery, e.state, e.message FROM exports e JOIN "
    "export_orders "
    "o ON "
    "o.id = e.in_order";

QueuedExport item_from(const Engine& engine, const QSqlQuery& q) {
    QueuedExport out;
    out.order = q.value(0).toInt();
    out.position = q.value(1).toInt();
    out.frame = engine.here(q.value(2));
    out.folder = engine.here(q.value(3));
    out.out = engine.here(q.value(4));
    out.delivery = text(q.value(5));
    out.state = static_cast<ExportState>(q.value(6).toInt());
    out.message = text(q.value(7));
    return out;
}

}  // namespace

std::string to_string(ExportState state) {
    constexpr const char* names[] = {"waiting", "writing", "done", "failed"};
    return names[static_cast<int>(state)];
}

void StoredExports::add(const std::string& station, const std::vector<std::filesystem::path>& frames,
                        const Delivery& delivery, const std::filesystem::path& folder) {
    Transaction transaction(engine_, "exports");
    QSqlQuery last = engine_.run("SELECT coalesce(max(id), 0) FROM export_orders");
    const int order = last.next() ? last.value(0).toInt() + 1 : 1;
    engine_.run("INSERT INTO export_orders (id, station, folder, delivery, document) VALUES (?,?,?,?,?)",
                {order, text(station), engine_.kept(folder), text(delivery.name), text(delivery_to_json(delivery))});
    QSqlQuery put =
        engine_.prepared("INSERT INTO exports (in_order, position, frame, out, state, message) VALUES (?,?,?,'',0,'')");
    int position = 0;
    for (const std::filesystem::path& frame : frames) engine_.execute(put, {order, ++position, engine_.kept(frame)});
    engine_.stamp("exports");
    transaction.commit();
}

std::vector<QueuedExport> StoredExports::of(const std::string& station) const {
    std::vector<QueuedExport> out;
    QSqlQuery q =
        engine_.run(std::string("SELECT ") + export_columns + " WHERE o.station = ? ORDER BY e.in_order, e.position",
                    {text(station)});
    while (q.next()) out.push_back(item_from(engine_, q));
    return out;
}

std::optional<QueuedExport> StoredExports::next(const std::string& station) const {
    for (const ExportState state : {ExportState::writing, ExportState::waiting}) {
        QSqlQuery q = engine_.run(std::string("SELECT ") + export_columns +
                                      " WHERE o.station = ? AND e.state = ? ORDER BY e.in_order, e.position LIMIT 1",
                                  {text(station), static_cast<int>(state)});
        if (q.next()) return item_from(engine_, q);
    }
    return std::nullopt;
}

std::vector<std::filesystem::path> StoredExports::frames_done() const {
    std::vector<std::filesystem::path> out;
    QSqlQuery q =
        engine_.run("SELECT DISTINCT frame FROM exports WHERE state = ?", {static_cast<int>(ExportState::done)});
    while (q.next()) out.push_back(engine_.here(q.value(0)));
    return out;
}

Delivery StoredExports::delivery_of(const QueuedExport& item) const {
    QSqlQuery q = engine_.run("SELECT document FROM export_orders WHERE id = ?", {item.order});
    return delivery_from_json(q.next() ? text(q.value(0)) : std::string(), "The delivery of a queued export");
}

std::vector<std::filesystem::path> StoredExports::outs_beside(const QueuedExport& item) const {
    std::vector<std::filesystem::path> out;
    QSqlQuery q = engine_.run("SELECT out FROM exports WHERE in_order = ? AND position != ? AND out != ''",
                              {item.order, item.position});
    while (q.next()) out.push_back(engine_.here(q.value(0)));
    return out;
}

void StoredExports::set(const QueuedExport& item) {
    Transaction transaction(engine_);
    engine_.run("UPDATE exports SET state = ?, out = ?, message = ? WHERE in_order = ? AND position = ?",
                {static_cast<int>(item.state), engine_.kept(item.out), text(item.message), item.order, item.position});
    engine_.stamp("exports");
    transaction.commit();
}

void StoredExports::try_again(const std::string& station) {
    Transaction transaction(engine_);
    engine_.run(
        "UPDATE exports SET state = ?, out = '', message = '' WHERE state = ? AND in_order IN (SELECT id FROM "
        "export_orders WHERE station = ?)",
        {static_cast<int>(ExportState::waiting), static_cast<int>(ExportState::failed), text(station)});
    engine_.stamp("exports");
    transaction.commit();
}

void StoredExports::clear(const std::string& station, ExportState state) {
    Transaction transaction(engine_);
    engine_.run("DELETE FROM exports WHERE state = ? AND in_order IN (SELECT id FROM export_orders WHERE station = ?)",
                {static_cast<int>(state), text(station)});
    engine_.run("DELETE FROM export_orders WHERE id NOT IN (SELECT in_order FROM exports)");
    engine_.stamp("exports");
    transaction.commit();
}

}  // namespace optrel

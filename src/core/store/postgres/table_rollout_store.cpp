// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/postgres/table_rollout_store.h"

#include <fmt/format.h>

#include <QCryptographicHash>

#include "base/error.h"
#include "base/station.h"
#include "base/words.h"
#include "rollout/lease_marks.h"
#include "rollout/packed_plan.h"
#include "store/engine.h"
#include "store/postgres/server_lease.h"

namespace optrel::postgres {
namespace {

namespace fs = std::filesystem;

/// Piece size of a plan or its data, before compression.
constexpr std::size_t piece_size = 4u << 20;

const std::string record_columns =
    "SELECT number, revision, author, time, frames, station, scope, hours, takes_back, status FROM rollouts";

RolloutRecord record_from(const QSqlQuery& q) {
    RolloutRecord r;
    r.number = q.value(0).toInt();
    try {
        r.revision = q.value(1).toInt();
        r.author = text(q.value(2));
        r.time = text(q.value(3));
        r.frames = q.value(4).toInt();
        r.station = text(q.value(5));
        r.scope = text(q.value(6));
        r.hours = day_hours_from(text(q.value(7)));
        r.takes_back = q.value(8).toInt();
        r.status = rollout_status_named(text(q.value(9)));
    } catch (const Error& error) {
        r.status = RolloutStatus::damaged;
        r.problem = fmt::format("The record of rollout {} is damaged ({}); restore the store from a copy.", r.number,
                                without_stop(error.what()));
    }
    return r;
}

PackedPlan pack_kept(const Engine& engine, std::vector<RolloutEntry> entries) {
    for (RolloutEntry& e : entries) e.frame = text(engine.kept(e.frame));
    return pack(entries);
}

/// By the kept paths, which are the same at all stations.
LeaseMarks marks_of(const Engine& engine, const std::vector<fs::path>& frames) {
    std::vector<LeaseMarks::Frame> known;
    for (const fs::path& frame : frames) known.emplace_back(text(engine.kept(frame)), &frame);
    return LeaseMarks(known);
}

/// One row of rollout_pieces.
struct Piece {
    const char* part;
    int position;
    QByteArray bytes;
};

/// The rows of a plan, in the order in which the server hashes them (schema.cpp): by part and position.
std::vector<Piece> pieces_of(const PackedPlan& packed) {
    std::vector<Piece> out;
    for (const auto& [part, bytes] : {std::pair("data", &packed.data), std::pair("plan", &packed.plan)}) {
        int position = 0;
        for (std::size_t at = 0; at < bytes->size(); at += piece_size) {
            const std::size_t size = std::min(piece_size, bytes->size() - at);
            out.push_back(
                {part, position++,
                 qCompress(reinterpret_cast<const uchar*>(bytes->data() + at), static_cast<qsizetype>(size))});
        }
    }
    return out;
}

std::string hash_of(const std::vector<Piece>& pieces) {
    QCryptographicHash hash(QCryptographicHash::Sha256);
    for (const Piece& p : pieces) hash.addData(p.bytes);
    return hash.result().toHex().toStdString();
}

/// The caller holds the transaction.
void insert(Engine& engine, const RolloutRecord& r, const PackedPlan& packed) {
    const std::vector<Piece> pieces = pieces_of(packed);
    engine.run(
        "INSERT INTO rollouts (number, revision, author, time, frames, station, scope, hours, takes_back, status, "
        "plan_sha256) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        {r.number, r.revision, text(r.author), text(r.time), r.frames, text(r.station), text(r.scope),
         text(to_string(r.hours)), r.takes_back, text(to_string(r.status)), text(hash_of(pieces))});
    QSqlQuery put = engine.prepared("INSERT INTO rollout_pieces (rollout, part, position, bytes) VALUES (?, ?, ?, ?)");
    for (const Piece& p : pieces) engine.execute(put, {r.number, p.part, p.position, p.bytes});
}

/// Prefix of the lease names that show where rollouts run.
const std::string rollout_lease = "rollout ";

/// Has its own connection, and belongs to the thread that created it.
class TableLease final : public RolloutStore::Lease {
public:
    TableLease(std::unique_ptr<Engine> engine, std::unique_ptr<ServerLease> lease)
        : engine_(std::move(engine)), lease_(std::move(lease)) {}
    ~TableLease() override {
        lease_->give_back();
        if (shown_) shown_->give_back();
    }
    Standing ask() override {
        if (shown_) shown_->ask();
        return lease_->ask();
    }
    bool valid() const override { return lease_->valid(); }
    void is_for(int rollout) override {
        try {
            const std::string name = rollout_lease + std::to_string(rollout);
            Transaction transaction(*engine_, "leases");
            ServerLease::of_others(*engine_, name);  // removes expired ones
            shown_ = std::make_unique<ServerLease>(*engine_, name, this_station(), "");
            transaction.commit();
        } catch (const std::exception&) {
            shown_.reset();
        }
    }

private:
    std::unique_ptr<Engine> engine_;
    std::unique_ptr<ServerLease> lease_, shown_;
};

}  // namespace

/// May be called from any thread, but a connection belongs to one thread.
template <class Work>
auto TableRolloutStore::with_engine(const Work& work) const {
    if (std::this_thread::get_id() == owner_) return work(engine_);
    return work(*open_());
}

std::vector<RolloutRecord> TableRolloutStore::list() const {
    return with_engine([](Engine& engine) {
        std::vector<RolloutRecord> out;
        QSqlQuery q = engine.run(record_columns + " ORDER BY number DESC");
        while (q.next()) out.push_back(record_from(q));
        for (const auto& [number, station] : ServerLease::at_work(engine, rollout_lease))
            for (RolloutRecord& r : out)
                if (std::to_string(r.number) == number) r.running_at = station;
        return out;
    });
}

std::unique_ptr<RolloutStore::Lease> TableRolloutStore::lease(const std::vector<fs::path>& frames,
                                                              const std::string& who) {
    std::unique_ptr<Engine> own = open_();
    const LeaseMarks wanted = marks_of(*own, frames);
    Transaction transaction(*own, "leases");
    for (const ServerLease::Other& other : ServerLease::of_others(*own, "frames"))
        wanted.require_apart(other.who, other.marks);
    auto lease = std::make_unique<ServerLease>(*own, "frames", who, wanted.bytes());
    transaction.commit();
    return std::make_unique<TableLease>(std::move(own), std::move(lease));
}

std::string TableRolloutStore::plan_hash(const std::vector<RolloutEntry>& entries) const {
    return hash_of(pieces_of(pack_kept(engine_, entries)));
}

void TableRolloutStore::begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    RolloutRecord kept = record;
    kept.status = RolloutStatus::writing;
    kept.frames = static_cast<int>(entries.size());
    const PackedPlan packed = pack_kept(engine_, entries);
    with_engine([&](Engine& engine) {
        Transaction transaction(engine, "rollouts");
        QSqlQuery last = engine.run("SELECT coalesce(max(number), 0) FROM rollouts");
        last.next();
        kept.number = last.value(0).toInt() + 1;
        insert(engine, kept, packed);
        engine.stamp("rollouts");
        transaction.commit();
    });
    record = kept;
}

void TableRolloutStore::keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    const PackedPlan packed = pack_kept(engine_, entries);
    with_engine([&](Engine& engine) {
        Transaction transaction(engine, "rollouts");
        if (!engine.run("SELECT 1 FROM rollouts WHERE number = ?", {record.number}).next())
            insert(engine, record, packed);
        transaction.commit();
    });
}

RolloutRecord TableRolloutStore::record(int number) const {
    return with_engine([&](Engine& engine) {
        QSqlQuery q = engine.run(record_columns + " WHERE number = ?", {number});
        if (!q.next())
            throw input_error(fmt::format("There is no rollout {} in the store; look at the history.", number));
        RolloutRecord out = record_from(q);
        if (out.status == RolloutStatus::damaged) throw store_error(out.problem);
        return out;
    });
}

std::vector<RolloutEntry> TableRolloutStore::entries(const RolloutRecord& record) const {
    const PackedPlan packed = with_engine([&](Engine& engine) {
        PackedPlan out;
        QSqlQuery q = engine.run("SELECT part, bytes FROM rollout_pieces WHERE rollout = ? ORDER BY part, position",
                                 {record.number});
        while (q.next()) {
            const QByteArray piece = qUncompress(q.value(1).toByteArray());
            (text(q.value(0)) == "plan" ? out.plan : out.data).append(piece.constData(), piece.size());
        }
        return out;
    });
    try {
        std::vector<RolloutEntry> out = unpack(packed);
        for (RolloutEntry& e : out) e.frame = engine_.here(text(e.frame.string()));
        // The number of frames was shown and approved.
        if (static_cast<int>(out.size()) != record.frames)
            throw input_error(fmt::format("it has {} sidecars in place of {}", out.size(), record.frames));
        return out;
    } catch (const std::exception& error) {
        throw store_error(fmt::format("The record of rollout {} is damaged ({}); restore the store from a copy.",
                                      record.number, without_stop(error.what())));
    }
}

void TableRolloutStore::set_status(int number, RolloutStatus status) {
    with_engine([&](Engine& engine) {
        Transaction transaction(engine);
        engine.run("UPDATE rollouts SET status = ? WHERE number = ?", {text(to_string(status)), number});
        engine.stamp("rollouts");
        transaction.commit();
    });
}

void TableRolloutStore::give_up(int number) { set_status(number, RolloutStatus::rolled_back); }

}  // namespace optrel::postgres

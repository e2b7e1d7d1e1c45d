// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/postgres/server_lease.h"

#include <fmt/format.h>

#include "base/boot_clock.h"
#include "base/error.h"
#include "base/station.h"
#include "rollout/lease_length.h"
#include "store/engine.h"

namespace optrel::postgres {
namespace {

const std::string now_ms = "CAST(extract(epoch FROM clock_timestamp()) * 1000 AS BIGINT)";

}  // namespace

std::vector<ServerLease::Other> ServerLease::of_others(Engine& engine, const std::string& name) {
    std::vector<Other> out;
    QSqlQuery there = engine.run(
        fmt::format("SELECT id, who, marks, process, until <= {}, login = session_user FROM leases WHERE name = ?",
                    now_ms),
        {text(name)});
    while (there.next()) {
        const bool over = there.value(4).toBool();
        // A lease of another user must expire: the server does not allow removing it.
        const bool ended = there.value(5).toBool() && process_ended(text(there.value(3)));
        const bool removed =
            (over || ended) && engine.run(fmt::format("DELETE FROM leases WHERE id = ? AND (until <= {} OR ?)", now_ms),
                                          {there.value(0), ended})
                                       .numRowsAffected() == 1;
        if (!removed) out.push_back({text(there.value(1)), there.value(2).toByteArray().toStdString()});
    }
    return out;
}

std::vector<std::pair<std::string, std::string>> ServerLease::at_work(Engine& engine, const std::string& prefix) {
    std::vector<std::pair<std::string, std::string>> out;
    QSqlQuery q = engine.run(
        fmt::format("SELECT substr(name, ?), who, process FROM leases WHERE starts_with(name, ?) AND until > {}",
                    now_ms),
        {static_cast<int>(prefix.size()) + 1, text(prefix)});
    while (q.next())
        if (!process_ended(text(q.value(2)))) out.emplace_back(text(q.value(0)), text(q.value(1)));
    return out;
}

ServerLease::ServerLease(Engine& engine, const std::string& name, const std::string& who, const std::string& marks)
    : engine_(engine), length_(lease_length()) {
    const long long before = boot_now().count();
    QSqlQuery made = engine.run(
        fmt::format("INSERT INTO leases (name, who, process, marks, until) VALUES (?, ?, ?, ?, {} + ?) RETURNING id",
                    now_ms),
        {text(name), text(who), text(this_process()), QByteArray::fromStdString(marks),
         static_cast<qlonglong>(length_.count())});
    made.next();
    id_ = made.value(0).toLongLong();
    until_ms_ = before + length_.count();
}

RolloutStore::Lease::Standing ServerLease::ask() {
    using Standing = RolloutStore::Lease::Standing;
    try {
        // Taken before the request, so that its duration cannot make the lease longer here than on the server.
        const long long before = boot_now().count();
        QSqlQuery left = engine_.run(fmt::format("SELECT until - {} FROM leases WHERE id = ?", now_ms),
                                     {static_cast<qlonglong>(id_)});
        if (!left.next()) return Standing::lost;
        long long remaining = left.value(0).toLongLong();
        if (remaining < length_.count() * 3 / 4) {
            QSqlQuery renewed = engine_.run(fmt::format("UPDATE leases SET until = {} + ? WHERE id = ?", now_ms),
                                            {static_cast<qlonglong>(length_.count()), static_cast<qlonglong>(id_)});
            if (renewed.numRowsAffected() != 1) return Standing::lost;
            remaining = length_.count();
        }
        until_ms_ = before + remaining;
        return Standing::mine;
    } catch (const Error&) {
        return Standing::unknown;
    }
}

bool ServerLease::valid() const { return boot_now().count() < until_ms_; }

void ServerLease::give_back() noexcept {
    try {
        engine_.run("DELETE FROM leases WHERE id = ?", {static_cast<qlonglong>(id_)});
    } catch (const std::exception&) {
        // It expires by itself.
    }
}

}  // namespace optrel::postgres

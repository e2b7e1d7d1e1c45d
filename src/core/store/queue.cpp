// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/queue.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/station.h"
#include "store/engine.h"
#include "store/settings.h"

namespace optrel {
namespace {

const std::string portion_columns =
    "p.job, p.position, j.kind, j.author, p.document, p.state, p.worker, p.tries, p.result, p.noted FROM portions p "
    "JOIN jobs j "
    "ON j.id = p.job";

QueuedPortion portion_from(const QSqlQuery& q) {
    return {q.value(0).toInt(), q.value(1).toInt(), text(q.value(2)),
            text(q.value(3)),   text(q.value(4)),   static_cast<PortionState>(q.value(5).toInt()),
            text(q.value(6)),   q.value(7).toInt(), text(q.value(8)),
            text(q.value(9))};
}

constexpr int waiting = static_cast<int>(PortionState::waiting);

constexpr const char* put_portion =
    "INSERT INTO portions (job, position, document, state, worker, tries, lease, result) VALUES (?, ?, ?, 0, '', 0, 0, "
    "'')";

constexpr const char* days_setting = "days that ended jobs are kept";

}  // namespace

std::string to_string(PortionState state) {
    constexpr const char* names[] = {"waiting", "done", "failed"};
    return names[static_cast<int>(state)];
}

int StoredQueue::add(const std::string& kind, const std::string& title, const std::vector<std::string>& portions) {
    Transaction transaction(engine_);
    QSqlQuery job = engine_.run(
        "INSERT INTO jobs (kind, title, author, station, time, cancelled) VALUES (?, ?, ?, ?, ?, ?) RETURNING id",
        {text(kind), text(title), text(current_author()), text(this_station()), text(engine_.now()), false});
    job.next();
    const int id = job.value(0).toInt();
    job.finish();  // SQLite cannot commit while a statement has rows left
    QSqlQuery put = engine_.prepared(put_portion);
    int position = 0;
    for (const std::string& document : portions) engine_.execute(put, {id, position++, text(document)});
    engine_.stamp("queue");
    forget_old();
    transaction.commit();
    return id;
}

int StoredQueue::days_kept() const {
    const std::string days = StoredSettings(engine_).get(days_setting);
    return days.empty() ? 30 : std::max(1, QString::fromStdString(days).toInt());
}

void StoredQueue::keep_for(int days) {
    if (days < 1 || days > 36500)
        throw input_error(fmt::format("Jobs that ended are kept for 1 to 36500 days, not for {}.", days));
    StoredSettings(engine_).put(days_setting, std::to_string(days));
}

int StoredQueue::forget_old() {
    Transaction transaction(engine_);
    const std::string old = fmt::format("SELECT id FROM jobs WHERE ended > 0 AND ended < {} - {}",
                                        engine_.seconds_in_sql(), 86400LL * days_kept());
    engine_.run("DELETE FROM portions WHERE job IN (" + old + ")");
    const int gone = engine_.run("DELETE FROM jobs WHERE id IN (" + old + ")").numRowsAffected();
    transaction.commit();
    return gone;
}

/// Marks a job as ended when none of its portions waits.
void StoredQueue::end_job_of(int job) {
    engine_.run(
        fmt::format("UPDATE jobs SET ended = {} WHERE id = ? AND ended = 0 AND (cancelled OR NOT EXISTS (SELECT 1 "
                    "FROM portions WHERE job = ? AND state = {}))",
                    engine_.seconds_in_sql(), waiting),
        {job, job});
}

void StoredQueue::replace(const QueuedPortion& portion, const std::vector<std::string>& parts) {
    engine_.run("DELETE FROM portions WHERE job = ? AND position = ?", {portion.job, portion.position});
    QSqlQuery last = engine_.run("SELECT coalesce(max(position), -1) FROM portions WHERE job = ?", {portion.job});
    last.next();
    int position = std::max(portion.position, last.value(0).toInt());
    last.finish();
    QSqlQuery put = engine_.prepared(put_portion);
    for (const std::string& part : parts) engine_.execute(put, {portion.job, ++position, text(part)});
}

std::vector<QueuedJob> StoredQueue::jobs() const {
    std::vector<QueuedJob> out;
    QSqlQuery q = engine_.run(fmt::format(
        "SELECT j.id, j.kind, j.title, j.author, j.station, j.time, j.cancelled, count(p.position), sum(CASE WHEN "
        "p.state = 1 THEN 1 ELSE 0 END), sum(CASE WHEN p.state = 2 THEN 1 ELSE 0 END), sum(CASE WHEN p.state = 0 AND "
        "p.lease > {} AND p.result = '' THEN 1 ELSE 0 END) FROM jobs j LEFT JOIN portions p ON p.job = j.id GROUP BY "
        "j.id, j.kind, "
        "j.title, j.author, j.station, j.time, j.cancelled ORDER BY j.id DESC",
        engine_.seconds_in_sql()));
    while (q.next())
        out.push_back({q.value(0).toInt(), text(q.value(1)), text(q.value(2)), text(q.value(3)), text(q.value(4)),
                       text(q.value(5)), q.value(6).toBool(), q.value(7).toInt(), q.value(8).toInt(),
                       q.value(9).toInt(), q.value(10).toInt()});
    return out;
}

QueuedJob StoredQueue::job(int id) const {
    for (QueuedJob& j : jobs())
        if (j.id == id) return j;
    throw input_error(fmt::format("There is no job {} in the queue; see 'optrel-cli queue list'.", id));
}

std::vector<QueuedPortion> StoredQueue::portions(int job) const {
    std::vector<QueuedPortion> out;
    QSqlQuery q = engine_.run("SELECT " + portion_columns + " WHERE p.job = ? ORDER BY p.position", {job});
    while (q.next()) out.push_back(portion_from(q));
    return out;
}

std::vector<QueuedPortion> StoredQueue::results(int job) const {
    std::vector<QueuedPortion> out;
    QSqlQuery q = engine_.run(
        "SELECT p.job, p.position, j.kind, j.author, '', p.state, p.worker, p.tries, p.result, p.noted FROM portions p "
        "JOIN jobs j ON j.id = p.job WHERE p.job = ? ORDER BY p.position",
        {job});
    while (q.next()) out.push_back(portion_from(q));
    return out;
}

std::optional<QueuedPortion> StoredQueue::take(const std::string& worker, const std::vector<std::string>& kinds,
                                               int seconds, const Divide& divide,
                                               const std::set<std::pair<int, int>>& except) {
    QVariantList values;
    std::string marks, others;
    for (const std::string& kind : kinds) {
        marks += marks.empty() ? "?" : ", ?";
        values.push_back(text(kind));
    }
    if (kinds.empty()) return std::nullopt;
    for (const auto& [job, position] : except)
        others += fmt::format("{}({}, {})", others.empty() ? "" : ", ", job, position);
    if (!others.empty()) others = fmt::format(" AND (p.job, p.position) NOT IN (VALUES {})", others);
    const std::string now = engine_.seconds_in_sql();
    Transaction transaction(engine_);
    for (;;) {
        QSqlQuery q = engine_.run(
            fmt::format("SELECT {} WHERE p.state = {} AND p.lease <= {} AND NOT j.cancelled AND j.kind IN ({}){} ORDER "
                        "BY p.job, p.position LIMIT 1 {}",
                        portion_columns, waiting, now, marks, others, engine_.skipping_locked("p")),
            values);
        if (!q.next()) {
            transaction.commit();
            return std::nullopt;
        }
        QueuedPortion out = portion_from(q);
        q.finish();
        if (out.tries >= most_tries) {
            const DividedPortion parts = divide ? divide(out) : DividedPortion();
            if (!parts.portions.empty()) {
                replace(out, parts.portions);
                continue;
            }
            engine_.run("UPDATE portions SET state = 2, result = ? WHERE job = ? AND position = ?",
                        {text(fmt::format("{} was begun {} times, and no station ended it; {} was the last{}{}",
                                          parts.about.empty() ? "It" : parts.about, out.tries, out.worker,
                                          out.result.empty() ? "." : ": ", out.result)),
                         out.job, out.position});
            end_job_of(out.job);
            continue;
        }
        out.worker = worker;
        ++out.tries;
        engine_.run(
            fmt::format(
                "UPDATE portions SET worker = ?, tries = ?, result = '', lease = {} + ? WHERE job = ? AND position "
                "= ?",
                now),
            {text(worker), out.tries, seconds, out.job, out.position});
        transaction.commit();
        return out;
    }
}

bool StoredQueue::any_waits(const std::vector<std::string>& kinds) const {
    QSqlQuery q = engine_.run(fmt::format(
        "SELECT DISTINCT j.kind FROM portions p JOIN jobs j ON j.id = p.job WHERE p.state = {} AND NOT j.cancelled",
        waiting));
    while (q.next())
        if (std::find(kinds.begin(), kinds.end(), text(q.value(0))) != kinds.end()) return true;
    return false;
}

bool StoredQueue::renew(const QueuedPortion& p, int seconds) {
    return engine_
               .run(fmt::format("UPDATE portions SET lease = {} + ? WHERE job = ? AND position = ? AND worker = ? AND "
                                "tries = ? AND state = 0 AND NOT (SELECT cancelled FROM jobs WHERE id = ?)",
                                engine_.seconds_in_sql()),
                    {seconds, p.job, p.position, text(p.worker), p.tries, p.job})
               .numRowsAffected() == 1;
}

bool StoredQueue::end(const QueuedPortion& p, PortionState state, const std::string& result) {
    Transaction transaction(engine_);
    const bool mine =
        engine_
            .run(
                "UPDATE portions SET state = ?, result = ? WHERE job = ? AND position = ? AND worker = ? "
                "AND tries = ? AND state = 0 AND NOT (SELECT cancelled FROM jobs WHERE id = ?)",
                {static_cast<int>(state), text(result), p.job, p.position, text(p.worker), p.tries, p.job})
            .numRowsAffected() == 1;
    if (mine) {
        end_job_of(p.job);
        engine_.stamp("queue");
    }
    transaction.commit();
    return mine;
}

std::vector<std::string> StoredQueue::noted_beside(const QueuedPortion& p) const {
    std::vector<std::string> out;
    QSqlQuery q =
        engine_.run("SELECT noted FROM portions WHERE job = ? AND position != ? AND noted != ''", {p.job, p.position});
    while (q.next()) out.push_back(text(q.value(0)));
    return out;
}

StoredQueue::Noted StoredQueue::note(const QueuedPortion& p, const std::string& name) {
    Transaction transaction(engine_, "names in the queue");
    QSqlQuery other = engine_.run(
        "SELECT 1 FROM portions p JOIN jobs j ON j.id = p.job WHERE p.noted = ? AND (p.job = ? OR (p.state = 0 AND "
        "NOT j.cancelled)) AND NOT (p.job = ? AND p.position = ?)",
        {text(name), p.job, p.job, p.position});
    const bool taken = other.next();
    other.finish();
    if (taken) return Noted::taken;
    const bool mine =
        engine_
            .run(
                "UPDATE portions SET noted = ? WHERE job = ? AND position = ? AND worker = ? AND tries = ? AND state "
                "= 0 AND NOT (SELECT cancelled FROM jobs WHERE id = ?)",
                {text(name), p.job, p.position, text(p.worker), p.tries, p.job})
            .numRowsAffected() == 1;
    transaction.commit();
    return mine ? Noted::mine : Noted::lost;
}

void StoredQueue::put_off(const QueuedPortion& p, int seconds, const std::string& why, bool counted) {
    engine_.run(
        fmt::format("UPDATE portions SET lease = {} + ?, result = ?, tries = tries - ? WHERE job = ? AND position = ? "
                    "AND worker = ? AND tries = ? AND state = 0",
                    engine_.seconds_in_sql()),
        {seconds, text(why), counted ? 0 : 1, p.job, p.position, text(p.worker), p.tries});
}

void StoredQueue::give_back(const QueuedPortion& p) {
    engine_.run(
        "UPDATE portions SET lease = 0, tries = tries - 1 WHERE job = ? AND position = ? AND worker = ? AND "
        "tries = ? AND state = 0",
        {p.job, p.position, text(p.worker), p.tries});
}

void StoredQueue::cancel(int job) {
    Transaction transaction(engine_);
    this->job(job);  // it exists
    engine_.run("UPDATE jobs SET cancelled = ? WHERE id = ?", {true, job});
    end_job_of(job);
    engine_.stamp("queue");
    transaction.commit();
}

}  // namespace optrel

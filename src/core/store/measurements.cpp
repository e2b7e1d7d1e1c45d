// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/measurements.h"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"
#include "measurement/set_states.h"
#include "store/engine.h"
#include "store/history.h"
#include "store/measurers.h"
#include "store/proposals.h"

namespace optrel {
namespace {

std::string short_hash(const std::string& text) { return fmt::format("{:08x}", fnv1a(text) & 0xffffffffu); }

/// The version that the next one of the same subject replaces: the current one, otherwise the newest.
std::optional<Measurement> previous_version(const std::vector<Measurement>& all, const std::string& subject_key) {
    std::optional<Measurement> out;
    for (const Measurement& m : all) {
        if (subject_key.empty() || m.subject_key != subject_key) continue;
        if (!out || m.state.is_current() || (!out->state.is_current() && m.version > out->version)) out = m;
    }
    return out;
}

}  // namespace

void judge_source(MeasurementSource& source, const std::vector<Measurer>& measurers) {
    for (const Measurer& m : measurers) {
        if (m.key != source.key) continue;
        source.signer = m.name;
        source.standing = m.standing();
    }
}

std::vector<StoredMeasurements::Row> StoredMeasurements::rows(const MeasurementKind& kind) const {
    std::vector<Row> out;
    QSqlQuery q = engine_.run("SELECT id, version, document FROM measurements WHERE kind = ? ORDER BY id, version DESC",
                              {text(kind.id)});
    while (q.next()) {
        Row row{text(q.value(0)), q.value(1).toInt(), text(q.value(2)), ""};
        row.where = fmt::format("{} {} version {} in the store", capitalised(kind.one), row.id, row.version);
        out.push_back(std::move(row));
    }
    return out;
}

std::vector<Measurement> StoredMeasurements::parsed(const MeasurementKind& kind,
                                                    std::vector<DamagedRecord>* damaged) const {
    std::vector<DamagedRecord> found;
    std::vector<Measurement> out = parse_rows(rows(kind), kind.read, &found);
    if (!damaged) return out;
    for (DamagedRecord& record : found) {
        record.kind = kind.id;
        damaged->push_back(std::move(record));
    }
    return out;
}

std::vector<Measurement> StoredMeasurements::all_versions(const MeasurementKind& kind,
                                                          std::vector<DamagedRecord>* damaged) const {
    std::vector<Measurement> out = parsed(kind, damaged);
    const std::vector<Measurer> measurers = StoredMeasurers(engine_).all();
    for (Measurement& m : out)
        if (m.taken_in) judge_source(*m.taken_in, measurers);
    set_states(out, events());
    std::stable_sort(out.begin(), out.end(),
                     [](const Measurement& a, const Measurement& b) { return a.name < b.name; });
    return out;
}

std::vector<DamagedRecord> StoredMeasurements::damaged(const MeasurementKind& kind) const {
    std::vector<DamagedRecord> out;
    parsed(kind, &out);
    return out;
}

std::vector<Measurement> StoredMeasurements::current(const MeasurementKind& kind) const {
    std::vector<Measurement> out = all_versions(kind);
    std::erase_if(out, [](const Measurement& m) { return !m.state.is_current(); });
    return out;
}

std::vector<VersionEvent> StoredMeasurements::events() const {
    std::vector<VersionEvent> out;
    QSqlQuery q =
        engine_.run("SELECT what, measurement, version, time, author, reason FROM measurement_events ORDER BY id");
    while (q.next())
        out.push_back({version_event_from(text(q.value(0))), text(q.value(1)), q.value(2).toInt(), text(q.value(3)),
                       text(q.value(4)), text(q.value(5))});
    return out;
}

Measurement StoredMeasurements::required(const MeasurementKind& kind, const std::string& id, int version) const {
    std::vector<std::string> there;
    for (Measurement& m : all_versions(kind)) {
        if (m.id != id) continue;
        if (m.version == version) return std::move(m);
        there.push_back(std::to_string(m.version));
    }
    throw input_error(there.empty() ? fmt::format("There is no {} {} in this store.", kind.one, id)
                                    : fmt::format("The {} {} has no version {}; its versions are {}.", kind.one, id,
                                                  version, fmt::join(there, ", ")));
}

/// The caller holds the transaction.
void StoredMeasurements::add_event(const MeasurementKind& kind, const VersionEvent& e) {
    engine_.run(
        "INSERT INTO measurement_events (time, author, measurement, version, what, reason) VALUES (?,?,?,?,?,?)",
        {text(engine_.now()), text(e.author), text(e.measurement), e.version, text(to_string(e.what)), text(e.reason)});
    if (e.what != VersionEvent::What::publish)
        engine_.record({"", e.author, kind.id, e.measurement,
                        fmt::format("{} version {}", to_string(e.what), e.version), "", e.reason});
    engine_.stamp("profiles");
}

void StoredMeasurements::withdraw(const MeasurementKind& kind, const std::string& id, int version,
                                  const std::string& reason, const std::string& author) {
    if (reason.empty())
        throw input_error("A version is withdrawn with a reason, which everybody sees who had it; say why.");
    Transaction transaction(engine_, "profiles");
    const Measurement m = required(kind, id, version);
    if (!m.state.withdrawn.empty())
        throw input_error(
            fmt::format("Version {} of {} is withdrawn already ({}).", version, m.name, m.state.withdrawn));
    add_event(kind, {VersionEvent::What::withdraw, id, version, "", author, reason});
    transaction.commit();
}

void StoredMeasurements::make_current(const MeasurementKind& kind, const std::string& id, int version,
                                      const std::string& reason, const std::string& author) {
    Transaction transaction(engine_, "profiles");
    const Measurement m = required(kind, id, version);
    if (m.state.is_current()) throw input_error(fmt::format("Version {} of {} is current already.", version, m.name));
    add_event(kind, {VersionEvent::What::make_current, id, version, "", author, reason});
    transaction.commit();
}

Measurement StoredMeasurements::publish(const MeasurementKind& kind, const std::string& given, OtherSettings others) {
    const Measurement wanted = kind.read(given, "the " + kind.one);
    require_accepted(wanted.findings, wanted.name);
    kind.require_plausible(given);
    Transaction transaction(engine_, "profiles");
    const std::vector<Measurement> all = all_versions(kind);
    const std::optional<Measurement> before = previous_version(all, wanted.subject_key);
    const std::string document = before ? kind.following(before->document, given, others) : given;
    std::string id = before ? before->id : wanted.id;
    // Files of other programs may lack an id, which pins need.
    if (id.empty()) id = kind.id_prefix + short_hash(document);
    // Versions that cannot be read count too, so the rows are asked.
    const auto newest_version = [&] {
        QSqlQuery q = engine_.run("SELECT COALESCE(MAX(version), 0) FROM measurements WHERE id = ?", {text(id)});
        q.next();
        return q.value(0).toInt();
    };
    // The id may belong to another measurement, for example in a copied file.
    if (!before && newest_version() > 0) id += "-" + short_hash(document);
    const int version = newest_version() + 1;
    const std::string published = kind.numbered(document, id, version);
    StoredProposals proposals(engine_);
    const ProposalKind proposal = ProposalKind::of(kind);
    if (proposals.needed(proposal) && !proposals.approved(proposal, kind.numbered(published, "", 0)))
        throw input_error(fmt::format(
            "This studio wants a second person for a {}, so it is not published by one alone; propose it, and have "
            "somebody approve it.",
            kind.one));
    engine_.run("INSERT INTO measurements (kind, id, version, document) VALUES (?,?,?,?)",
                {text(kind.id), text(id), version, text(published)});
    engine_.record({"", "", kind.id, id, fmt::format("publish version {}", version), "", digest_words(published)});
    add_event(kind, {VersionEvent::What::publish, id, version, "", wanted.author, ""});
    transaction.commit();
    return kind.read(published, "the " + kind.one);
}

}  // namespace optrel

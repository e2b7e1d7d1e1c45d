// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/proposals.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/station.h"
#include "base/words.h"
#include "baselines/field.h"
#include "kinds/measurement_kinds.h"
#include "store/engine.h"
#include "store/settings.h"
#include "store/table_rows.h"

namespace optrel {
namespace {

std::string select_proposals(const Engine& engine, const char* document) {
    return fmt::format(
        "SELECT id, time, author, station, login, kind, subject, {}, note, state, judge, judged, remark, field, {} "
        "FROM proposals",
        document, engine.login_in_sql());
}

constexpr ProposalState all_states[] = {ProposalState::open, ProposalState::approved, ProposalState::sent_back};

ProposalState state_named(const std::string& name) {
    for (const ProposalState s : all_states)
        if (to_string(s) == name) return s;
    throw store_error(
        fmt::format("The store has a proposal in the state '{}', which this version does not know.", printable(name)));
}

ChangeProposal proposal_from(const QSqlQuery& q) {
    ChangeProposal p;
    p.id = q.value(0).toInt();
    p.time = text(q.value(1));
    p.author = text(q.value(2));
    p.station = text(q.value(3));
    p.login = text(q.value(4));
    p.kind = ProposalKind::named(text(q.value(5)));
    p.subject = text(q.value(6));
    p.document = text(q.value(7));
    p.note = text(q.value(8));
    p.state = state_named(text(q.value(9)));
    p.judge = text(q.value(10));
    p.judged = text(q.value(11));
    p.remark = text(q.value(12));
    p.field = text(q.value(13));
    // A server identifies users by login; a folder only has the names that stations give.
    const std::string login = text(q.value(14));
    p.mine = login.empty() ? p.author == current_author() : p.login == login;
    return p;
}

/// Checks the kind of a remark's subject.
void check_kind(const std::string& kind) {
    std::vector<std::string> kinds{"tier", "set", "frame", "finding"};
    for (const MeasurementKind* kind : measurement_kinds()) kinds.push_back(kind->id);
    if (std::find(kinds.begin(), kinds.end(), kind) == kinds.end())
        throw input_error(
            fmt::format("Nothing is remarked on a '{}'{}.", printable(kind), nearest_clause(kind, kinds)));
}

std::string setting_of(const ProposalKind& kind) { return "second person for a " + kind.id(); }

}  // namespace

const ProposalKind ProposalKind::revision("revision"), ProposalKind::rollout("rollout");

ProposalKind ProposalKind::of(const MeasurementKind& kind) { return ProposalKind(kind.id, &kind); }

ProposalKind ProposalKind::named(const std::string& id) {
    for (const ProposalKind& kind : {revision, rollout})
        if (kind.id() == id) return kind;
    if (const MeasurementKind* kind = find_measurement_kind(id)) return of(*kind);
    throw store_error(
        fmt::format("The store has a proposal of the kind '{}', which this version does not know.", printable(id)));
}

std::string to_string(const ProposalKind& kind) { return kind.measurement() ? kind.measurement()->one : kind.id(); }

std::string to_string(ProposalState state) {
    constexpr const char* names[] = {"open", "approved", "sent back"};
    return names[static_cast<int>(state)];
}

std::string proposed_form(const std::string& revision_json) {
    nlohmann::json j = parse_json(revision_json, "the revision");
    for (const char* added : {"number", "author", "time", "note"}) j.erase(added);
    return json_text(j);
}

bool StoredProposals::needed(const ProposalKind& kind, int frames) const {
    const std::string value = StoredSettings(engine_).get(setting_of(kind));
    if (value.empty()) return false;
    return kind != ProposalKind::rollout || frames > parse_integer(value).value_or(0);
}

void StoredProposals::need(const ProposalKind& kind, int more_than_frames) {
    if (more_than_frames < 0)
        throw input_error(fmt::format("{} is no number of frames; write 0 or more.", more_than_frames));
    StoredSettings(engine_).put(setting_of(kind),
                                kind == ProposalKind::rollout ? std::to_string(more_than_frames) : "yes");
}

void StoredProposals::need_no_more(const ProposalKind& kind) { StoredSettings(engine_).put(setting_of(kind), ""); }

std::vector<ChangeProposal> StoredProposals::all() const {
    std::vector<ChangeProposal> out;
    QSqlQuery q = engine_.run(select_proposals(engine_, "''") + " ORDER BY id DESC");
    while (q.next()) out.push_back(proposal_from(q));
    return out;
}

ChangeProposal StoredProposals::find(int id) const {
    QSqlQuery q = engine_.run(select_proposals(engine_, "document") + " WHERE id = ?", {id});
    if (!q.next()) throw input_error(fmt::format("There is no proposal {}; see 'optrel-cli approval list'.", id));
    return proposal_from(q);
}

int StoredProposals::propose(const ProposalKind& kind, const std::string& subject, const std::string& document,
                             const std::string& note) {
    Transaction transaction(engine_, "proposals");
    if (QSqlQuery same =
            engine_.run("SELECT id, author FROM proposals WHERE kind = ? AND state = 'open' AND document = ?",
                        {text(kind.id()), text(document)});
        same.next())
        throw input_error(fmt::format("That is proposed already ({}, by {}); somebody has to look at it.",
                                      same.value(0).toInt(), text(same.value(1))));
    QSqlQuery q = engine_.run(
        fmt::format(
            "INSERT INTO proposals (time, author, station, login, kind, subject, document, note, state, judge, judged, "
            "remark, field) VALUES (?, ?, ?, {}, ?, ?, ?, ?, 'open', '', '', '', '') RETURNING id",
            engine_.login_in_sql()),
        {text(engine_.now()), text(current_author()), text(this_station()), text(kind.id()), text(subject),
         text(document), text(note)});
    q.next();
    const int id = q.value(0).toInt();
    q.finish();
    engine_.record({"", "", "proposal", std::to_string(id), "propose a " + to_string(kind), "", subject});
    engine_.stamp("proposals");
    transaction.commit();
    return id;
}

void StoredProposals::judge(int id, bool approve, const std::string& remark, const std::string& field) {
    Transaction transaction(engine_, "proposals");
    const ChangeProposal p = find(id);
    if (p.state != ProposalState::open)
        throw input_error(fmt::format("Proposal {} was {} by {} already.", id, to_string(p.state), p.judge));
    if (p.mine) throw input_error(fmt::format("Proposal {} is your own; a second person has to look at it.", id));
    if (!approve && trimmed(remark).empty())
        throw input_error("A proposal is sent back with a remark that says why; write one.");
    if (!field.empty()) field_by_id(field);  // throws for none
    const ProposalState state = approve ? ProposalState::approved : ProposalState::sent_back;
    engine_.run(
        "UPDATE proposals SET state = ?, judge = ?, judged = ?, remark = ?, field = ? WHERE id = ?",
        {text(to_string(state)), text(current_author()), text(engine_.now()), text(trimmed(remark)), text(field), id});
    engine_.record({"", "", "proposal", std::to_string(id), approve ? "approve" : "send back", "", remark});
    engine_.stamp("proposals");
    transaction.commit();
}

bool StoredProposals::approved(const ProposalKind& kind, const std::string& document) const {
    return engine_
        .run("SELECT 1 FROM proposals WHERE kind = ? AND state = 'approved' AND document = ?",
             {text(kind.id()), text(document)})
        .next();
}

std::vector<Remark> StoredProposals::remarks(const std::string& kind, const std::string& subject) const {
    if (!kind.empty()) check_kind(kind);
    std::vector<Remark> out;
    TableReader row(engine_, "remarks", "WHERE (? = '' OR kind = ?) AND (? = '' OR subject = ?) ORDER BY id DESC",
                    {text(kind), text(kind), text(subject), text(subject)});
    while (row.next())
        out.push_back({row.whole("id"), row.text("time"), row.text("author"), row.text("station"), row.text("kind"),
                       row.text("subject"), row.text("field"), row.text("words"), row.yes("settled")});
    return out;
}

int StoredProposals::remark(const Remark& r) {
    check_kind(r.kind);
    if (!r.field.empty()) field_by_id(r.field);  // throws for none
    if (trimmed(r.words).empty() || trimmed(r.subject).empty())
        throw input_error("A remark says something of something; write both.");
    Transaction transaction(engine_);
    QSqlQuery q = engine_.run(
        fmt::format(
            "INSERT INTO remarks (time, author, station, login, kind, subject, field, words, settled) VALUES (?, ?, ?, "
            "{}, ?, ?, ?, ?, ?) RETURNING id",
            engine_.login_in_sql()),
        {text(engine_.now()), text(current_author()), text(this_station()), text(r.kind), text(r.subject),
         text(r.field), text(trimmed(r.words)), false});
    q.next();
    const int id = q.value(0).toInt();
    q.finish();
    engine_.record(
        {"", "", "remark", std::to_string(id), "remark on " + r.kind + " " + r.subject, "", trimmed(r.words)});
    engine_.stamp("proposals");
    transaction.commit();
    return id;
}

void StoredProposals::settle_remark(int id) {
    Transaction transaction(engine_);
    if (!engine_.run("SELECT 1 FROM remarks WHERE id = ?", {id}).next())
        throw input_error(fmt::format("There is no remark {}; see 'optrel-cli remark list'.", id));
    engine_.run("UPDATE remarks SET settled = ? WHERE id = ?", {true, id});
    engine_.record({"", "", "remark", std::to_string(id), "settle", "", ""});
    engine_.stamp("proposals");
    transaction.commit();
}

}  // namespace optrel

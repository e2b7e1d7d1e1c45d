// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/baselines.h"

#include <fmt/format.h>

#include <unordered_map>

#include "base/error.h"
#include "store/engine.h"
#include "store/history.h"
#include "store/proposals.h"

namespace optrel {
namespace {

/// Throws Error(input) when the document cannot be read or has another number.
Revision published_revision(int number, const std::string& document) {
    Revision r = revision_from_json(document, fmt::format("revision {} of the store", number));
    if (r.number != number)
        throw input_error(fmt::format("Revision {} of the store has the document of revision {}.", number, r.number));
    return r;
}

}  // namespace

std::map<std::string, Pins> StoredBaselines::recorded_adds() const {
    std::map<std::string, Pins> out;
    QSqlQuery q =
        engine_.run("SELECT id, recorded_adds FROM models WHERE recorded_adds IS NOT NULL AND recorded_adds != ''");
    while (q.next())
        out[text(q.value(0))] =
            pins_from_json(text(q.value(1)), fmt::format("the register's entry of {}", text(q.value(0))));
    return out;
}

int StoredBaselines::draft_edits() const {
    QSqlQuery q = engine_.run("SELECT value FROM counters WHERE name = 'draft'");
    return q.next() ? q.value(0).toInt() : 0;
}

/// Updates the cached draft, reading only rows that others have changed.
void StoredBaselines::read_rows(int edits) const {
    // Rows read in a transaction that was rolled back may never have existed.
    if (rows_.edits > edits || rows_.taken_back != engine_.taken_back()) rows_ = Rows();
    if (rows_.edits == edits) return;
    QSqlQuery q = engine_.run("SELECT kind, id, document FROM draft WHERE edit > ?", {rows_.edits});
    while (q.next()) {
        const std::string id = text(q.value(1)), document = text(q.value(2));
        const bool tier = text(q.value(0)) == "tier";
        if (document.empty())
            tier ? rows_.tiers.erase(id) : rows_.sets.erase(id);
        else if (tier)
            rows_.tiers[id] = tier_from_text(document, "the store's draft");
        else
            rows_.sets[id] = set_from_text(document, "the store's draft");
    }
    rows_.edits = edits;
    rows_.taken_back = engine_.taken_back();
}

Revision StoredBaselines::draft() const {
    Revision r;
    const int edits = draft_edits();
    if (edits > 0) {
        read_rows(edits);
        for (const auto& [id, tier] : rows_.tiers) r.tiers.push_back(tier);
        for (const auto& [id, set] : rows_.sets) r.sets.push_back(set);
    } else if (QSqlQuery old = engine_.run("SELECT document FROM baselines WHERE number = 0"); old.next()) {
        r = revision_from_json(text(old.value(0)), "the store's draft");  // the form of schema 1
    } else {
        r = current();
    }
    r.number = 0;
    r.edits = edits;
    r.author = r.time = r.note = "";
    r.recorded_adds = recorded_adds();
    return r;
}

/// Writes the differences. The caller holds the transaction.
void StoredBaselines::write_draft(const Revision& before, const Revision& after) {
    // The first edit converts a draft of schema 1, or a default one, into rows.
    const int edit = draft_edits() + 1;
    const bool whole = edit == 1;
    if (whole) engine_.run("DELETE FROM draft");
    const std::string renew = upsert("draft", {"kind", "id", "document", "edit"}, "kind, id");
    const auto write = [&]<class T>(const char* kind, const std::vector<T>& from, const std::vector<T>& to,
                                    std::string (*document)(const T&)) {
        std::unordered_map<std::string, const T*> gone;
        for (const T& t : from) gone[id_of(t)] = &t;
        for (const T& t : to) {
            const auto it = gone.find(id_of(t));
            const bool changed = it == gone.end() || !(*it->second == t);
            if (whole || changed) engine_.run(renew, {kind, text(id_of(t)), text(document(t)), edit});
            if (changed)
                engine_.record({"", "", kind, id_of(t), it == gone.end() ? "begin" : "edit",
                                it == gone.end() ? "" : document(*it->second), document(t)});
            gone.erase(id_of(t));
        }
        for (const auto& [id, entry] : gone) {
            engine_.run("UPDATE draft SET document = '', edit = ? WHERE kind = ? AND id = ?", {edit, kind, text(id)});
            engine_.record({"", "", kind, id, "take out", document(*entry), ""});
        }
    };
    write("tier", before.tiers, after.tiers, tier_to_text);
    write("set", before.sets, after.sets, set_to_text);
    engine_.stamp("draft");
}

Revision StoredBaselines::change_draft(const std::function<void(Revision&)>& edit) {
    Transaction transaction(engine_, "draft");
    const Revision before = draft();
    Revision after = before;
    edit(after);
    check_sets(after);
    write_draft(before, after);
    after.edits = draft_edits();
    transaction.commit();
    return after;
}

MergedDrafts StoredBaselines::edit_draft(const Revision& base, const Revision& mine) {
    Transaction transaction(engine_, "draft");
    MergedDrafts out{mine, {}};
    if (draft_edits() == base.edits) {
        check_sets(mine);
        write_draft(base, mine);
    } else {
        const Revision theirs = draft();
        out = merge_drafts(base, mine, theirs);
        check_sets(out.draft);
        write_draft(theirs, out.draft);
    }
    out.draft.edits = draft_edits();
    transaction.commit();
    return out;
}

/// Published revisions, newest first. Leaves out those that cannot be read, and adds them to `damaged`.
std::vector<Revision> StoredBaselines::read_published(std::vector<DamagedRecord>* damaged) const {
    std::vector<Revision> out;
    QSqlQuery q = engine_.run("SELECT number, document FROM baselines WHERE number > 0 ORDER BY number DESC");
    while (q.next()) {
        const int number = q.value(0).toInt();
        try {
            out.push_back(published_revision(number, text(q.value(1))));
        } catch (const Error& e) {
            if (damaged) damaged->push_back({"revision", fmt::format("Revision {}", number), e.what()});
        }
    }
    return out;
}

std::vector<Revision> StoredBaselines::revisions() const { return read_published(); }

std::vector<DamagedRecord> StoredBaselines::damaged() const {
    std::vector<DamagedRecord> out;
    read_published(&out);
    return out;
}

std::optional<Revision> StoredBaselines::revision(int number) const {
    QSqlQuery q = engine_.run("SELECT document FROM baselines WHERE number > 0 AND number = ?", {number});
    if (!q.next()) return std::nullopt;
    return published_revision(number, text(q.value(0)));
}

Revision StoredBaselines::current() const {
    // One document at a time: nearly always the newest is the answer, and documents are large.
    QSqlQuery q = engine_.run("SELECT number, document FROM baselines WHERE number > 0 ORDER BY number DESC LIMIT 1");
    while (q.next()) {
        const int number = q.value(0).toInt();
        try {
            return published_revision(number, text(q.value(1)));
        } catch (const Error&) {
            q = engine_.run(
                "SELECT number, document FROM baselines WHERE number > 0 AND number < ? ORDER BY number DESC LIMIT 1",
                {number});
        }
    }
    return {};
}

std::string StoredBaselines::own_name(const std::string& given) const {
    if (!engine_.seals_history()) return given;
    // The owner may publish in another's name, for example when a store is moved.
    QSqlQuery login = engine_.run("SELECT CASE WHEN is_owner('baselines'::regclass) THEN '' ELSE " +
                                  engine_.login_in_sql() + "::text END");
    login.next();
    const std::string name = text(login.value(0));
    return name.empty() ? given : name;
}

void StoredBaselines::insert(Revision& r, const std::string& author, const std::string& note) {
    QSqlQuery newest = engine_.run("SELECT COALESCE(MAX(number), 0) FROM baselines");
    newest.next();
    r.number = newest.value(0).toInt() + 1;
    r.author = author;
    r.note = note;
    r.time = engine_.now();
    const std::string document = revision_to_json(r);
    StoredProposals proposals(engine_);
    if (proposals.needed(ProposalKind::revision) &&
        !proposals.approved(ProposalKind::revision, proposed_form(document)))
        throw input_error(
            "This studio wants a second person for a revision, so it is not published by one alone; propose it, and "
            "have somebody approve it.");
    engine_.run("INSERT INTO baselines (number, document) VALUES (?, ?)", {r.number, text(document)});
    engine_.record({"", author, "revision", std::to_string(r.number), "publish: " + note, "", digest_words(document)});
    engine_.stamp("baselines");
}

StoredBaselines::Returned StoredBaselines::return_to(int number, const std::string& author, const std::string& note,
                                                     DraftThen then) {
    Transaction transaction(engine_, "draft");
    std::optional<Revision> wanted = revision(number);
    if (!wanted)
        throw input_error(fmt::format("There is no revision {} in the store; choose one that was published.", number));
    const Revision newest = current();
    if (difference(newest, *wanted).empty() && newest.profiles_as_of == wanted->profiles_as_of)
        throw input_error(
            fmt::format("Revision {} says what revision {}, the current one, says already, so nothing is published.",
                        number, newest.number));
    const Revision now = draft();
    const bool unchanged = difference(current(), now).empty();
    insert(*wanted, own_name(author), note.empty() ? fmt::format("Return to revision {}", number) : note);
    Returned out{*wanted, 0};
    if (unchanged || then == DraftThen::follow)
        write_draft(now, *wanted);
    else
        out.draft_changes = static_cast<int>(difference(*wanted, now).size());
    transaction.commit();
    return out;
}

Revision StoredBaselines::publish_as(const Revision& wanted, const std::string& author, const std::string& note) {
    Transaction transaction(engine_, "draft");
    if (difference(current(), wanted).empty())
        throw input_error("What was proposed is published already, so there is nothing more to publish.");
    if (const std::vector<Conflict> conflicts = find_conflicts(wanted); !conflicts.empty())
        throw input_error(conflicts.front().sentence());
    check_sets(wanted);
    Revision r = wanted;
    insert(r, author, note);
    transaction.commit();
    return r;
}

Revision StoredBaselines::publish(const std::string& author, const std::string& note, const Revision* expected,
                                  ProfileVersions versions) {
    Transaction transaction(engine_, "draft");
    Revision r = draft();
    if (expected && !difference(*expected, r).empty())
        throw input_error(
            "The draft was changed at another station meanwhile, so it was not published; look at it again, then "
            "publish.");
    const bool fix = versions == ProfileVersions::fix;
    if (const Revision newest = current(); difference(newest, r).empty() && newest.profiles_as_of.empty() != fix)
        throw input_error(
            newest.number > 0
                ? fmt::format("The draft says nothing that revision {} does not say, so there is nothing to publish; "
                              "pin something first.",
                              newest.number)
                : std::string("The draft is empty, so there is nothing to publish; pin something first."));
    if (const std::vector<Conflict> conflicts = find_conflicts(r); !conflicts.empty())
        throw input_error(conflicts.front().sentence());
    check_sets(r);
    if (fix) r.profiles_as_of = engine_.now();
    insert(r, own_name(author), note);
    transaction.commit();
    return r;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A second person: what needs one is taken only as somebody else approved it.
#include "studio/rollout/approvals.h"
#include "optics/profile_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "store/engine.h"
#include "store/history_row.h"
#include "store/stored_things.h"
#include "studio/rollout/rolling.h"
#include "support/signed_as.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

bool refused(const std::function<void()>& work, const std::string& word) {
    const std::string sentence = sentence_of(work);
    INFO(sentence);
    return is_one_sentence(sentence) && sentence.find(word) != std::string::npos;
}

/// A studio on either engine, in which Iva keeps, and Jon and Kim may do what they are let in for.
struct TwoPeople {
    StorePlace place;
    Store keeper;
    std::string iva = "keeper", jon = "jon", kim = "kim";

    explicit TwoPeople(const std::string& engine) : place(engine), keeper(place.address(), Access::begin) {
        if (!keeper.people()) return;
        jon = "j" + place.database();
        kim = "k" + place.database();
        keeper.people()->put({jon, Role::works});
        keeper.people()->put({kim, Role::approves});
    }
    ~TwoPeople() {
        if (place.database().empty()) return;
        for (const std::string& name : {jon, kim}) on_test_server("postgres", "DROP ROLE IF EXISTS " + name);
    }
    std::string address_of(const std::string& name) const {
        if (place.database().empty()) return place.address();
        const std::string server = test_server();
        return "postgresql://" + name + server.substr(server.find('@')) + "/" + place.database();
    }
};

}  // namespace

TEST_CASE("a revision is published as a second person approved it, and in no other way",
          "[studio][approvals][server]") {
    TwoPeople s(EACH_ENGINE);
    {
        const SignedAs iva(s.iva);
        s.keeper.proposals().need(ProposalKind::revision, 0);
    }
    int id = 0;
    {
        const SignedAs jon(s.jon);
        Store store(s.address_of(s.jon));
        CHECK(refused([&] { propose_draft(store, ""); }, "nothing"));
        put_draft(store, draft_with(0.5));
        CHECK(refused([&] { store.baselines().publish(s.jon, ""); }, "second person"));
        CHECK(store.baselines().current().number == 0);
        id = propose_draft(store, "Softer");
        CHECK(refused([&] { propose_draft(store, "Softer"); }, "proposed already"));
        CHECK(refused([&] { approve_proposal(store, id, ""); }, "your own"));
        CHECK(store.proposals().find(id).mine);
        // Having gone on with the draft meanwhile changes nothing of what was proposed.
        put_draft(store, draft_with(2));
        CHECK(refused([&] { store.baselines().publish(s.jon, ""); }, "second person"));
    }
    const SignedAs kim(s.kim);
    Store store(s.address_of(s.kim));
    Progress progress;
    const ProposalView view = look_at_proposal(store, id, progress);
    CHECK(view.proposal.author == s.jon);
    CHECK(view.headline.find("change") != std::string::npos);
    REQUIRE(view.changes.size() >= 1);
    CHECK(std::any_of(view.changes.begin(), view.changes.end(),
                      [](const std::string& line) { return line.find("0.50 EV") != std::string::npos; }));
    CHECK(is_one_sentence(approve_proposal(store, id, "Good")));
    const Revision published = store.baselines().current();
    CHECK(published.number == 1);
    CHECK(published.author == s.jon);
    CHECK(published.note == "Softer");
    CHECK(published.tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    CHECK(store.baselines().draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 2);
    CHECK(refused([&] { approve_proposal(store, id, ""); }, "already"));
    CHECK(refused([&] { approve_proposal(store, 77, ""); }, "no proposal"));
    CHECK(store.history().entries("proposal").size() == 2);
}

TEST_CASE("a server tells one's own proposals by the login, whatever name the machine gives",
          "[studio][approvals][server]") {
    TwoPeople s("server");
    const SignedAs somebody("studio");
    Store jon(s.address_of(s.jon)), kim(s.address_of(s.kim));
    const int id = propose_profile(jon, profile("", "LF1"), "");
    CHECK(jon.proposals().find(id).mine);
    CHECK(!kim.proposals().find(id).mine);
    CHECK(refused([&] { approve_proposal(jon, id, ""); }, "your own"));
    CHECK(is_one_sentence(approve_proposal(kim, id, "")));
}

TEST_CASE("a proposal that is sent back says why, and can be mended and proposed again",
          "[studio][approvals][server]") {
    TwoPeople s(EACH_ENGINE);
    int id = 0;
    {
        const SignedAs jon(s.jon);
        Store store(s.address_of(s.jon));
        put_draft(store, draft_with(4));
        id = propose_draft(store, "");
    }
    {
        const SignedAs kim(s.kim);
        Store store(s.address_of(s.kim));
        CHECK(refused([&] { store.proposals().judge(id, false, " ", ""); }, "remark"));
        CHECK(refused([&] { store.proposals().judge(id, false, "Why", "exposur"); }, "exposure"));
        store.proposals().judge(id, false, "Too much for the drawers", "exposure");
        CHECK(store.baselines().current().number == 0);
    }
    const SignedAs jon(s.jon);
    Store store(s.address_of(s.jon));
    const ChangeProposal back = store.proposals().find(id);
    CHECK(back.state == ProposalState::sent_back);
    CHECK(back.judge == s.kim);
    CHECK(back.remark == "Too much for the drawers");
    CHECK(back.field == "exposure");
    put_draft(store, draft_with(1));
    CHECK(propose_draft(store, "Less") == id + 1);
}

TEST_CASE("a profile and a large rollout wait for a second person too", "[studio][approvals][server]") {
    TwoPeople s(EACH_ENGINE);
    const TemporaryFolder folder;
    std::vector<FrameRecord> frames(3);
    for (int i = 0; i < 3; ++i) {
        frames[static_cast<std::size_t>(i)].path = folder / ("F" + std::to_string(i) + ".dng");
        write_bytes(frames[static_cast<std::size_t>(i)].path, "frame");
        Metadata m = frames[static_cast<std::size_t>(i)].metadata;
        m.model = "B2";
        frames[static_cast<std::size_t>(i)].metadata = m;
    }
    {
        const SignedAs iva(s.iva);
        s.keeper.frames().put(frames);
        put_draft(s.keeper, draft_with(0.5));
        s.keeper.baselines().publish("Iva", "");
        s.keeper.proposals().need(ProposalKind::of(lens_profile_kind()), 0);
        s.keeper.proposals().need(ProposalKind::rollout, 1);
        CHECK(refused([&] { s.keeper.proposals().need(ProposalKind::rollout, -1); }, "number"));
    }
    int profile_id = 0, rollout_id = 0;
    Progress progress;
    const auto rehearsed = [&](Store& store) {
        RehearsalRequest request;
        request.frames = std::make_shared<const RehearsalRequest::Frames>(store.frames().all());
        return rehearse_frames(request, *store.registry().fleet(), store.baselines().current(), progress);
    };
    {
        const SignedAs jon(s.jon);
        Store store(s.address_of(s.jon));
        CHECK(refused([&] { store.profiles().publish(profile("", "LF1")); }, "second person"));
        profile_id = propose_profile(store, profile("", "LF1"), "");
        CHECK(refused([&] { roll_out_rehearsed(store, rehearsed(store), {s.jon}, progress); }, "second person"));
        for (const FrameRecord& f : frames) CHECK_FALSE(read_sidecar(f.path));
        rollout_id = propose_rollout(store, rehearsed(store), "", "Monday");
    }
    {
        const SignedAs kim(s.kim);
        Store store(s.address_of(s.kim));
        CHECK(look_at_proposal(store, profile_id, progress).headline.find("first profile") != std::string::npos);
        CHECK(look_at_proposal(store, rollout_id, progress).headline.find("3 sidecars") == 0);
        approve_proposal(store, profile_id, "");
        approve_proposal(store, rollout_id, "");
        CHECK(store.profiles().current().size() == 1);
    }
    const SignedAs jon(s.jon);
    Store store(s.address_of(s.jon));
    CHECK(refused([&] { store.profiles().publish(profile("", "LF2")); }, "second person"));
    // What has changed since is not what was approved.
    Sheet by_hand;
    by_hand.hand[Field::tint] = {4, ""};
    put_sheet(frames[0].path, by_hand);
    CHECK(refused([&] { roll_out_rehearsed(store, rehearsed(store), {s.jon}, progress); }, "second person"));
    fs::remove(sidecar_path(frames[0].path));
    CHECK(roll_out_rehearsed(store, rehearsed(store), {s.jon}, progress).written == 3);
}

TEST_CASE("the server refuses a kind of measurement that it does not know", "[studio][approvals][server]") {
    TwoPeople s("server");
    Store worker(s.address_of(s.jon));
    CHECK(refused([&] { worker.engine().run("INSERT INTO measurements VALUES ('a', 1, '{}', 'horoscope')"); },
                  "may not"));
    CHECK(refused([&] { worker.engine().run("INSERT INTO measurement_kinds VALUES ('horoscope', 'looks')"); }, ""));
    // A kind that it knows passes, with its row in the history.
    Transaction transaction(worker.engine());
    const std::string document = "{\"id\": \"a\", \"version\": 1}";
    worker.engine().run("INSERT INTO measurements VALUES ('a', 1, ?, 'profile')", {text(document)});
    worker.engine().record({"", "", "profile", "a", "publish version 1", "", digest_words(document)});
    transaction.commit();
}

TEST_CASE("a client that lies gets nowhere", "[studio][approvals][server]") {
    TwoPeople s("server");
    {
        const SignedAs iva(s.iva);
        s.keeper.proposals().need(ProposalKind::revision, 0);
        s.keeper.proposals().need(ProposalKind::of(lens_profile_kind()), 0);
        s.keeper.proposals().need(ProposalKind::rollout, 0);
    }
    Store worker(s.address_of(s.jon)), approver(s.address_of(s.kim));
    const std::string proposing =
        "INSERT INTO proposals (time, author, station, login, kind, subject, document, note, state, judge, judged, "
        "remark, field) VALUES ('', 'x', '', 'nobody', 'revision', '', '{\"tiers\": []}', '', 'approved', 'y', '', '', "
        "'')";
    worker.engine().run(proposing);
    approver.engine().run(proposing);
    for (const ChangeProposal& p : s.keeper.proposals().all()) {
        CHECK(p.state == ProposalState::open);
        CHECK((p.login == s.jon || p.login == s.kim));
    }
    const auto fails = [](Store& as, const std::string& sql) {
        INFO(sql);
        CHECK(error_of([&] { as.engine().run(sql); }) == "store 42501");
    };
    fails(worker, "UPDATE proposals SET state = 'approved'");
    fails(worker, "DELETE FROM proposals");
    fails(approver, "UPDATE proposals SET state = 'approved' WHERE id = 2");                   // its own
    fails(approver, "UPDATE proposals SET state = 'approved', document = '{}' WHERE id = 1");  // another one
    fails(worker, "INSERT INTO baselines VALUES (1, '{\"number\": 1, \"tiers\": []}')");
    fails(worker, "INSERT INTO measurements VALUES ('a', 1, '{\"id\": \"a\", \"version\": 1}', 'profile')");
    fails(worker, "INSERT INTO rollouts VALUES (1, 1, '', '', 5, '', '', '', 0, 'writing')");
    fails(worker, "DELETE FROM settings");
    approver.engine().run("UPDATE proposals SET state = 'approved', judge = 'x' WHERE id = 1");
    fails(approver, "UPDATE proposals SET state = 'open' WHERE id = 1");
    fails(worker, "INSERT INTO baselines VALUES (1, '{\"number\": 1, \"tiers\": [1]}')");
    fails(worker, "INSERT INTO baselines VALUES (1, '{\"number\": 1, \"author\": \"x\", \"tiers\": []}')");
    // The approved one passes in its author's name, whoever inserts it, with its row in the history.
    // It states a time before the approval, as a minute of difference between clocks allows.
    QSqlQuery earlier = approver.engine().run(
        "SELECT to_char((clock_timestamp() - interval '50 seconds') AT TIME ZONE 'UTC', "
        "'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')");
    REQUIRE(earlier.next());
    const std::string stated = text(earlier.value(0));
    earlier.finish();
    Transaction transaction(approver.engine());
    const std::string document =
        fmt::format("{{\"number\": 1, \"author\": \"{}\", \"time\": \"{}\", \"tiers\": []}}", s.jon, stated);
    approver.engine().run("INSERT INTO baselines VALUES (1, ?)", {text(document)});
    approver.engine().record({"", "", "revision", "1", "publish: by hand", "", digest_words(document)});
    transaction.commit();
    // An approval lends its author's name once: what was published cannot be published again for that person.
    const auto again = [&](const std::string& author) {
        return fmt::format(
            "INSERT INTO baselines VALUES (2, '{{\"number\": 2, \"author\": \"{}\", \"time\": \"{}\", \"tiers\": "
            "[]}}')",
            author, worker.now());
    };
    fails(approver, again(s.jon));
    {
        Transaction in_own_name(approver.engine());
        approver.engine().run(again(s.kim));  // is returning to it, without the name of another person
    }
    QSqlQuery there = worker.engine().run("SELECT count(*) FROM baselines");
    REQUIRE(there.next());
    CHECK(there.value(0).toInt() == 1);
}

TEST_CASE("remarks are kept with who said them, until they are settled", "[studio][approvals][server]") {
    TwoPeople s(EACH_ENGINE);
    const SignedAs jon(s.jon);
    Store store(s.address_of(s.jon));
    Remark r;
    r.kind = "tier";
    r.subject = "studio";
    r.field = "exposure";
    r.words = " Look at the drawers again ";
    const int id = store.proposals().remark(r);
    REQUIRE(s.keeper.proposals().remarks("tier", "studio").size() == 1);
    const Remark back = s.keeper.proposals().remarks("tier", "studio")[0];
    CHECK(back.words == "Look at the drawers again");
    CHECK(back.author == s.jon);
    CHECK(s.keeper.proposals().remarks("profile").empty());
    store.proposals().settle_remark(id);
    CHECK(s.keeper.proposals().remarks()[0].settled);
    CHECK(refused([&] { store.proposals().settle_remark(77); }, "no remark"));
    r.kind = "teir";
    CHECK(refused([&] { store.proposals().remark(r); }, "tier"));
    CHECK(refused([&] { store.proposals().remarks("teir"); }, "tier"));
    r.kind = "tier";
    r.field = "exposur";
    CHECK(refused([&] { store.proposals().remark(r); }, "exposure"));
    r.field.clear();
    put_draft(store, draft_with(0.5));
    r.subject = "stduio";
    CHECK(refused([&] { remark_on(store, r); }, "studio"));
    r.subject = "Studio";
    remark_on(store, r);
    CHECK(store.proposals().remarks()[0].subject == "studio");
    r.kind = "frame";
    r.subject = "/nowhere/a.dng";
    CHECK(refused([&] { remark_on(store, r); }, "no frame"));
    r.kind = "finding";
    r.subject = "ramp too short";
    remark_on(store, r);
    r.kind = "tier";
    r.words = " ";
    CHECK(refused([&] { store.proposals().remark(r); }, "says something"));
}

TEST_CASE("approvals and remarks go by the command line", "[studio][approvals][cli][server]") {
    TwoPeople s(EACH_ENGINE);
    // Where a folder knows no people, the login name is who works.
    const std::string store = " --store '" + s.address_of(s.jon) + "'",
                      other = " --store '" + s.address_of(s.kim) + "'";
    CHECK(cli("approval need revision --store '" + s.place.address() + "'").status == 0);
    CHECK(cli("approval need rollout --store '" + s.place.address() + "'").status == 2);
    CHECK(cli("approval need revisoin --store '" + s.place.address() + "'").status == 2);
    CHECK(cli("baseline pin --field exposure --value 0.5" + store).status == 0);
    CHECK(cli("baseline publish" + store).status == 1);
    CHECK(cli("approval propose-baseline --note Softer" + store).out == "Proposal 1 waits for a second person.\n");
    CHECK(cli("approval approve 1" + store).status == 1);
    CHECK(cli("approval show 1" + store).out.find("0.50 EV") != std::string::npos);
    if (!s.place.database().empty()) {
        CHECK(cli("approval send-back 1 --remark 'Too soft' --field exposure" + other).status == 0);
        CHECK(nlohmann::json::parse(cli("approval list --all --json" + store).out)[0]["remark"] == "Too soft");
        CHECK(cli("approval propose-baseline" + store).status == 0);
        CHECK(cli("approval approve 2" + other).out.find("Revision 1 is published") == 0);
        CHECK(cli("store people list --json" + store).out.find(s.kim) != std::string::npos);
    }
    CHECK(cli("remark add tier stduio --words 'Look again'" + store).status == 1);
    CHECK(cli("store history --kind teir" + store).status == 2);
    CHECK(cli("remark add tier studio --words 'Look again'" + store).status == 0);
    CHECK(cli("remark list" + other).out.find("Look again") != std::string::npos);
    CHECK(cli("remark settle 1" + store).status == 0);
    CHECK(cli("remark list" + store).out == "There are no remarks.\n");
}

// SPDX-License-Identifier: GPL-3.0-or-later
// What needs a person: its order, and the command line that lists it.
#include "studio/attention/attention.h"

#include <algorithm>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <set>

#include "baselines/difference.h"
#include "cli/studio_by_hand.h"
#include "optics/profile_kind.h"
#include "sensor/defect_kind.h"
#include "sensor/fingerprint_kind.h"
#include "sensor/noise_kind.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

/// Facts about nothing at all.
struct CalmFacts : AttentionFacts {
    FleetKnowledge nothing;
    Revision published, written;
    std::vector<Profile> none;
    AttentionFindings found;
    CalmFacts() {
        any_frames = true;
        published.number = 3;
        fleet = &nothing;
        current = &published;
        draft = &written;
        profiles = &none;
        findings = &found;
    }
};

std::vector<std::string> kinds_of(const std::vector<AttentionItem>& items) {
    std::vector<std::string> out;
    for (const AttentionItem& item : items) out.push_back(to_string(item.kind));
    return out;
}

ChangeProposal proposal(int id, ProposalState state, bool mine) {
    ChangeProposal p;
    p.id = id;
    p.author = mine ? "Iva" : "Jon";
    p.mine = mine;
    p.state = state;
    p.judge = "Kim";
    p.subject = "4 changes";
    return p;
}

}  // namespace

TEST_CASE("nothing needs a person where all is settled", "[studio][attention]") {
    CHECK(attention(CalmFacts()).empty());
}

TEST_CASE("serious items come first, then in the order of their kinds", "[studio][attention]") {
    CalmFacts facts;
    facts.any_frames = false;
    facts.nothing.missing_roots = {{"shoots", 7}};
    facts.nothing.lens_use = {{"Lumenfold 35mm f/2.8", 5, {{MatchGrade::none, 5}}, {}}};
    facts.written = Revision();
    Tier t;
    t.id = t.name = "studio";
    t.pins[Field::exposure] = Pin::constant({0.5, ""});
    facts.written.tiers = {t};
    facts.pending_changes = static_cast<int>(difference(facts.published, facts.written).size());
    facts.unreadable_sidecars = 2;
    facts.frames_behind = 9;
    facts.found.behind_versions = {{"version 1", "version 2", 3, 1.25}};
    RolloutRecord stopped;
    stopped.number = 4;
    facts.rollouts = {stopped};
    facts.remarks = {{1, "", "Jon", "", "frame", "/frames/A.dng", "exposure", "Too dark", false}};
    facts.bundles = {{"/frames/a.optrel.zip", "", false}};
    const std::vector<AttentionItem> items = attention(facts);
    CHECK(kinds_of(items) == std::vector<std::string>{"missing-root", "no-profile", "unreadable-sidecar",
                                                      "stopped-rollout", "no-frames", "draft", "behind-profile",
                                                      "behind-revision", "remark", "bundle"});
    CHECK(std::is_partitioned(items.begin(), items.end(), [](const AttentionItem& i) { return i.serious; }));
    CHECK(items[0].subject == "shoots");
    CHECK(items[0].frames == 7);
    CHECK(items[3].number == 4);
    CHECK(items[8].what == "A remark on the frame A.dng");
    for (const AttentionItem& i : items) {
        CHECK_FALSE(i.why.empty());
        CHECK_FALSE(i.settle_by.empty());
    }
}

TEST_CASE("a rollout that runs at some station needs nobody", "[studio][attention]") {
    CalmFacts facts;
    RolloutRecord running;
    running.number = 4;
    running.running_at = "north";
    facts.rollouts = {running};
    CHECK(attention(facts).empty());
}

TEST_CASE("proposals wait for who may judge them, and come back to who made them", "[studio][attention]") {
    CalmFacts facts;
    facts.may_approve = GENERATE(false, true);
    facts.proposals = {proposal(4, ProposalState::sent_back, true), proposal(3, ProposalState::open, false),
                       proposal(2, ProposalState::open, true), proposal(1, ProposalState::sent_back, true)};
    const auto kinds = kinds_of(attention(facts));
    // Of those that were sent back only the newest still waits.
    CHECK(kinds == (facts.may_approve
                        ? std::vector<std::string>{"proposal-to-judge", "proposal-sent-back", "proposal-waits"}
                        : std::vector<std::string>{"proposal-sent-back", "proposal-waits", "proposal-waits"}));
}

TEST_CASE("every kind has a name of its own that leads back to it", "[studio][attention]") {
    std::set<std::string> names;
    for (const std::string& name : attention_kind_names()) {
        names.insert(name);
        CHECK(to_string(attention_kind_named(name)) == name);
    }
    CHECK(names.size() == static_cast<std::size_t>(AttentionKind::bundle) + 1);
    const std::string refused = sentence_of([] { attention_kind_named("unclaimed-bodi"); });
    CHECK(is_one_sentence(refused));
    CHECK(refused.find("unclaimed-body") != std::string::npos);
}

TEST_CASE("the command line lists what needs a person, and its exit status tells what is serious", "[cli][attention]") {
    const StudioByHand s;
    s.good("store index", fmt::format("--unclaimed '{}'", s.path("frames").string()));
    const CommandResult all = s.run("attention", "--json");
    CHECK(all.status == 3);
    const json items = json::parse(all.out);
    REQUIRE_FALSE(items.empty());
    CHECK(items[0]["serious"] == true);
    const auto has = [&](const char* kind) {
        return std::any_of(items.begin(), items.end(), [&](const json& i) { return i["kind"] == kind; });
    };
    CHECK(has("unclaimed-body"));
    CHECK(has("no-profile"));
    // What is not serious alone is no reason to wake anybody.
    const CommandResult lenses = s.run("attention", "--kind unclaimed-lens");
    CHECK(lenses.status == 0);
    CHECK(lenses.out.find("Settle it by accepting or claiming it in Fleet.") != std::string::npos);
    const CommandResult serious = s.run("attention", "--kind unclaimed-lens --at-least serious");
    CHECK(serious.status == 0);
    CHECK(serious.out == "Nothing needs you.\n");
    s.refused("attention", "--kind nothing");
    s.refused("attention", "--at-least grave", 2);
    write_bytes(s.path("frames") / "SP0001.dng.optrel.xmp", "not ours");
    const json broken = json::parse(s.run("attention", "--json --kind unreadable-sidecar").out);
    REQUIRE(broken.size() == 1);
    CHECK(broken[0]["frames"] == 1);
}

TEST_CASE("a measurement is due again by its age and its kind", "[studio][attention]") {
    const auto due = [](const MeasurementKind& kind, const std::string& time, const std::string& now) {
        Measurement m;
        m.id = "m1";
        m.name = "Brimholt B2";
        m.subject.serial = "B2-0117";
        m.time = time;
        return due_again(kind, {m}, now);
    };
    const std::string measured = "2026-03-01T09:00:00Z";
    CHECK(due(noise_kind(), measured, "2027-03-01T08:59:59Z").empty());
    const std::vector<DueAgain> old = due(noise_kind(), measured, "2027-03-01T09:00:01Z");
    REQUIRE(old.size() == 1);
    CHECK(old[0].name == "Brimholt B2 B2-0117");
    CHECK(is_one_sentence(old[0].sentence));
    CHECK(due(defect_kind(), measured, "2026-08-27T00:00:00Z").empty());
    CHECK(due(defect_kind(), measured, "2026-08-29T00:00:00Z").size() == 1);
    CHECK(due(lens_profile_kind(), measured, "2028-01-01T00:00:00Z").size() == 1);
    CHECK(due(fingerprint_kind(), measured, "2036-01-01T00:00:00Z").empty());
    // A measurement that does not say when it was made, or says nonsense, is not counted as old.
    for (const char* time : {"", "yesterday", "2026-02-30T00:00:00Z", "2026-13-01"})
        CHECK(due(noise_kind(), time, "2036-01-01T00:00:00Z").empty());

    CalmFacts facts;
    facts.found.due = old;
    const std::vector<AttentionItem> items = attention(facts);
    REQUIRE(kinds_of(items) == std::vector<std::string>{"measurement-due"});
    CHECK(items[0].what == "A noise measurement is due again: Brimholt B2 B2-0117");
}

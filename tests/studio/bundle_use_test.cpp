// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>

#include "baselines/resolver.h"
#include "fleet/matching.h"
#include "optics/profile_kind.h"
#include "sharing/shared_profile.h"
#include "studio/profiles/profile_file.h"
#include "studio/sharing/packing.h"
#include "studio/sharing/unpacking.h"
#include "support/sample_measurements.h"
#include "support/sample_profile.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Body shore_body(const std::string& serial = "0117") {
    Body b;
    b.maker = "Brimholt";
    b.model = "Brimholt B2";
    b.serial = serial;
    b.name = "Stand " + serial;
    b.width = 2464;
    b.height = 1640;
    b.pitch_um = 9.4;
    b.id = id_for(b);
    return b;
}

Tier tier_with(const std::string& id, const std::string& name, Pins pins, std::vector<std::string> sets = {}) {
    Tier t;
    t.id = id;
    t.name = name;
    t.sets = std::move(sets);
    t.pins = std::move(pins);
    return t;
}

/// A studio with a body, a profile, two sets of which one builds on the other, and a tier that uses it.
std::string fill(Store& store) {
    FleetEdit edit;
    edit.what = "begin";
    edit.models.push_back(
        {std::nullopt, ModelEntry{"Brimholt B2", "Brimholt", "Brimholt B2", 2464, 1640, 9.4, "", "", ""}});
    edit.bodies.push_back({std::nullopt, shore_body()});
    store.registry().edit(edit, "Iva");
    const Profile p = store.profiles().publish(sample_profile());
    Revision draft;
    draft.sets = {{"Paper", "", {}, {{Field::exposure, Pin::constant({0.3, ""})}}},
                  {"Fronds", "", {"Paper"}, {{Field::lens_profile, Pin::constant({0, p.id})}}}};
    Tier t = tier_with("t1", "stand", {{Field::contrast, Pin::constant({10, ""})}}, {"Fronds"});
    t.scope = Scope::body;
    t.target = shore_body().id;
    draft.tiers = {t};
    put_draft(store, draft);
    return p.id;
}

Bundle tier_bundle(Store& store) {
    PackingList list;
    list.tiers = {"stand"};
    return packed(store, list, {"Seaweeds", "", "Shore Museum"}, Progress());
}

/// As it arrives: signed and read back.
Bundle sent(const Bundle& bundle, const SigningKey* key) { return bundle_from(bundle_bytes(bundle, key), "b"); }

const UnpackedPart& part_of(const BundleView& view, BundleKind kind, const std::string& id) {
    for (const UnpackedPart& p : view.parts)
        if (p.kind == kind && p.id == id) return p;
    FAIL("no such part: " << id);
    throw std::logic_error(id);
}

}  // namespace

TEST_CASE("what a tier needs goes along, and stands in the other studio as it did here", "[bundles]") {
    const std::string engine = EACH_ENGINE;
    const StorePlace here("folder"), place(engine);
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    const std::string id = fill(store);
    const Bundle bundle = tier_bundle(store);
    CHECK(contents_of(bundle) == "1 model, 1 body, 1 profile, 2 sets, 1 tier");
    const SigningKey key = SigningKey::make();
    const BundleView view = look_at(other, sent(bundle, &key));
    for (const UnpackedPart& p : view.parts) CHECK(p.stand == UnpackedPart::Stand::fresh);
    CHECK(view.standing == Standing::unknown);
    CHECK(view.origin().find("Shore Museum") != std::string::npos);
    const BundleImport taken = take_from(other, view, all_of(view, false), "Oda");
    for (const std::string& told : taken.told) CHECK(is_one_sentence(told));
    REQUIRE(other.registry().bodies().size() == 1);
    CHECK(other.registry().bodies()[0] == shore_body());
    const Revision draft = other.baselines().draft();
    REQUIRE(draft.sets.size() == 2);
    REQUIRE(draft.tiers.size() == 1);
    CHECK(draft.tiers[0].pins == store.baselines().draft().tiers[0].pins);
    CHECK(draft.tiers[0].origin == view.source_words());
    CHECK(other.profiles().current()[0].id == id);
    // Once more there is nothing left to take.
    const BundleView again = look_at(other, sent(bundle, &key));
    for (const UnpackedPart& p : again.parts) CHECK(p.stand == UnpackedPart::Stand::same);
    CHECK(error_of([&] { take_from(other, again, all_of(again, true), "Oda"); }) == "input");
}

TEST_CASE("a body is packed with what was measured of it, and any measurement by its name", "[bundles]") {
    const StorePlace here("folder"), place(EACH_ENGINE);
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    DefectMap map = sample_defects("0117");
    const auto publish = [&](const MeasurementKind& kind, const std::string& document) {
        return store.measurements().publish(kind, document, OtherSettings::ask);
    };
    const Measurement first = publish(defect_kind(), defects_to_json(map));
    map.pixels.push_back({7, 8, DefectKind::hot, {12}, 0});
    const Measurement second = publish(defect_kind(), defects_to_json(map));
    map.serial = "0999";
    publish(defect_kind(), defects_to_json(map));
    const Measurement fingerprint = publish(fingerprint_kind(), fingerprint_to_json(sample_fingerprint("0117")));

    PackingList list;
    list.bodies = {"Stand 0117"};
    const Bundle body = packed(store, list, {"Stand", "", ""}, Progress());
    CHECK(contents_of(body) == "1 model, 1 body, 1 defect map");
    const BundleView view = look_at(other, sent(body, nullptr));
    BundleChoice choice = all_of(view, false);
    choice.anyway = true;
    take_from(other, view, choice, "Oda");
    const std::vector<Measurement> taken = other.measurements().current(defect_kind());
    REQUIRE(taken.size() == 1);
    CHECK(taken[0].subject.serial == "0117");
    CHECK(second.version == 2);
    CHECK(defects_from_json(taken[0].document, "a").pixels.size() == 2);

    PackingList named;
    named.measurements = {first.id + "@1", fingerprint.id};
    CHECK(contents_of(packed(store, named, {"Both", "", ""}, Progress())) == "1 defect map, 1 fingerprint");
    named.measurements = {first.id + "@7"};
    CHECK(error_of([&] { packed(store, named, {"None", "", ""}, Progress()); }) == "input");
}

TEST_CASE("a pin that derives from a measurement names this studio's own version of it when it is taken", "[bundles]") {
    const StorePlace here("folder"), place(EACH_ENGINE);
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    const auto publish = [](Store& into, const DefectMap& map) {
        return into.measurements().publish(defect_kind(), defects_to_json(map), OtherSettings::ask);
    };
    const DefectMap map = sample_defects("0117");
    DefectMap older = map;
    older.pixels.push_back({20, 21, DefectKind::hot, {9}, 0});
    publish(store, older);
    const Measurement measured = publish(store, map);
    REQUIRE(measured.version == 2);
    Pin pin = Pin::constant({12, ""});
    pin.measured = {measured.id, measured.version};
    Revision draft;
    draft.tiers = {tier_with("t1", "stand", {{Field::luminance_noise, pin}})};
    put_draft(store, draft);
    const Bundle bundle = tier_bundle(store);
    CHECK(contents_of(bundle) == "1 defect map, 1 tier");
    const SigningKey key = SigningKey::make();
    const auto take_all = [&] {
        const BundleView view = look_at(other, sent(bundle, &key));
        take_from(other, view, all_of(view, true), "Oda");
        return *other.baselines().draft().tiers.at(0).pins.at(Field::luminance_noise).measured;
    };
    const MeasurementReference taken = take_all();
    const std::vector<Measurement> all = other.measurements().all_versions(defect_kind());
    const auto from_there =
        std::find_if(all.begin(), all.end(), [](const Measurement& m) { return m.taken_in.has_value(); });
    REQUIRE(from_there != all.end());
    CHECK(taken == MeasurementReference{from_there->id, from_there->version});
    CHECK_FALSE(taken == MeasurementReference{measured.id, measured.version});
    // The measurement is there already when only the tier is taken anew.
    Revision none;
    put_draft(other, none);
    CHECK(take_all() == taken);
    CHECK(other.measurements().all_versions(defect_kind()).size() == 1);
}

TEST_CASE("the trace of a field and the grade of a match say where it came from", "[bundles]") {
    const StorePlace here("folder"), place("folder");
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    const SigningKey key = SigningKey::make();
    const Bundle bundle = sent(tier_bundle(store), &key);
    const auto take = [&] {
        const BundleView view = look_at(other, bundle);
        take_from(other, view, all_of(view, false), "Oda");
    };
    take();
    const Resolver resolver(other.baselines().draft());
    FrameFacts facts;
    facts.model = "Brimholt B2";
    facts.body = shore_body().id;
    facts.body_knowledge = BodyKnowledge::known;
    for (const Field field : {Field::exposure, Field::contrast})
        CHECK(resolver.trace(facts, field)
                  .back()
                  .remark.find("taken in from the bundle 'Seaweeds', signed by Shore "
                               "Museum") != std::string::npos);
    // Nobody trusts the key yet: it is a stand-in, and says why.
    const auto graded = [&] {
        return grade_profile(other.profiles().current()[0], sample_frame(), sample_profile().geometry);
    };
    const std::vector<Profile> known = other.profiles().current();
    ProfileMatch match = grade_profile(known[0], sample_frame(), known[0].geometry);
    CHECK(match.grade == MatchGrade::none);
    CHECK(match.against.front().find("does not know to trust") != std::string::npos);
    CHECK(assigned_profile(known[0], sample_frame(), known[0].geometry).grade == MatchGrade::stand_in);
    other.measurers().put({key.public_key(), "The museum on the shore", true}, "Oda");
    CHECK(graded().grade == MatchGrade::same_model);
    const Profile trusted = other.profiles().current()[0];
    match = grade_profile(trusted, sample_frame(), trusted.geometry);
    CHECK(match.reasons.back().find("The museum on the shore") != std::string::npos);
    // A key that was withdrawn takes all of that back, and for good.
    other.measurers().put({key.public_key(), "The museum on the shore", false, "2026-05-01T00:00:00Z"}, "Oda");
    CHECK(graded().grade == MatchGrade::none);
    CHECK(error_of([&] {
              other.measurers().put({key.public_key(), "The museum on the shore", true}, "Oda");
          }) == "input");
    const BundleView withdrawn = look_at(other, bundle);
    CHECK(withdrawn.standing == Standing::withdrawn);
}

TEST_CASE("nobody's bundle is taken only by who insists", "[bundles]") {
    const StorePlace here("folder"), place("folder");
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    const BundleView view = look_at(other, sent(tier_bundle(store), nullptr));
    CHECK(view.standing == Standing::not_signed);
    BundleChoice choice = all_of(view, false);
    CHECK(error_of([&] { take_from(other, view, choice, "Oda"); }) == "input");
    CHECK(other.profiles().current().empty());
    choice.anyway = true;
    take_from(other, view, choice, "Oda");
    CHECK(other.profiles().current()[0].taken_in->standing == Standing::not_signed);
    CHECK(grade_profile(other.profiles().current()[0], sample_frame(), sample_profile().geometry).grade ==
          MatchGrade::none);
}

TEST_CASE("clashes are told, and give way only when that was asked for", "[bundles]") {
    const StorePlace here("folder"), place("folder");
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    const SigningKey key = SigningKey::make();
    Revision theirs;
    theirs.sets = {{"Paper", "", {}, {{Field::exposure, Pin::constant({1, ""})}}}};
    put_draft(other, theirs);
    BundleView view = look_at(other, sent(tier_bundle(store), &key));
    const UnpackedPart& paper = part_of(view, BundleKind::set, "Paper");
    CHECK(paper.stand == UnpackedPart::Stand::differs);
    REQUIRE_FALSE(paper.words.empty());
    CHECK(paper.words[0] == "Exposure: here 1.00 EV, there 0.30 EV");
    // Left out by itself; asked for by name it is refused.
    for (const auto& [kind, id] : all_of(view, false).parts) CHECK((kind != BundleKind::set || id != "Paper"));
    BundleChoice one;
    one.parts = {{BundleKind::set, "Paper"}};
    CHECK(error_of([&] { take_from(other, view, one, "Oda"); }) == "input");
    CHECK(other.baselines().draft().sets == theirs.sets);
    // Under another name, wherever it is named.
    BundleChoice renamed;
    renamed.parts = {
        {BundleKind::of(lens_profile_kind()), "p1"}, {BundleKind::set, "Paper"}, {BundleKind::set, "Fronds"}};
    renamed.set_names["Paper"] = "Their paper";
    take_from(other, view, renamed, "Oda");
    const Revision draft = other.baselines().draft();
    CHECK(draft.set("Paper")->pins.at(Field::exposure) == Pin::constant({1, ""}));
    CHECK(draft.set("Fronds")->sets == std::vector<std::string>{"Their paper"});
    // And replaced.
    view = look_at(other, sent(tier_bundle(store), &key));
    one.replace = true;
    take_from(other, view, one, "Oda");
    CHECK(other.baselines().draft().set("Paper")->pins.at(Field::exposure) == Pin::constant({0.3, ""}));
}

TEST_CASE("a profile that has another id here is the one that is pinned", "[bundles]") {
    const StorePlace here("folder"), place("folder");
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    const std::string id = fill(store);
    Profile different = sample_profile(id.c_str());
    different.lens = different.name = "Aldercroft 60mm f/2.8";
    different.nodes[0].focal_mm = 61;
    other.profiles().publish(different);
    const SigningKey key = SigningKey::make();
    const BundleView view = look_at(other, sent(tier_bundle(store), &key));
    const BundleImport taken = take_from(other, view, all_of(view, false), "Oda");
    REQUIRE(taken.measurements.size() == 1);
    CHECK(taken.measurements[0].id != id);
    CHECK(other.baselines().draft().set("Fronds")->pins.at(Field::lens_profile) ==
          Pin::constant({0, taken.measurements[0].id}));
    // The same once more: it is known by its contents, whatever it is called here.
    put_draft(other, {});
    const BundleView again = look_at(other, sent(tier_bundle(store), &key));
    CHECK(part_of(again, BundleKind::of(lens_profile_kind()), id).stand == UnpackedPart::Stand::same);
    take_from(other, again, all_of(again, false), "Oda");
    CHECK(other.baselines().draft().set("Fronds")->pins.at(Field::lens_profile) ==
          Pin::constant({0, taken.measurements[0].id}));
}

TEST_CASE("parts that cannot be used are told and do not stop the others", "[bundles]") {
    const StorePlace place("folder");
    Store other(place.address(), Access::begin);
    Profile folds = sample_profile("p2");
    folds.nodes[0].model = LensModel(LensModelKind::radial_tangential, {-3, 0, 0, 0, 0, 0, 0});
    folds.nodes[0].largest_radius_mm = 13;
    Bundle b;
    b.title = "odd";
    b.parts = {{BundleKind::of(lens_profile_kind()), "p1", "good", profile_to_json(sample_profile())},
               {BundleKind::of(lens_profile_kind()), "p2", "folds", profile_to_json(folds)},
               {BundleKind::of(lens_profile_kind()), "p3", "no profile", "{}"},
               {BundleKind::set, "Fronds", "Fronds", R"({"name":"Fronds","sets":["Paper"],"pins":{}})"},
               {BundleKind::set, "On fronds", "On fronds", R"({"name":"On fronds","sets":["Fronds"],"pins":{}})"},
               {BundleKind::set, "Pins", "Pins", R"({"name":"Pins","pins":{"lens_profile":"p99"}})"},
               {BundleKind::body, "x", "x", "[1,2"},
               {BundleKind::colours, "c", "c", "no colours"},
               {BundleKind::baseline, "3", "3", R"({"format":"optrel-baseline","format_version":99})"}};
    const SigningKey key = SigningKey::make();
    const BundleView view = look_at(other, sent(b, &key));
    for (const UnpackedPart& p : view.parts) {
        CHECK((p.stand == UnpackedPart::Stand::unusable) == (p.id != "p1"));
        CHECK_FALSE(p.words.empty());
    }
    CHECK(part_of(view, BundleKind::of(lens_profile_kind()), "p2").words[0].find("folds back") != std::string::npos);
    CHECK(part_of(view, BundleKind::set, "Fronds").words[0].find("'Paper'") != std::string::npos);
    CHECK(part_of(view, BundleKind::baseline, "3").words[0].find("newer") != std::string::npos);
    take_from(other, view, all_of(view, true), "Oda");
    CHECK(other.profiles().current().size() == 1);
    BundleChoice bad;
    bad.parts = {{BundleKind::of(lens_profile_kind()), "p2"}};
    CHECK(error_of([&] { take_from(other, view, bad, "Oda"); }) == "input");
    bad.parts = {{BundleKind::of(lens_profile_kind()), "p33"}};
    CHECK(sentence_of([&] { take_from(other, view, bad, "Oda"); }).find("no profile 'p33'") != std::string::npos);
}

TEST_CASE("a choice that leaves out what it needs changes nothing", "[bundles]") {
    const StorePlace here("folder"), place("folder");
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    const SigningKey key = SigningKey::make();
    const BundleView view = look_at(other, sent(tier_bundle(store), &key));
    BundleChoice choice;
    choice.parts = {{BundleKind::body, shore_body().id}, {BundleKind::set, "Fronds"}};
    CHECK(sentence_of([&] { take_from(other, view, choice, "Oda"); }).find("'Paper'") != std::string::npos);
    CHECK(other.registry().bodies().empty());
    CHECK(other.baselines().draft().sets.empty());
}

TEST_CASE("a whole baseline goes into the draft, and over changes only when asked to", "[bundles]") {
    const StorePlace here("folder"), place("folder");
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    store.baselines().publish("Iva", "first");
    PackingList list;
    list.baseline = 1;
    const SigningKey key = SigningKey::make();
    const Bundle bundle = packed(store, list, {"whole", "", ""}, Progress());
    CHECK(contents_of(bundle) == "1 profile, 1 baseline");
    BundleView view = look_at(other, sent(bundle, &key));
    take_from(other, view, all_of(view, false), "Oda");
    CHECK(other.baselines().draft().tiers.size() == 1);
    CHECK(other.baselines().draft().tiers[0].origin == view.source_words());
    put_draft(other, {});
    Revision mine;
    mine.sets = {{"Mine", "", {}, {{Field::exposure, Pin::constant({1, ""})}}}};
    put_draft(other, mine);
    view = look_at(other, sent(bundle, &key));
    CHECK(all_of(view, false).parts.empty());
    take_from(other, view, all_of(view, true), "Oda");
    CHECK(other.baselines().draft().set("Mine") == nullptr);
    list.baseline = 7;
    CHECK(error_of([&] { packed(store, list, {}, Progress()); }) == "input");
    CHECK(error_of([&] { packed(store, {}, {}, Progress()); }) == "input");
}

TEST_CASE("what changed since somebody looked is not taken over unseen", "[bundles]") {
    const std::string engine = EACH_ENGINE;
    const StorePlace here("folder"), place(engine);
    Store store(here.address(), Access::begin), other(place.address(), Access::begin);
    fill(store);
    const SigningKey key = SigningKey::make();
    const BundleView view = look_at(other, sent(tier_bundle(store), &key));
    // Meanwhile somebody registers the body otherwise, and has a tier of their own for it.
    Body theirs = shore_body();
    theirs.name = "Loft stand";
    FleetEdit edit;
    edit.what = "add";
    edit.bodies.push_back({std::nullopt, theirs});
    other.registry().edit(edit, "Oren");
    const std::string why = sentence_of([&] { take_from(other, view, all_of(view, false), "Oda"); });
    CHECK(is_one_sentence(why));
    CHECK(why.find("is differs by now") == std::string::npos);
    CHECK(why.find("look at the bundle again") != std::string::npos);
    CHECK(other.registry().bodies()[0].name == "Loft stand");
    CHECK(other.profiles().current().empty());
    const BundleView again = look_at(other, sent(tier_bundle(store), &key));
    CHECK(part_of(again, BundleKind::body, shore_body().id).words ==
          std::vector<std::string>{"name: here Loft stand, there Stand 0117"});
    take_from(other, again, all_of(again, true), "Oda");
    CHECK(other.registry().bodies()[0].name == "Stand 0117");
}

TEST_CASE("profiles that nobody signed are no versions of one another", "[bundles]") {
    const StorePlace place("folder");
    Store store(place.address(), Access::begin);
    for (const char* id : {"n1", "n2"}) {
        Bundle b;
        b.title = id;
        Profile p = sample_profile(id);
        p.nodes[0].focal_mm += id[1] * 0.01;
        b.parts = {{BundleKind::of(lens_profile_kind()), id, id, profile_to_json(p)}};
        const BundleView view = look_at(store, sent(b, nullptr));
        BundleChoice choice = all_of(view, false);
        choice.anyway = true;
        CHECK(take_from(store, view, choice, "Oda").measurements.at(0).version == 1);
    }
    CHECK(store.profiles().current().size() == 2);
}

TEST_CASE("a baseline that names a profile that is nowhere is of no use", "[bundles]") {
    const StorePlace place("folder");
    Store store(place.address(), Access::begin);
    Bundle b;
    b.parts = {{BundleKind::baseline, "1", "Revision 1",
                R"({"format":"optrel-baseline","format_version":2,"number":1,"sets":[{"name":"A","pins":{}}],)"
                R"("tiers":[{"id":"t","scope":"studio","sets":["A"],"pins":{"lens_profile":"p99"}}]})"}};
    const BundleView view = look_at(store, sent(b, nullptr));
    CHECK(view.parts[0].stand == UnpackedPart::Stand::unusable);
    CHECK(view.parts[0].words[0].find("'p99'") != std::string::npos);
}

TEST_CASE("a profile file proves nothing of who signed it", "[bundles]") {
    const StorePlace place("folder");
    Store store(place.address(), Access::begin);
    const SigningKey key = SigningKey::make();
    store.measurers().put({key.public_key(), "Shore Museum", true}, "Oda");
    Profile p = sample_profile();
    p.taken_in = MeasurementSource{"bundle", "x", key.public_key(), "Shore Museum", "somebody", "2026-01-01T00:00:00Z"};
    const Profile taken = take_in_profile(store, profile_from_json(profile_to_json(p), "p"));
    CHECK(taken.taken_in->key.empty());
    CHECK(store.profiles().current()[0].taken_in->standing == Standing::not_signed);
}

TEST_CASE("frames bring all that they need, and nothing of where they lie", "[bundles]") {
    const StorePlace here("folder");
    Store store(here.address(), Access::begin);
    fill(store);
    store.baselines().publish("Iva", "first");
    std::vector<FrameRecord> frames(2);
    for (std::size_t i = 0; i < 2; ++i) {
        frames[i].path = "/private/place/" + std::to_string(i) + ".dng";
        frames[i].metadata = sample_frame();
        Metadata m = frames[i].metadata;
        m.body_serial = "0117";
        m.iso = 200;
        frames[i].metadata = m;
    }
    Claim by_folder;
    by_folder.id = "c1";
    by_folder.target = shore_body().id;
    by_folder.folder = "/private/place";
    Claim by_number = by_folder;
    by_number.id = "c2";
    by_number.folder.clear();
    by_number.camera = "Brimholt B2";
    by_number.serial = "00a7f3";
    FleetEdit edit;
    edit.what = "claim";
    edit.claims = {{std::nullopt, by_folder}, {std::nullopt, by_number}};
    store.registry().edit(edit, "Iva");
    PackingList list;
    list.frames = frames;
    const Bundle bundle = packed(store, list, {"job", "", ""}, Progress());
    CHECK(contents_of(bundle) == "1 model, 1 body, 1 claim, 1 profile, 2 sets, 1 tier");
    for (const BundlePart& p : bundle.parts) {
        CHECK(p.document.find("/private/place") == std::string::npos);
        CHECK((p.kind != BundleKind::claim || p.id == "c2"));
    }
    frames[0].metadata = Metadata();
    list.frames = {frames[0]};
    Store empty(StorePlace("folder").address(), Access::begin);
    CHECK(error_of([&] { packed(empty, list, {}, Progress()); }) == "input");
}

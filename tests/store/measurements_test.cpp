// SPDX-License-Identifier: GPL-3.0-or-later
// Measurements of a kind that only this test knows: what the store does for every kind.
#include "store/measurements.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "kinds/measurement_kinds.h"
#include "optics/profile_kind.h"
#include "store/engine.h"
#include "store/store.h"
#include "stored_things.h"
#include "studio/attention/attention.h"
#include "support/sample_profile.h"
#include "support/store_place.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

/// A document: {"body": name, "noise": {ISO: electrons}}.
std::string noise_of(const std::string& body, const std::map<std::string, double>& noise) {
    return json_text({{"body", body}, {"noise", noise}});
}

const MeasurementKind& trial_kind() {
    static const MeasurementKind kind{
        .id = "trial",
        .one = "trial measurement",
        .many = "trial measurements",
        .id_prefix = "t",
        .publisher = "works",
        .read =
            [](const std::string& document, const std::string& where) {
                const json j = parse_json(document, where);
                Measurement out;
                out.kind = "trial";
                out.id = j.value("id", "");
                out.version = j.value("version", 0);
                out.name = j.at("body").get<std::string>();
                out.subject = {MeasuredSubject::Kind::body, out.name, "", ""};
                out.subject_key = out.name;
                out.author = "Iva";
                if (j.contains("finding")) {
                    out.findings.emplace_back();
                    out.findings[0].name = "light leak";
                    out.findings[0].text = "The dark frames are not dark.";
                }
                out.document = document;
                return out;
            },
        .numbered =
            [](const std::string& document, const std::string& id, int version) {
                json j = parse_json(document, "");
                j["id"] = id;
                j["version"] = version;
                return json_text(j);
            },
        .with_source = [](const std::string& document, const MeasurementSource&) { return document; },
        .require_plausible =
            [](const std::string& document) {
                const json j = parse_json(document, "");
                for (const auto& [iso, value] : j.at("noise").items())
                    if (value.get<double>() < 0) throw input_error("No noise is negative; measure again.");
            },
        .following =
            [](const std::string& before, const std::string& document, OtherSettings others) {
                json now = parse_json(document, "");
                const json old = parse_json(before, "");
                for (const auto& [iso, value] : old.at("noise").items()) {
                    if (now["noise"].contains(iso)) continue;
                    if (others == OtherSettings::ask)
                        throw input_error("ISO " + iso + " would be lost; say what to do.");
                    if (others == OtherSettings::keep) now["noise"][iso] = value;
                }
                return json_text(now);
            },
        .differences = [](const std::string&, const std::string&) { return std::vector<std::string>{}; },
    };
    return kind;
}

std::vector<int> current_versions_of(Store& store) {
    std::vector<int> out;
    for (const Measurement& m : store.measurements().current(trial_kind())) out.push_back(m.version);
    return out;
}

}  // namespace

TEST_CASE("a measurement of any kind is published, superseded, withdrawn and made current", "[store][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    StoredMeasurements measurements = store.measurements();
    const Measurement first =
        measurements.publish(trial_kind(), noise_of("Stand 1", {{"100", 3}, {"200", 4}}), OtherSettings::ask);
    CHECK(first.version == 1);
    CHECK(first.id.starts_with("t"));
    CHECK(measurements.publish(trial_kind(), noise_of("Stand 2", {{"100", 3}}), OtherSettings::ask).id != first.id);

    SECTION("settings of the version before are lost to nobody's surprise") {
        const std::string one_iso = noise_of("Stand 1", {{"100", 2.9}});
        CHECK(sentence_of([&] { measurements.publish(trial_kind(), one_iso, OtherSettings::ask); }).find("ISO 200") !=
              std::string::npos);
        CHECK(measurements.publish(trial_kind(), one_iso, OtherSettings::keep).document.find("200") !=
              std::string::npos);
        CHECK(measurements.publish(trial_kind(), one_iso, OtherSettings::drop).document.find("200") ==
              std::string::npos);
    }
    SECTION("a withdrawn version gives way to the one before, until it is made current again") {
        const Measurement second =
            measurements.publish(trial_kind(), noise_of("Stand 1", {{"100", 2}, {"200", 4}}), OtherSettings::ask);
        CHECK(second.id == first.id);
        CHECK(current_versions_of(store) == std::vector<int>{2, 1});
        CHECK(sentence_of([&] { measurements.withdraw(trial_kind(), first.id, 2, "", "Iva"); }).find("say why") !=
              std::string::npos);
        measurements.withdraw(trial_kind(), first.id, 2, "The light was switched", "Iva");
        CHECK(current_versions_of(store) == std::vector<int>{1, 1});
        measurements.make_current(trial_kind(), first.id, 2, "It was not", "Iva");
        CHECK(current_versions_of(store) == std::vector<int>{2, 1});
        CHECK(sentence_of([&] { measurements.withdraw(trial_kind(), first.id, 7, "x", "Iva"); }).find("1") !=
              std::string::npos);
    }
    SECTION("what cannot be true, and what nobody accepted, is not published") {
        CHECK(sentence_of([&] {
                  measurements.publish(trial_kind(), noise_of("Stand 3", {{"100", -1}}), OtherSettings::ask);
              }).find("negative") != std::string::npos);
        CHECK(sentence_of([&] {
                  measurements.publish(trial_kind(), R"({"body":"Stand 3","finding":1,"noise":{}})",
                                       OtherSettings::ask);
              }).find("light leak") != std::string::npos);
        CHECK(current_versions_of(store).size() == 2);
    }
    SECTION("kinds do not mix, and the history tells them apart") {
        Profile same_id = sample_profile();
        same_id.id = first.id;
        const Profile p = store.profiles().publish(same_id);
        CHECK(p.id != first.id);
        CHECK(p.version == 1);
        CHECK(measurements.all_versions(lens_profile_kind()).size() == 1);
        CHECK(measurements.all_versions(trial_kind()).size() == 2);
        int trials = 0, profiles = 0;
        for (const HistoryEntry& e : store.history().entries("trial", first.id))
            trials += e.what == "publish version 1";
        for (const HistoryEntry& e : store.history().entries("profile", p.id))
            profiles += e.what == "publish version 1";
        CHECK(trials == 1);
        CHECK(profiles == 1);
    }
}

TEST_CASE("a kind of measurement can be made to need a second person", "[store][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.proposals().need(ProposalKind::of(trial_kind()), 0);
    const std::string document = noise_of("Stand 1", {{"100", 3}});
    CHECK(sentence_of([&] {
              store.measurements().publish(trial_kind(), document, OtherSettings::ask);
          }).find("second person for a trial measurement") != std::string::npos);
    // Other kinds are not concerned.
    store.profiles().publish(sample_profile());
}

TEST_CASE("a profile as a measurement says what it is of, how good it is and where it came from", "[store]") {
    Profile p = sample_profile();
    p.lens_serial = "LF-1";
    const Measurement m = measurement_of(p);
    CHECK(m.kind == "profile");
    CHECK(m.subject.kind == MeasuredSubject::Kind::lens_copy);
    CHECK(m.subject.name == p.lens);
    CHECK(m.subject.serial == "LF-1");
    CHECK(m.figures.size() == 4);
    CHECK(find_measurement_kind("profile") == &lens_profile_kind());
    CHECK(find_measurement_kind("horoscope") == nullptr);
    // The same measurement under another id is no difference; of two lenses without a serial number nobody can say that
    // one drifted.
    const auto differences = [](const Profile& a, const Profile& b) {
        return lens_profile_kind().differences(profile_to_json(a), profile_to_json(b));
    };
    Profile again = p;
    again.id = "other";
    again.version = 9;
    CHECK(differences(p, again).empty());
    p.lens_serial.clear();
    again = p;
    again.nodes[0].focal_mm *= 1.001;
    again.nodes[0].centre_mm.x() += 0.05;
    REQUIRE(differences(p, again).size() == 1);
    CHECK(differences(p, again)[0].find("drifted") == std::string::npos);
    CHECK(differences(p, again)[0].find("damaged") == std::string::npos);
    p.lens_serial = "LF-1";
    // One lens in another spelling is the same subject; another copy is not, nor is what nobody signed.
    Profile other = p;
    CHECK(same_subject(p, other));
    other.lens_serial = "LF-2";
    CHECK_FALSE(same_subject(p, other));
    p.taken_in.emplace();
    CHECK_FALSE(same_subject(p, p));
}

TEST_CASE("a published record that cannot be read stops nobody, and its number is not used again", "[store][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    const Profile published = store.profiles().publish(sample_profile());
    put_draft(store, draft_with(1));
    store.baselines().publish("Iva", "first");
    // By hand, as the owner: a guard would refuse it from others.
    Engine& engine = store.engine();
    engine.run("INSERT INTO measurements (kind, id, version, document) VALUES ('profile', ?, 2, '{}')",
               {QString::fromStdString(published.id)});
    engine.run(
        "INSERT INTO measurements (kind, id, version, document) SELECT kind, 'another', 1, document "
        "FROM measurements WHERE version = 1");
    engine.run("INSERT INTO baselines (number, document) VALUES (2, '{}')");
    engine.run("INSERT INTO baselines (number, document) SELECT 3, document FROM baselines WHERE number = 1");

    CHECK(store.profiles().all_versions().size() == 1);
    CHECK(store.measurements().current(lens_profile_kind()).size() == 1);
    CHECK(store.baselines().current().number == 1);
    CHECK(store.baselines().revisions().size() == 1);
    CHECK(error_of([&] { store.baselines().revision(2); }) == "input");
    const std::vector<DamagedRecord> damaged = store.damaged_records();
    REQUIRE(damaged.size() == 4);
    CHECK(damaged[0].name == "Revision 3");
    CHECK(damaged[1].kind == "revision");
    CHECK(damaged[3].kind == "profile");
    for (const DamagedRecord& record : damaged) CHECK(is_one_sentence(record.problem));
    Progress progress;
    int told = 0;
    for (const AttentionItem& item : attention(store, progress)) told += item.kind == AttentionKind::damaged_record;
    CHECK(told == 4);

    CHECK(store.profiles().publish(published).version == 3);
    put_draft(store, draft_with(2));
    CHECK(store.baselines().publish("Iva", "second").number == 4);
    CHECK(store.baselines().current().number == 4);
}

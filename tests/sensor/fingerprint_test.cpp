// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/fingerprint.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <cmath>
#include <nlohmann/json.hpp>

#include "base/base64.h"
#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "frames/dng_writer.h"
#include "sensor/fingerprint_kind.h"
#include "sensor/simulated_sensor.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

Fingerprint learned(SimulatedSensor& sensor, int frames = 6) {
    FingerprintLearner learner;
    for (int i = 0; i < frames; ++i) learner.add(sensor.shot(0.5), "F.dng");
    return learner.finished();
}

/// Discs of different light on a wall with a fine texture, other ones for each seed.
class Scene {
public:
    explicit Scene(unsigned seed) : random_(seed) {
        std::uniform_real_distribution<double> one;
        for (Disc& d : discs_) d = {768 * one(random_), 640 * one(random_), 5 + 60 * one(random_), one(random_)};
    }
    double operator()(int x, int y) {
        double light = 0.2;
        for (const Disc& d : discs_)
            if ((x - d.x) * (x - d.x) + (y - d.y) * (y - d.y) < d.radius * d.radius) light = d.light;
        return light * (1 + 0.05 * normal_(random_));
    }

private:
    struct Disc {
        double x, y, radius, light;
    };
    std::array<Disc, 25> discs_;
    std::mt19937_64 random_;
    std::normal_distribution<double> normal_;
};

SensorTruth ordinary_body() {
    SensorTruth truth;
    truth.gain = 0.6;
    return truth;
}

}  // namespace

TEST_CASE("frames of thirty bodies of one model are recognised, and none is named wrongly", "[sensor]") {
    constexpr int bodies = 30, frames_each = 2;
    SensorTruth truth = ordinary_body();
    truth.width = 768;
    truth.height = 640;
    std::vector<SimulatedSensor> sensors;
    std::vector<Fingerprint> prints;
    for (int b = 0; b < bodies; ++b) {
        sensors.emplace_back(truth, 100 + b);
        prints.push_back(learned(sensors.back(), 4));
        CHECK(prints.back().agreement > 100);
    }
    int right = 0;
    double square = 0, largest = 0;
    for (int b = 0; b < bodies; ++b)
        for (int k = 0; k < frames_each; ++k) {
            const FingerprintQuery query(
                sensors[static_cast<std::size_t>(b)].shot(Scene(static_cast<unsigned>(10 * b + k))), "F.dng");
            for (int other = 0; other < bodies; ++other) {
                const double z = query.z(prints[static_cast<std::size_t>(other)]);
                if (other == b) {
                    INFO(b << " " << k << " " << z);
                    right += z >= fingerprint_threshold;
                    CHECK(z >= fingerprint_threshold);
                } else {
                    square += z * z;
                    largest = std::max(largest, std::abs(z));
                }
            }
        }
    CHECK(right == bodies * frames_each);
    // The stated rate of false alarms rests on wrong fingerprints giving a standard normal figure.
    CHECK(std::sqrt(square / (bodies * frames_each * (bodies - 1))) == Approx(1).margin(0.07));
    CHECK(largest < 5);
    CHECK(false_alarm_rate(0) == Approx(0.5));
    CHECK(false_alarm_rate(fingerprint_threshold) == Approx(9.866e-10).epsilon(0.01));
}

TEST_CASE("a fingerprint is learned only from flat fields of one body", "[sensor]") {
    SimulatedSensor sensor(ordinary_body(), 1), other(ordinary_body(), 2);
    FingerprintLearner learner;
    CHECK(error_of([&] { learner.finished(); }) == "input");
    learner.add(sensor.shot(0.5), "F.dng");
    CHECK(error_of([&] { learner.add(sensor.shot(0), "F.dng"); }) == "input");         // dark
    CHECK(error_of([&] { learner.add(sensor.shot(1.5), "F.dng"); }) == "input");       // clipped
    CHECK(error_of([&] { learner.add(sensor.shot(Scene(3)), "F.dng"); }) == "input");  // no flat field
    SensorTruth small = ordinary_body();
    small.width = 400;
    SimulatedSensor of_another_size(small, 1);
    CHECK(error_of([&] { learner.add(of_another_size.shot(0.5), "F.dng"); }) == "input");
    CHECK(learner.frames() == 1);
    CHECK(error_of([&] { learner.finished(); }) == "input");  // a single frame
    for (int i = 0; i < 4; ++i) {
        learner.add(other.shot(0.5), "F.dng");
        learner.add(sensor.shot(0.5), "F.dng");
    }
    // Nine frames, those of one body and of the other in turn: halves that are of two sensors.
    CHECK(error_of([&] { learner.finished(); }) == "input");
    // Those of one body first, then those of another: both halves show both sensors.
    FingerprintLearner one_after_the_other;
    for (int i = 0; i < 8; ++i) one_after_the_other.add((i < 4 ? sensor : other).shot(0.5), fmt::format("F{}.dng", i));
    CHECK(sentence_of([&] { one_after_the_other.finished(); }).find("F4.dng") != std::string::npos);
    CHECK(std::isnan(agreement_of(learned(sensor), learned(of_another_size))));
    small.width = small.height = 200;
    SimulatedSensor tiny(small, 1);
    CHECK(error_of([&] { FingerprintQuery(tiny.shot(0.5), "F.dng"); }) == "input");
    CHECK(error_of([&] { FingerprintQuery(sensor.shot(5), "F.dng"); }) == "input");
    CHECK_FALSE(FingerprintQuery(of_another_size.shot(0.5), "F.dng").comparable(learned(sensor)));
}

TEST_CASE("base64 is that of the standard", "[base]") {
    // RFC 4648, section 10.
    const std::pair<const char*, const char*> examples[] = {{"", ""},
                                                            {"f", "Zg=="},
                                                            {"fo", "Zm8="},
                                                            {"foo", "Zm9v"},
                                                            {"foob", "Zm9vYg=="},
                                                            {"fooba", "Zm9vYmE="},
                                                            {"foobar", "Zm9vYmFy"}};
    for (const auto& [plain, coded] : examples) {
        const std::string text = plain;
        const std::vector<unsigned char> bytes(text.begin(), text.end());
        CHECK(to_base64(bytes) == coded);
        CHECK(from_base64(coded) == bytes);
    }
    for (const char* wrong : {"Zg=", "Z", "Zg==x", "????", "Zm9\xff"}) CHECK_FALSE(from_base64(wrong));
}

TEST_CASE("a fingerprint's document comes back as it was, and damaged ones are refused", "[sensor]") {
    SimulatedSensor sensor(ordinary_body(), 1), other(ordinary_body(), 2);
    BodyFingerprint f{"B2-0117", "Brimholt B2", "0117", learned(sensor), "Iva", "2026-12-01T10:00:00Z", {"F.dng"}};
    const std::string document = fingerprint_to_json(f);
    const BodyFingerprint back = fingerprint_from_json(document, "F.json");
    CHECK(back.print == f.print);
    CHECK(back.body == f.body);
    const MeasurementKind& kind = fingerprint_kind();
    CHECK(error_of([&] { kind.require_plausible(document); }) == "none");
    CHECK(kind.read(document, "F.json").subject.serial == "0117");
    CHECK(kind.differences(document, kind.numbered(document, "f1", 2)).empty());
    f.print = learned(sensor);
    CHECK(kind.differences(document, fingerprint_to_json(f))[0].starts_with("shows the same sensor"));
    f.print = learned(other);
    CHECK(kind.differences(document, fingerprint_to_json(f))[0].starts_with("shows another sensor"));
    const auto with = [&](const char* pointer, const json& value) {
        json j = json::parse(document);
        j[json::json_pointer(pointer)] = value;
        return j.dump();
    };
    for (const auto& [pointer, value] : {std::pair<const char*, json>("/format", "optrel-noise"),
                                         {"/format_version", 2},
                                         {"/signs", "AAAA"},
                                         {"/signs", "?"},
                                         {"/signs", 7},
                                         {"/square/2", -8},
                                         {"/square/2", 2000000000},
                                         {"/square/0", 300},
                                         {"/width", 10},
                                         {"/frames", "F.dng"},
                                         {"/body", nullptr}}) {
        INFO(pointer);
        CHECK(error_of([&] { fingerprint_from_json(with(pointer, value), "F.json"); }) == "input");
    }
    for (const char* bad : {"", "[", "[]", "null"})
        CHECK(error_of([&] { fingerprint_from_json(bad, "F.json"); }) == "input");
    f.print.signs.assign(f.print.signs.size(), 0xff);
    CHECK(error_of([&] { kind.require_plausible(fingerprint_to_json(f)); }) == "input");
}

namespace {

/// Takes a flat field into the folder flats, or a picture into the folder shoot; its path for a command.
std::string taken(const StudioByHand& s, SimulatedSensor& sensor, const std::string& name, const char* serial,
                  bool flat) {
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = serial;
    m.iso = 400;
    const fs::path path = s.path(flat ? "flats" : "shoot") / name;
    fs::create_directories(path.parent_path());
    write_dng(path, flat ? sensor.shot(0.5) : sensor.shot(Scene(4)), m);
    return "'" + path.string() + "' ";
}

}  // namespace

TEST_CASE("bodies are learned and recognised by the command line", "[sensor][cli]") {
    const StudioByHand s;
    const auto take = [&](SimulatedSensor& sensor, const std::string& name, const char* serial, bool flat) {
        return taken(s, sensor, name, serial, flat);
    };
    SensorTruth truth = ordinary_body();
    truth.width = 768;
    truth.height = 640;
    SimulatedSensor one(truth, 1), two(truth, 2), stranger(truth, 3);
    std::string flats_one, flats_two;
    for (int i = 0; i < 4; ++i) {
        flats_one += take(one, fmt::format("one{}.dng", i), "0117", true);
        flats_two += take(two, fmt::format("two{}.dng", i), "0118", true);
    }
    const std::string pictures =
        take(one, "p1.dng", "", false) + take(two, "p2.dng", "", false) + take(stranger, "p3.dng", "", false);
    s.refused("fingerprint name", "--frames " + pictures);  // nothing is learned yet
    s.good("store index", "'" + s.path("flats").string() + "'");
    const json first = json::parse(s.good("fingerprint learn", "--json --body 0117 --frames " + flats_one));
    CHECK(first["frames"] == 4);
    CHECK(first["version"] == 1);
    // Frames of another body among them are left out, and told.
    const json second =
        json::parse(s.good("fingerprint learn", "--json --body 0118 --frames " + flats_two + flats_one));
    CHECK(second["frames"] == 4);
    CHECK(second["left_out"].size() == 4);
    s.refused("fingerprint learn", "--body 0118 --frames " + flats_one);
    s.refused("fingerprint learn", "--body 9999 --frames " + flats_one);

    const json found = json::parse(s.good("fingerprint name", "--json --frames " + pictures));
    REQUIRE(found.size() == 3);
    CHECK(found[0]["body"].get<std::string>().find("0117") != std::string::npos);
    CHECK(found[1]["body"].get<std::string>().find("0118") != std::string::npos);
    CHECK(found[2]["body"].is_null());
    for (const json& f : found) {
        CHECK(f["threshold"] == 36);
        CHECK(f["compared"] == 2);
        CHECK(f["false_alarm_rate"].get<double>() < 1e-5);
        CHECK((f["figure"].get<double>() > 36) == !f["body"].is_null());
    }
    write_bytes(s.path("cut.dng"), read_file(s.path("shoot") / "p1.dng").substr(0, 5000));
    const CommandResult mixed =
        s.run("fingerprint name", "--json --frames " + pictures + "'" + s.path("cut.dng").string() + "'");
    CHECK(mixed.status == 1);
    CHECK(json::parse(mixed.out).size() == 4);
    // Flat fields without a number, under a wrong name.
    std::string of_one, of_stranger;
    for (int i = 4; i < 8; ++i) {
        of_one += take(one, fmt::format("one{}.dng", i), "", true);
        of_stranger += take(stranger, fmt::format("three{}.dng", i), "", true);
    }
    s.refused("fingerprint learn", "--body 0118 --frames " + of_one);
    s.refused("fingerprint learn", "--body 0118 --another-sensor --frames " + of_one);
    s.refused("fingerprint learn", "--body 0118 --frames " + of_stranger);
    CHECK(json::parse(s.good("store list measurements")).size() == 2);
    const json repaired =
        json::parse(s.good("fingerprint learn", "--json --body 0118 --another-sensor --frames " + of_stranger));
    CHECK(repaired["version"] == 2);
    // It was a mistake, and is taken back; the other way round as well.
    const std::string id = repaired["id"];
    s.refused("store withdraw", id + "@3 --reason wrong");
    s.good("store withdraw", id + "@2 --reason wrong");
    CHECK(json::parse(s.good("fingerprint name", "--json --frames " + pictures))[1]["body"].is_string());
    s.good("store make-current", id + "@2");
    CHECK(json::parse(s.good("fingerprint name", "--json --frames " + pictures))[1]["body"].is_null());
    // Learned again: a version of the same fingerprint.
    CHECK(json::parse(s.good("fingerprint learn", "--json --body 0117 --frames " + flats_one))["version"] == 2);
    CHECK(json::parse(s.good("store list measurements")).size() == 4);
}

TEST_CASE("frames without a number are claimed by their fingerprint, and another sensor is noticed", "[sensor][cli]") {
    const StudioByHand s;
    SensorTruth truth = ordinary_body();
    truth.width = 768;
    truth.height = 640;
    SimulatedSensor one(truth, 1), two(truth, 2), stranger(truth, 3);
    const auto take = [&](SimulatedSensor& sensor, const std::string& name, const char* serial, bool flat) {
        return taken(s, sensor, name, serial, flat);
    };
    std::string flats_one, flats_two;
    for (int i = 0; i < 4; ++i) {
        flats_one += take(one, fmt::format("one{}.dng", i), "0117", true);
        flats_two += take(two, fmt::format("two{}.dng", i), "0118", true);
    }
    s.good("store index", "'" + s.path("flats").string() + "'");
    s.refused("fingerprint propose", "");
    s.good("fingerprint learn", "--body 0117 --frames " + flats_one);
    s.good("fingerprint learn", "--body 0118 --frames " + flats_two);
    take(one, "p1.dng", "", false);
    take(one, "p2.dng", "", false);
    take(stranger, "p3.dng", "", false);
    take(two, "p4.dng", "0117", false);  // the number of one, the sensor of two
    s.good("store index", "'" + s.path("shoot").string() + "'");
    const json found = json::parse(s.good("fingerprint propose", "--json"));
    REQUIRE(found["proposals"].size() == 1);
    CHECK(found["proposals"][0]["frames"].size() == 2);
    CHECK(found["proposals"][0]["body"].get<std::string>().find("0117") != std::string::npos);
    CHECK(found["proposals"][0]["least_figure"].get<double>() > 36);
    REQUIRE(found["other_sensors"].size() == 1);
    CHECK(found["other_sensors"][0]["frame"].get<std::string>().ends_with("p4.dng"));
    CHECK(found["other_sensors"][0]["seen"].get<std::string>().find("0118") != std::string::npos);
    CHECK(is_one_sentence(found["other_sensors"][0]["text"]));
    // Nothing is claimed by looking, nor below the figure that is asked for.
    CHECK(json::parse(s.good("fingerprint propose", "--json"))["proposals"].size() == 1);
    s.good("fingerprint propose", "--accept --yes --at-least 1e9");
    CHECK(json::parse(s.good("fingerprint propose", "--json"))["proposals"].size() == 1);
    for (const char* bad : {"nan", "-1", "many"})
        s.refused("fingerprint propose", std::string("--accept --yes --at-least ") + bad, 2);
    s.good("fingerprint propose", "--accept --yes");
    CHECK(json::parse(s.good("fingerprint propose", "--json"))["proposals"].empty());
    // What was compared and fits none is not asked for again, until another fingerprint is learned.
    CHECK(s.good("attention", "--kind fingerprint --json").find("Fingerprints may tell") == std::string::npos);
    s.good("fingerprint learn", "--body 0117 --frames " + flats_one);
    CHECK(s.good("attention", "--kind fingerprint --json").find("Fingerprints may tell which body took 1 frame") !=
          std::string::npos);
    Store store(s.path("s").string(), Access::read);
    const auto fleet = store.registry().fleet();
    const auto body_of = [&](const char* name) {
        const fs::path path = s.path("shoot") / name;
        return fleet->body_of(path, read_metadata(path));
    };
    CHECK(body_of("p1.dng").knowledge == BodyAnswer::Knowledge::known);
    CHECK(body_of("p1.dng").why.find("known by the fingerprint of its sensor") == 0);
    CHECK(body_of("p3.dng").knowledge == BodyAnswer::Knowledge::unknown);
    for (const Claim& claim : fleet->claims()) CHECK(claim_from_json(claim_to_json(claim), "c") == claim);
}

TEST_CASE("frames that arrive are claimed by their fingerprint only when somebody lets them", "[sensor][cli]") {
    const StudioByHand s;
    SensorTruth truth = ordinary_body();
    truth.width = 768;
    truth.height = 640;
    SimulatedSensor one(truth, 1), stranger(truth, 3);
    std::string flats;
    for (int i = 0; i < 4; ++i) flats += taken(s, one, fmt::format("one{}.dng", i), "0117", true);
    s.good("store index", "'" + s.path("flats").string() + "'");
    s.good("fingerprint learn", "--body 0117 --frames " + flats);
    const auto claims = [&] { return Store(s.path("s").string(), Access::read).registry().fleet()->claims(); };
    const auto arrive = [&] { s.good("watch", "--once --folder '" + s.path("shoot").string() + "'"); };
    taken(s, one, "a1.dng", "", false);
    arrive();
    CHECK(claims().empty());
    CHECK(json::parse(s.good("fingerprint automatic", "--json"))["claims_from"].is_null());
    // What it could settle stands in the list of what needs a person.
    const json needs = json::parse(s.good("attention", "--json"));
    CHECK(std::any_of(needs.begin(), needs.end(), [](const json& item) { return item["kind"] == "fingerprint"; }));

    for (const char* bad : {"7", "-5", "1e30"}) s.refused("fingerprint automatic", std::string("--from ") + bad);
    s.refused("fingerprint automatic", "--from often", 2);
    CHECK(json::parse(s.good("fingerprint automatic", "--json --from 100"))["claims_from"] == 100);
    taken(s, one, "a2.dng", "", false);
    taken(s, stranger, "a3.dng", "", false);
    arrive();
    REQUIRE(claims().size() == 1);
    REQUIRE(claims()[0].frames.size() == 1);
    CHECK(claims()[0].frames[0].ends_with("a2.dng"));
    CHECK(claims()[0].fingerprint_figure >= 100);
    s.good("fingerprint automatic", "--from never");
    taken(s, one, "a4.dng", "", false);
    arrive();
    CHECK(claims().size() == 1);
}

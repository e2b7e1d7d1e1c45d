// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/measured_facts.h"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "cli/studio_by_hand.h"
#include "optics/lens_text.h"
#include "store/store.h"
#include "support/sample_profile.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

Measurement of_subject(const char* id, MeasuredSubject::Kind kind, const char* name, const char* serial = "",
                       const char* with = "") {
    Measurement m;
    m.id = id;
    m.version = 1;
    m.subject = {kind, name, serial, with};
    return m;
}

}  // namespace

TEST_CASE("measurements of a frame's body and lens are found, and no others", "[studio]") {
    using Kind = MeasuredSubject::Kind;
    Register entries;
    Body body;
    body.maker = "Brimholt";
    body.model = "Brimholt B2";
    body.serial = "0117";
    body.id = id_for(body);
    LensEntry lens;
    lens.lens = "Lumenfold 35mm f/2.8";
    lens.serial = "LF1";
    lens.id = id_for(lens);
    entries.bodies = {body};
    entries.lenses = {lens};
    const Fleet fleet(entries, {});
    const std::vector<Measurement> all{
        of_subject("own", Kind::body, "Brimholt B2", "0117"),
        of_subject("other", Kind::body, "Brimholt B2", "0118"),
        of_subject("model", Kind::body_model, "Brimholt B2"),
        of_subject("copy", Kind::lens_copy, "LUMENFOLD 35mm f/2.8", "LF1", "Brimholt B2"),
        of_subject("elsewhere", Kind::lens_copy, "Lumenfold 35mm f/2.8", "LF1", "Brimholt B3"),
        of_subject("second", Kind::lens_copy, "Lumenfold 35mm f/2.8", "LF2", "Brimholt B2"),
        of_subject("lenses", Kind::lens_model, "Lumenfold 35mm f/2.8")};
    FrameFacts facts;
    facts.model = "Brimholt B2";
    facts.body = body.id;
    facts.body_knowledge = BodyKnowledge::known;
    facts.lens = canonical_lens_text(lens.lens);
    facts.lens_copy = lens.id;
    const auto found = [&] {
        std::string out;
        for (const MeasurementReference& m : measured_facts(facts, fleet, all)) out += m.id + " ";
        return out;
    };
    CHECK(found() == "own model copy lenses ");
    facts.body_knowledge = BodyKnowledge::assumed;
    CHECK(found() == "model copy lenses ");
    facts.lens_copy = "";
    CHECK(found() == "model lenses ");
    facts = {};
    CHECK(found().empty());
}

TEST_CASE("a pin that was derived from a measurement says so on the command line", "[cli][baselines]") {
    const StudioByHand s;
    write_bytes(s.path("p.json"), profile_to_json(sample_profile("p7")));
    s.good("store publish-profile", fmt::format("'{}'", s.path("p.json").string()));
    s.refused("baseline pin", "--field luminance_noise --value 20 --measured p7@2");
    s.refused("baseline pin", "--field luminance_noise --value 20 --measured p7");
    s.refused("baseline pin", "--field luminance_noise --inherit --measured p7@1", 2);
    s.good("baseline pin", "--field luminance_noise --ramp 100:0,800:20 --measured p7@1");
    s.good("baseline publish");
    const json out = json::parse(s.good("resolve", fmt::format("--frame '{}' --json", s.frame("SP0001").string())));
    CHECK(out["facts"]["measured"].is_array());
    const json trace = out["fields"]["luminance_noise"]["trace"];
    CHECK(trace.back()["remark"].get<std::string>().find("measurement p7 version 1") != std::string::npos);
}

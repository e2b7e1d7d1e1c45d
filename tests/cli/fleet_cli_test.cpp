// SPDX-License-Identifier: GPL-3.0-or-later
// Fleet, claims, sets, lint and revisions by the command line.
#include "cli/studio_by_hand.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

TEST_CASE("identities are listed, accepted and claimed by the command line", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("--unclaimed '{}'", s.path("frames").string()));
    const json before = json::parse(s.good("store identities"));
    REQUIRE(before.size() == 4);
    CHECK(before[0]["status"] == "unclaimed");
    CHECK_FALSE(before[0]["proposal"]["reasons"].empty());
    CHECK(s.good("store accept").find("4 accepted") == 0);
    for (const json& id : json::parse(s.good("store identities"))) CHECK(id["status"] == "claimed");
    s.good("store claim",
           fmt::format("--for-body 'Brimholt B2/B2-0231' --frame '{}' --note 'lent for a day' --over-register",
                       s.frame("SP0001").string()));
    const json resolved =
        json::parse(s.good("resolve", fmt::format("--frame '{}' --draft --json", s.frame("SP0001").string())));
    CHECK(resolved["facts"]["body"] == "Brimholt B2/B2-0231");
    CHECK(resolved["body_because"].get<std::string>().find("claimed") == 0);
    CHECK(resolved["profile"]["grade"] == "none");
    const json claims = json::parse(s.good("store claims"));
    REQUIRE(claims.size() == 1);
    s.good("store claim", fmt::format("--remove {}", claims[0]["id"].get<std::string>()));
    CHECK(json::parse(s.good(
              "resolve", fmt::format("--frame '{}' --draft --json", s.frame("SP0001").string())))["facts"]["body"] ==
          "Brimholt B2/B2-0117");
    s.refused("store claim", "--for-body 'Brimholt B2/B2-0231'");
    s.refused("store claim", "--for-body nobody --serial 7");
    s.refused("store claim", "--serial 7", 2);
    s.refused("store claim", "--remove c000");
}

TEST_CASE("the register goes out and in by the command line, and a bad file changes nothing", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("store register",
           "--body 'Brimholt B2/B2-0117' --name 'Stand 1' --room East --condition infrared-converted --in-service no");
    s.good("store register", "--lens 'Aldercroft 60mm f/4 macro/AM-1' --without-contacts");
    const std::string csv = s.good("store fleet export", "--list bodies");
    CHECK(csv.find("infrared-converted,no") != std::string::npos);
    s.good("store fleet export", fmt::format("--format json --out '{}'", s.path("fleet.json").string()));
    CHECK(s.good("store fleet import", fmt::format("'{}'", s.path("fleet.json").string())).find("0 added, 0 changed") ==
          0);
    for (const std::string& bad : {std::string("maker,model,serial_number,colour\r\nQ,Q5,1,red\r\n"),
                                   std::string("maker,model,serial_number\r\nQ,Q5,1\r\nQ,Q5,1\r\n"),
                                   std::string("{\"format\":\"optrel-fleet\",\"format_version\":9}"), std::string()}) {
        write_bytes(s.path("bad"), bad);
        s.refused("store fleet import", fmt::format("'{}'", s.path("bad").string()));
    }
    CHECK(s.good("store fleet export", "--list bodies") == csv);
    s.refused("store fleet export", "--list chairs", 2);
    s.refused("store register", "--body nobody --name x");
    s.refused("store register", "--model 'Tarnwick T7' --recorded-adds '{\"glow\":\"1\"}'");
}

TEST_CASE("sets, starts, lint, comparing and returning by the command line", "[cli][comma]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good(
        "store register",
        R"(--model 'Tarnwick T7' --recorded-adds '{"luminance_noise":{"ramp":[{"iso":100,"value":"0"},{"iso":6400,"value":"60"}]}}')");
    s.good("baseline sets pin", "--name Fronds --field exposure --value 0.5");
    s.good("baseline pin", "--scope model --target 'Brimholt B2' --use-set Fronds");
    s.good("baseline pin", "--scope model --target 'Tarnwick T7' --field start --value 'as recorded'");
    s.good("baseline pin", "--field contrast --value 10");
    const json b2 = json::parse(s.good("resolve", "--body 'Brimholt B2/B2-0117' --iso 400 --draft --json"))["fields"];
    CHECK(b2["exposure"]["value"] == 0.5);
    // What the body records: the Tarnwick writes sharpness that rises with ISO, the register adds its noise reduction.
    const json t7 = json::parse(s.good("resolve", "--body 'Tarnwick T7/70031' --iso 800 --draft --json"))["fields"];
    CHECK(t7["luminance_noise"]["value"] == Approx(30));
    CHECK(t7["sharpening_amount"]["value"] == 10);
    CHECK(t7["sharpening_amount"]["trace"].back()["source"] == "start: as recorded");
    const json findings = json::parse(s.good("baseline lint", "--json"));
    CHECK(
        std::any_of(findings.begin(), findings.end(), [](const json& f) { return f["rule"] == "look field pinned"; }));
    s.good("baseline publish", "--note one");
    CHECK(s.good("baseline lint", "--mend").find("mended") != std::string::npos);
    CHECK(json::parse(s.good(
              "resolve", "--body 'Brimholt B2/B2-0117' --iso 400 --draft --json"))["fields"]["contrast"]["value"] == 0);
    s.good("baseline publish", "--note two");
    CHECK(json::parse(s.good("baseline compare", "1 2 --json")).size() >= 1);
    s.good("baseline return", "1");
    CHECK(json::parse(s.good("baseline compare", "1 3 --json")).empty());
    s.good("baseline sets export", fmt::format("--out '{}'", s.path("sets.json").string()));
    s.good("baseline sets import", fmt::format("'{}'", s.path("sets.json").string()));
    write_bytes(
        s.path("round.json"),
        R"({"format":"optrel-sets","format_version":2,"sets":[{"name":"a","sets":["b"],"pins":{}},{"name":"b","sets":["a"],"pins":{}}]})");
    s.refused("baseline sets import", fmt::format("'{}'", s.path("round.json").string()));
    s.refused("baseline pin", "--use-set 'Not there'");
    s.refused("baseline compare", "1 99");
    s.refused("baseline return", "99");
}

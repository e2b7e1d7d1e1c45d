// SPDX-License-Identifier: GPL-3.0-or-later
// Broad and final actions by the command line: what they reach is told first, and they are taken back.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "rollout/sheet.h"
#include "support/sample_profile.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

/// Thirty small frames of a model that writes no numbers, and so many more than a script may change.
void fill(const StudioByHand& s, const fs::path& folder, int frames) {
    fs::create_directories(folder);
    for (int i = 0; i < frames; ++i) fs::copy_file(s.frame("SP0001"), folder / fmt::format("A{:04}.dng", i));
}

}  // namespace

TEST_CASE("a rollout needs a scope, writes what was rehearsed, and tells what changed since", "[cli][rollout]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish");
    s.refused("rollout apply", "", 2);
    const json first = json::parse(s.good("rollout rehearse", "--json"));
    const int number = first["rehearsal"];
    s.good("frame set", fmt::format("--frame '{}' --field contrast --value 5", s.frame("SP0001").string()));
    const CommandResult changed = s.run("rollout apply", fmt::format("--rehearsal {}", number));
    CHECK(changed.status == 1);
    CHECK(changed.err.find("SP0001.dng") != std::string::npos);
    s.refused("rollout apply", "--rehearsal 9999");
    s.refused("rollout apply", fmt::format("--rehearsal {} --all", number), 2);
    const int next = json::parse(s.good("rollout rehearse", "--json"))["rehearsal"];
    CHECK(next > number);
    const json done = json::parse(s.good("rollout apply", fmt::format("--rehearsal {} --json", next)));
    CHECK(done["written"].get<int>() > 0);
    REQUIRE(done["kept"].size() == 1);
    CHECK(done["kept"][0].get<std::string>().find("set by hand") != std::string::npos);
    s.refused("rollout resume", "");
}

TEST_CASE("a rollout is taken back and made again, in a folder and on a server", "[cli][rollout][server]") {
    const StudioByHand s(EACH_ENGINE);
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish");
    s.good("rollout apply", "--all");
    const fs::path sidecar = sidecar_path(s.frame("SP0001"));
    const std::string written = read_file(sidecar);
    s.good("rollout rollback");
    CHECK(!fs::exists(sidecar));
    s.good("rollout again");
    CHECK(read_file(sidecar) == written);
    s.good("rollout rollback", fmt::format("--author Iva --frame '{}'", s.frame("SP0001").string()));
    CHECK(!fs::exists(sidecar));
    s.refused("rollout resume", "");
}

TEST_CASE("a claim tells what it reaches, needs a word for many frames, and is taken back", "[cli][fleet]") {
    const StudioByHand s;
    fill(s, s.path("many"), 30);
    s.good("store index", fmt::format("'{}'", s.path("many").string()));
    // The register holds the number that these files report for another body.
    write_bytes(s.path("other.csv"), "maker,model,serial_number\r\nBrimholt,Brimholt B2,B2-0999\r\n");
    const std::string imported = s.good("store fleet import", fmt::format("'{}'", s.path("other.csv").string()));
    CHECK(imported.find("new: Brimholt B2/B2-0999") != std::string::npos);
    const std::string over = fmt::format("--for-body 'Brimholt B2/B2-0999' --serial B2-0117");
    s.refused("store claim", over + " --yes");
    const CommandResult many = s.run("store claim", over + " --over-register");
    CHECK(many.status == 1);
    CHECK(many.err.find("30") != std::string::npos);
    CHECK(json::parse(s.good("store claims")).empty());
    std::string made = s.good("store claim", over + " --over-register --yes");
    CHECK(made.find("c") == 0);
    made.pop_back();
    CHECK(s.run("store claim", "--remove " + made).status == 1);
    s.good("store claim", "--yes --remove " + made);
    s.good("store limit", "100");
    s.good("store claim", over + " --over-register");
}

TEST_CASE("two models are not merged without a word, and a merge is undone", "[cli][fleet]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    write_bytes(s.path("b.csv"),
                "maker,model,serial_number,asset_tag\r\nBrimholt,Brimholt B2,B2-0999,HB-9\r\n"
                "Quenby,Quenby Q5,Q5-1,HB-5\r\n");
    s.good("store fleet import", fmt::format("'{}'", s.path("b.csv").string()));
    s.refused("store merge", "--body HB-5 --into HB-9 --yes");
    s.good("baseline pin", "--scope body --target HB-9 --field exposure --value 1");
    const std::string before = s.good("store fleet export", "--list bodies"),
                      tiers = s.good("baseline tiers", "--json");
    s.good("store merge", "--body HB-9 --into 'Brimholt B2/B2-0117' --yes");
    CHECK(s.good("store fleet export", "--list bodies") != before);
    s.refused("store merge", "--undo --body HB-5 --into 'Brimholt B2/B2-0117'");
    s.good("store merge", "--undo --body 'Brimholt B2/B2-0999' --into 'Brimholt B2/B2-0117'");
    CHECK(s.good("store fleet export", "--list bodies") == before);
    CHECK(s.good("baseline tiers", "--json") == tiers);
    CHECK(json::parse(s.good("store claims")).empty());
}

TEST_CASE("a CSV is looked at first, and likely slips in it are told", "[cli][fleet]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("store register", "--body 'Brimholt B2/B2-0117' --name 'Stand 1'");
    write_bytes(s.path("b.csv"), "maker,model,serial_number,name\r\nBrimholt,Brimholt BZ,1,stand 1\r\n");
    const std::string before = s.good("store fleet export", "--list bodies");
    const CommandResult seen = s.run("store fleet import", fmt::format("--preview '{}'", s.path("b.csv").string()));
    CHECK(seen.status == 0);
    CHECK(seen.err.find("Brimholt B2") != std::string::npos);
    CHECK(seen.err.find("the name 'stand 1'") != std::string::npos);
    CHECK(s.good("store fleet export", "--list bodies") == before);
    write_bytes(s.path("bad.csv"), "maker,model,serial_number\r\nBrimholt,,1\r\n");
    s.refused("store fleet import", fmt::format("'{}'", s.path("bad.csv").string()));
    s.refused("store register", "--add --lens 'Lumenfold 35mm f/2.8/LF35-00482' --name x");
}

TEST_CASE("a version is withdrawn and brought back by command, with what changes told first", "[cli][profile]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    Profile p = sample_profile();
    write_bytes(s.path("one.json"), profile_to_json(p));
    p.nodes[0].model = LensModel(LensModelKind::radial_tangential, {-0.22, 0.1, 0, 0, 0, 0, 0});
    write_bytes(s.path("two.json"), profile_to_json(p));
    s.good("store publish-profile", "--yes '" + s.path("one.json").string() + "'");
    const json two = json::parse(s.good("store publish-profile", "--yes --json '" + s.path("two.json").string() + "'"));
    const std::string id = two["id"];
    s.refused("profile withdraw", id + " --reason bent", 2);
    s.refused("profile withdraw", id + "@7 --reason bent");
    CHECK(s.run("profile withdraw", id + "@2").status == 2);  // a reason
    const CommandResult done = s.run("profile withdraw", id + "@2 --reason 'the board was bent' --yes --json");
    REQUIRE(done.status == 0);
    CHECK(json::parse(done.out)["frames"].get<int>() > 0);
    CHECK(done.err.find("px") != std::string::npos);
    json list = json::parse(s.good("profile versions", id + " --json"));
    REQUIRE(list.size() == 2);
    CHECK(list[0]["withdrawn"] == "the board was bent");
    CHECK(list[1]["current"] == true);
    s.good("baseline pin", "--field lens_profile --value " + id + "@1");
    s.refused("baseline pin", "--field lens_profile --value " + id + "@9");
    s.good("profile make-current", id + "@2 --yes");
    list = json::parse(s.good("profile versions", "--json"));
    CHECK(list[0]["current"] == true);
    s.refused("profile make-current", id + "@2 --yes");
    s.refused("profile compare", id + "@1 " + id + "@1");
}

TEST_CASE("a file with serious findings is published only when each is accepted by name", "[cli][profile]") {
    const StudioByHand s;
    Profile p = sample_profile();
    p.findings = {{"tilt", "No chart frame is tilted.", true, "", "", ""}};
    write_bytes(s.path("p.json"), profile_to_json(p));
    const std::string file = "'" + s.path("p.json").string() + "'";
    s.refused("store publish-profile", file + " --yes");
    s.refused("store publish-profile", file + " --yes --accept tlit");
    s.refused("store publish-profile", file + " --yes --reason why", 2);
    s.good("store publish-profile", file + " --yes --accept tilt --reason 'the board is fixed'");
    const json list = json::parse(s.good("profile versions", "--json"));
    CHECK(list[0]["accepted_findings"][0]["reason"] == "the board is fixed");
}

TEST_CASE("a profile that is named outright is checked, and a missing pitch is not guessed", "[cli][profile]") {
    const StudioByHand s;
    const std::string frame = "--frame '" + s.frame("SP0001").string() + "' --out '" + s.path("o.tif").string() + "' ";
    const auto refused = [&](const Profile& p, const char* what) {
        write_bytes(s.path("p.json"), profile_to_json(p));
        const std::string named = "correct --profile '" + s.path("p.json").string() + "' " + frame;
        const CommandResult r = cli(named);
        INFO(what << ": " << r.err);
        CHECK(r.status == 1);
        CHECK_FALSE(fs::exists(s.path("o.tif")));
        CHECK(cli(named + "--anyway").status == 0);
        fs::remove(s.path("o.tif"));
    };
    Profile p = sample_profile();
    p.nodes[0].setting.aperture = 0;
    write_bytes(s.path("p.json"), profile_to_json(p));
    CHECK(cli("correct --profile '" + s.path("p.json").string() + "' " + frame).status == 0);
    fs::remove(s.path("o.tif"));
    Profile other = p;
    other.lens = "Aldercroft 60mm f/4";
    refused(other, "another lens");
    other = p;
    other.geometry.pitch_um *= 1.5;
    refused(other, "another sensor");
    other = p;
    other.nodes[0].setting.focal_mm = 50;
    refused(other, "another focal length");
    other = p;
    other.nodes[0].setting.aperture = 2.8;
    refused(other, "another aperture");
}

TEST_CASE("mistyped commands and options get the nearest name and the right help page", "[cli]") {
    const auto wrong = [](const std::string& line, std::initializer_list<const char*> parts) {
        const CommandResult r = cli(line);
        INFO(line << "\n" << r.err);
        CHECK(r.status == 2);
        for (const char* part : parts) CHECK(r.err.find(part) != std::string::npos);
    };
    wrong("rolout", {"'rolout'", "rollout", "optrel-cli --help"});
    wrong("rollout aply", {"'aply'", "apply", "optrel-cli rollout --help"});
    wrong("store", {"Say what to do", "optrel-cli store --help"});
    wrong("rollout rehearse --floder x", {"--floder", "--folder", "optrel-cli rollout rehearse --help"});
    wrong("rollout show --number x", {"--number", "'x'", "whole number"});
}

TEST_CASE("deliveries answer to what they were called once", "[cli]") {
    const StudioByHand s;
    CHECK(s.good("recipe list", "--json") == s.good("delivery list", "--json"));
    CHECK(cli(fmt::format("export --recipe Review --frames '{}' --out '{}' --store '{}'", s.frame("SP0001").string(),
                          s.path("out").string(), s.path("s").string()))
              .status == 0);
    CHECK(cli("export --help").out.find("recipe") == std::string::npos);
    std::string document = s.good("delivery show", "Review");
    document.replace(document.find("optrel-delivery"), 15, "optrel-export-recipe");
    write_bytes(s.path("old.json"), document);
    s.good("delivery save", "--overwrite --file '" + s.path("old.json").string() + "'");
}

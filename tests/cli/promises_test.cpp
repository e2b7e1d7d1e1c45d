// SPDX-License-Identifier: GPL-3.0-or-later
// What the command line promises: nothing overwritten, nothing lost, no mistake answered by a plausible result.
#include <thread>

#include "cli/studio_by_hand.h"
#include "rollout/rollout.h"
#include "store/store.h"
#include "support/sample_profile.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

TEST_CASE("no output replaces what Optrel did not write, nor its own unasked", "[cli]") {
    const StudioByHand s;
    s.good("baseline pin", "--field exposure --value 0.5");
    write_bytes(s.path("mine.json"), "{\"mine\": true}");
    write_bytes(s.path("mine.csv"), "a,b\r\n1,2\r\n");
    const std::string raw = read_file(s.frame("SP0001"));
    for (const auto& [command, name] : {std::pair("store fleet export --format json", "mine.json"),
                                        {"store fleet export", "mine.csv"},
                                        {"baseline export", "mine.json"},
                                        {"baseline sets export", "mine.json"}}) {
        const std::string before = read_file(s.path(name));
        for (const char* also : {"", "--overwrite"})
            s.refused(command, fmt::format("--out '{}' {}", s.path(name).string(), also));
        CHECK(read_file(s.path(name)) == before);
    }
    s.good("baseline export", fmt::format("--out '{}'", s.path("own.json").string()));
    s.refused("baseline export", fmt::format("--out '{}'", s.path("own.json").string()));
    s.good("baseline export", fmt::format("--out '{}' --overwrite", s.path("own.json").string()));
    // A frame is never an output: not itself, not another, not by a link, not under a name that contradicts its
    // content.
    for (const std::string& out : {s.frame("SP0001").string(), s.frame("SP0002").string()})
        s.refused("correct", fmt::format("--frame '{}' --out '{}' --overwrite", s.frame("SP0001").string(), out), 2);
    fs::create_symlink(s.frame("SP0001"), s.path("link.tif"));
    s.refused("correct", fmt::format("--frame '{}' --out '{}' --overwrite", s.frame("SP0002").string(),
                                     s.path("link.tif").string()));
    s.refused("correct", fmt::format("--frame '{}' --out '{}'", s.frame("SP0001").string(), s.path("x.jpg").string()),
              2);
    CHECK_FALSE(fs::exists(s.path("x.jpg")));
    CHECK(read_file(s.frame("SP0001")) == raw);
}

TEST_CASE("six stations on one store lose no pin", "[cli]") {
    const StudioByHand s;
    constexpr int stations = 6, each = 8;
    std::vector<std::thread> threads;
    std::atomic<int> acknowledged{0};
    for (int station = 0; station < stations; ++station)
        threads.emplace_back([&, station] {
            for (int i = 0; i < each; ++i)
                acknowledged += s.run("baseline pin", fmt::format("--iso {}-{} --field exposure --value 0.{}",
                                                                  100 * station + 1, 100 * station + 2 + i, i + 1))
                                    .status == 0;
        });
    for (std::thread& t : threads) t.join();
    CHECK(acknowledged == stations * each);
    CHECK(json::parse(s.good("baseline tiers", "--json")).size() == stations * each);
}

TEST_CASE("hand edits while a rollout writes are all kept", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish");
    std::thread rollout([&] { s.run("rollout apply", "--all"); });
    int set = 0;
    for (const char* name : {"SP0007", "SP0004", "SP0002", "SP0001"})
        set += cli(fmt::format("frame set --frame '{}' --field tint --value 4", s.frame(name).string())).status == 0;
    rollout.join();
    CHECK(set == 4);
    for (const char* name : {"SP0001", "SP0002", "SP0004", "SP0007"})
        CHECK(read_sheet(s.frame(name)).hand.at(Field::tint).number == 4);
}

TEST_CASE("a store is begun only by commands that begin one, and a mistyped one is told", "[cli]") {
    const StudioByHand s;
    const fs::path typo = s.path("S");
    for (const char* command :
         {"store list bodies", "resolve --body x --iso 100", "baseline pin --field tint --value 1", "rollout rehearse",
          "baseline publish", "store identities", "baseline lint"}) {
        const CommandResult r = cli(fmt::format("{} --store '{}'", command, typo.string()));
        INFO(command << ": " << r.err);
        CHECK(r.status == 1);
        CHECK(r.err.find("the nearest is") != std::string::npos);
        CHECK_FALSE(fs::exists(typo));
    }
    const CommandResult among =
        cli(fmt::format("store index --store '{}' '{}'", s.path("frames").string(), s.path("frames").string()));
    CHECK(among.status == 1);
    CHECK_FALSE(fs::exists(s.path("frames") / "store.sqlite"));
    CHECK(cli("store list bodies --store postgresql://iva@studio/optrel").status == 1);
    CHECK_FALSE(fs::exists("postgresql:"));
}

TEST_CASE("a name that is not there is refused with the nearest, several are told", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("store register", "--body B2-0117 --asset-tag HB-014 --name 'Stand 1'");
    for (const char* name : {"HB-014", "hb-014", "B2-0117", "Stand 1", "Brimholt B2/B2-0117"})
        CHECK(json::parse(s.good("resolve", fmt::format("--body '{}' --iso 100 --json", name)))["facts"]["body"] ==
              "Brimholt B2/B2-0117");
    const CommandResult near = s.run("resolve", "--body HB-O14 --iso 100");
    CHECK(near.status == 1);
    CHECK(near.err.find("HB-014") != std::string::npos);
    for (const char* wrong :
         {"--scope body --target HB-015 --field tint --value 1",
          "--scope model --target 'Brimholt B3' --field tint --value 1",
          "--lens 'Lumenfold 53mm' --field tint --value 1", "--lens nothing --lens-copy --field tint --value 1",
          "--use-set Fronds", "--field lens_profile --value p99", "--field start --value 'set Fronds'"})
        s.refused("baseline pin", wrong);
    s.refused("baseline pin", "--field exposur --value 1", 2);
    for (const char* wrong :
         {"--model 'Brimholt B3' --iso 100", "--body HB-014 --iso 100 --lens nothing", "--body nobody --iso 100"})
        s.refused("resolve", wrong);
    // What is pinned comes first, and the rest on demand; field names are taken in any case.
    s.good("baseline pin", "--field 'Sharpening Radius' --value 1.2");
    const std::string few = s.good("resolve", "--body HB-014 --iso 100 --draft");
    CHECK(few.find("Body         Stand 1") == 0);
    CHECK(few.find("Sharpening radius") != std::string::npos);
    CHECK(few.find("Contrast") == std::string::npos);
    CHECK(few.find("--all") != std::string::npos);
    CHECK(s.good("resolve", "--body HB-014 --iso 100 --draft --all").find("Contrast") != std::string::npos);
    const std::string frame = s.good("resolve", fmt::format("--frame '{}'", s.frame("SP0001").string()));
    CHECK(frame.find("Lens         Lumenfold 35mm f/2.8") != std::string::npos);
    CHECK(frame.find("Profile      none") != std::string::npos);
    s.refused("store register", "--body B2-0231 --asset-tag HB-014");  // a tag is given once
    s.refused("store claim", "--for-body HB-014 --camera 'Brimholt B3'");
    s.refused("store claim", fmt::format("--for-body HB-014 --folder '{}'", s.path("nowhere").string()));
    s.refused("store claim", "--for-body HB-014 --from 2026:03:05 --to 2026:03:04");
    s.refused("rollout rehearse", fmt::format("--folder '{}'", s.path("nowhere").string()));
    CHECK(json::parse(s.good("baseline tiers", "--json")).size() == 1);  // the one pin that was right
    // What is to be registered later can be said to be so.
    s.good("baseline pin", "--scope body --target 'Brimholt B2/B2-0999' --not-registered-yet --field tint --value 1");
}

TEST_CASE("the ISO is asked for where it counts", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    CHECK(s.run("resolve", "--body B2-0117 --draft --json").status == 0);
    s.good("baseline pin", "--field luminance_noise --ramp 100:0,800:20");
    s.refused("resolve", "--body B2-0117 --draft --json", 2);
    s.refused("resolve", "--body B2-0117 --draft --iso -100", 2);
    CHECK(json::parse(s.good("resolve",
                             "--body B2-0117 --draft --iso 800 --json"))["fields"]["luminance_noise"]["value"] == 20);
}

TEST_CASE("nothing is kept that cannot be read back, and every later command works", "[cli][comma]") {
    const StudioByHand s;
    for (const char* span : {"1-inf", "nan-100", "6400-1600", "0-100", "-", "1-2-3", "1-1e12"})
        s.refused("baseline pin", fmt::format("--iso {} --field exposure --value 0.5", span), 2);
    for (const char* ramp : {"100=0,800=1", "inf:1", "100:nan", "100:1,100:2", ":1"}) {
        const CommandResult r = s.run("baseline pin", fmt::format("--field exposure --ramp '{}'", ramp));
        INFO(ramp << r.err);
        CHECK(r.status != 0);
        CHECK(std::count(r.err.begin(), r.err.end(), '\n') == 1);
    }
    s.good("baseline export");
    s.refused("baseline publish", "");
}

TEST_CASE("a run that was stopped goes on with the frames that it has", "[cli]") {
    const StudioByHand s;
    fs::create_directory(s.path("board"));
    for (const char* name : {"CH0001", "CH0002", "CH0003", "CH0006", "CH0010", "CH0011", "CH0012"})
        fs::copy_file(rig_frame(name), s.path("board") / (std::string(name) + ".dng"));
    // As a kill leaves it: a run whose first frames are measured.
    {
        Store store(s.path("s"));
        std::vector<std::string> problems;
        Progress progress;
        const ChartSpec chart = ChartSpec::parse("checker:15x10:30");
        RunRecord run;
        run.name = "";
        run.chart = chart.text();
        run.folder = s.path("board").string();
        const std::string named =
            json::parse(s.good("run", fmt::format("--folder '{}' --chart checker:15x10:30 --json", run.folder)))["run"]
                .dump();
        RunRecord kept = store.runs().all().front();
        CHECK(std::to_string(kept.id) == named);
        kept.frames[0].dropped = true;
        store.runs().put(kept);
        for (std::size_t i = 4; i < kept.frames.size(); ++i) {
            RunFrame fresh;
            fresh.path = kept.frames[i].path;
            store.runs().put_frame(kept.id, static_cast<int>(i), fresh);
        }
    }
    const json again = json::parse(
        s.good("run", fmt::format("--folder '{}' --chart checker:15x10:30 --json", s.path("board").string())));
    CHECK(json::parse(s.good("store list runs")).size() == 1);
    CHECK(again["frames_used"] == 6);  // what was dropped stays so
    CHECK(json::parse(s.good("store list runs"))[0]["measured"] == 7);
    // The same run by its number: a frame taken in again, another left out, and the report as pages.
    const json changed = json::parse(s.good(
        "run",
        fmt::format("--id {} --restore CH0001.dng --drop CH0002.dng --drop-corner CH0003.dng:4,2 --report '{}' --json",
                    again["run"].dump(), s.path("r.pdf").string())));
    CHECK(changed["frames_used"] == 6);
    CHECK(read_file(s.path("r.pdf")).substr(0, 5) == "%PDF-");
    s.refused("run", fmt::format("--id {} --drop CH0099.dng", again["run"].dump()));
    s.refused("run", fmt::format("--id {} --report '{}'", again["run"].dump(), s.path("r.txt").string()), 2);
    for (const char* corner : {"4.5,2", "4,", "4x2", "1e30,2"})
        s.refused("run", fmt::format("--id {} --drop-corner CH0003.dng:{}", again["run"].dump(), corner), 2);
}

TEST_CASE("one damaged file stops neither the index nor a list", "[cli]") {
    const StudioByHand s;
    // A TIFF whose photometric tag has no value.
    const std::string entry = std::string("\x06\x01\x03\x00\x00\x00\x00\x00\x00\x00\x00\x00", 12);
    write_bytes(s.path("frames") / "bad.tif", std::string("II*\0\x08\0\0\0\x01\0", 10) + entry + std::string(4, '\0'));
    write_bytes(s.path("frames") / "cut.dng", read_file(s.frame("SP0001")).substr(0, 700));
    const json out = json::parse(s.good("store index", fmt::format("--json '{}'", s.path("frames").string())));
    CHECK(out["new_or_changed"].get<int>() >= 4);
    for (const json& problem : out["problems"]) CHECK(is_one_sentence(problem.get<std::string>()));
    CHECK(json::parse(s.good("store list frames")).size() >= 4);
}

TEST_CASE("bodies that are one are merged, and their tiers move along", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("baseline pin", "--scope body --target B2-0231 --field exposure --value 0.5");
    s.good("baseline pin", "--scope body --target B2-0231 --field tint --value 2");
    s.good("baseline pin", "--scope body --target B2-0117 --field tint --value 7");
    s.good("store merge", "--body B2-0231 --into B2-0117");
    const json tiers = json::parse(s.good("baseline tiers", "--json"));
    REQUIRE(tiers.size() == 1);
    CHECK(tiers[0]["target"] == "Brimholt B2/B2-0117");
    CHECK(tiers[0]["pins"]["exposure"] == "0.5");
    CHECK(tiers[0]["pins"]["tint"] == "7");
    s.refused("resolve", "--body B2-0231 --iso 100");
    s.refused("store merge", "--body B2-0117 --into B2-0117");
}

TEST_CASE("sets are put on frames, fields set on many, and all of it is taken back", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("baseline sets pin", "--name Fronds --field exposure --value 0.3");
    const auto frames = [&](const std::string& command, const std::string& more) {
        return json::parse(
            s.good("frame " + command, fmt::format("--folder '{}' {} --json", s.path("frames").string(), more)));
    };
    CHECK(frames("put-set", "--set fronds")["changed"] == 4);
    CHECK(frames("set", "--field tint --value 3")["changed"] == 4);
    CHECK(read_sheet(s.frame("SP0002")).set.at(Field::exposure).number == 0.3);
    CHECK(frames("drop", "--field tint")["changed"] == 4);
    CHECK(frames("back-to-baseline", "--with-set")["changed"] == 4);
    CHECK_FALSE(fs::exists(sidecar_path(s.frame("SP0002"))));
    s.refused("frame put-set", fmt::format("--frame '{}' --set Frond5", s.frame("SP0001").string()));
    s.refused("frame set",
              fmt::format("--frame '{}' --field luminance_noise --value 100:0,800:20", s.frame("SP0001").string()));
    s.refused("baseline sets delete", "--name Frond");
    s.good("baseline sets delete", "--name Fronds");
    CHECK(json::parse(s.good("baseline sets list", "--json")).empty());
}

TEST_CASE("what is set by hand on one frame is put on others, once it was rehearsed", "[cli]") {
    const StudioByHand s;
    const auto frame = [&](const char* name) { return "'" + s.frame(name).string() + "'"; };
    s.good("frame set", "--field roll --value 1.5 --frame " + frame("SP0001"));
    s.good("frame set", "--field pitch --value -2 --frame " + frame("SP0001"));
    s.good("frame set", "--field roll --value 0.5 --frame " + frame("SP0002"));
    s.good("frame bare", "--frame " + frame("SP0007"));
    const std::string from = "--from " + frame("SP0001");
    const json rehearsed =
        json::parse(s.good("frame put-hand", from + " --rehearse --frame " + frame("SP0002") + " " + frame("SP0004")));
    REQUIRE(rehearsed.size() == 2);
    CHECK(rehearsed[0]["changes"].size() == 2);
    CHECK(rehearsed[0]["changes"][0]["before"] == "0.5");
    CHECK_FALSE(rehearsed[1]["changes"][0].contains("before"));
    CHECK(read_sheet(s.frame("SP0004")).hand.empty());
    s.good("frame put-hand", from + " --field roll --frame " + frame("SP0002") + " " + frame("SP0004"));
    CHECK(read_sheet(s.frame("SP0002")).hand.at(Field::roll).number == 1.5);
    CHECK(read_sheet(s.frame("SP0004")).hand.size() == 1);
    // An exempt frame stays so, and is told; the others are done.
    s.refused("frame put-hand", from + " --frame " + frame("SP0007") + " " + frame("SP0004"));
    CHECK(read_sheet(s.frame("SP0007")).exempt);
    CHECK(read_sheet(s.frame("SP0004")).hand.at(Field::pitch).number == -2);
    s.refused("frame put-hand", from + " --field yaw --frame " + frame("SP0004"));
    s.refused("frame put-hand", from + " --field rol --frame " + frame("SP0004"), 2);
    s.refused("frame put-hand", "--from " + frame("SP0007") + " --frame " + frame("SP0004"));
}

TEST_CASE("what is set by hand is kept as a profile that is only ever assigned", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    const std::string frame = "--frame '" + s.frame("SP0001").string() + "'";
    s.refused("profile by-hand", frame);  // nothing is set
    s.good("frame set", frame + " --field hand_distortion --value -2.4");
    const json made = json::parse(s.good("profile by-hand", frame + " --json"));
    CHECK(made["version"] == 1);
    const json list = json::parse(s.good("store list", "profiles --json"));
    REQUIRE(list.size() == 1);
    CHECK(list[0]["origin"] == "by hand");
    CHECK_FALSE(list[0].contains("rms_px"));
    CHECK(json::parse(s.good("profile export", made["id"].get<std::string>()))["by_hand"] == true);
    // The frame goes on without it.
    const json trace = json::parse(s.good("resolve", frame + " --json"));
    CHECK(trace.dump().find("made by hand") != std::string::npos);
    CHECK(json::parse(s.good("profile by-hand", frame + " --json"))["version"] == 2);
    s.refused("profile by-hand", "--frame '" + s.path("frames").string() + "'", 2);
}

TEST_CASE("the correction that a raw copy carries is shown, kept as a profile, and warned of at a rollout",
          "[cli][embedded]") {
    const StudioByHand s;
    // A copy that carries a warp and a radial falloff, as another program may have written it.
    const Profile lens = [] {
        Profile p = sample_profile();
        Falloff f;
        for (auto& a : f.a) a = {0.4, 0.1, 0, 0};
        f.reciprocal = true;
        p.nodes[0].falloff = f;
        return p;
    }();
    write_bytes(s.path("p.json"), profile_to_json(lens));
    const json copy =
        json::parse(cli(fmt::format("export --profile '{}' --anyway --as dng --frames '{}' --out '{}' --json",
                                    s.path("p.json").string(), s.frame("SP0001").string(), s.path("copies").string()))
                        .out)["exported"][0];
    const std::string frame = fmt::format("--frame '{}'", copy["out"].get<std::string>());
    s.good("store index", fmt::format("'{}' '{}'", s.path("frames").string(), s.path("copies").string()));
    const json shown = json::parse(s.good("profile embedded", frame + " --json"));
    CHECK(shown["carries"].get<std::string>().find("WarpRectilinear") != std::string::npos);
    CHECK(shown["followed_to_px"] < 0.01);
    CHECK(json::parse(s.good("store list profiles")).empty());
    const json made = json::parse(s.good("profile embedded", frame + " --publish --author 'T. Ester' --json"));
    const json list = json::parse(s.good("store list profiles"));
    REQUIRE(list.size() == 1);
    CHECK(list[0]["origin"] == "embedded");
    CHECK(json::parse(s.good("resolve", frame + " --json"))["profile"]["grade"] == "none");
    s.good("baseline pin", "--field lens_profile --value " + made["id"].get<std::string>());
    s.good("baseline publish");
    const json answer = json::parse(s.good("resolve", frame + " --json"));
    CHECK(answer["profile"]["grade"] == "embedded");
    CHECK(answer["embedded"]["difference_from_profile"]["largest_px"] < 0.01);
    const json rehearsed = json::parse(s.good("rollout rehearse", "--json"));
    CHECK(rehearsed["warning"].get<std::string>().find("1 of these frames") == 0);
    s.refused("profile embedded", fmt::format("--frame '{}'", s.frame("SP0002").string()));
}

TEST_CASE("publishing an earlier revision says what becomes of the draft", "[cli]") {
    const StudioByHand s;
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish");
    s.good("baseline pin", "--field exposure --value 0.7");
    s.good("baseline publish");
    s.good("baseline pin", "--field tint --value 3");
    CHECK(json::parse(s.good("baseline return", "1 --json"))["draft_changes"] == 2);
    CHECK(json::parse(s.good("baseline return", "2 --draft follow --json"))["draft_changes"] == 0);
    s.refused("baseline return", "2");  // it is what is current already
    s.refused("baseline publish", "");  // the draft says nothing new
}

TEST_CASE("the command line says where a frame's values come from as the window does", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish", "--note first");
    s.good("rollout apply", fmt::format("--folder '{}'", s.path("frames").string()));
    s.good("baseline pin", "--field exposure --value 1");
    s.good("baseline publish", "--note second");
    s.good("frame set", fmt::format("--frame '{}' --field exposure --value 0.25", s.frame("SP0001").string()));
    const json shown = json::parse(s.good("frame show", fmt::format("--frame '{}'", s.frame("SP0001").string())));
    const json& lines = shown.at("trace").at("exposure");
    REQUIRE(lines.size() == 3);
    CHECK(lines[1].at("from").get<std::string>().find("revision 1") != std::string::npos);  // the sheet's own revision
    CHECK(lines[1].at("value") == "0.5");
    CHECK(lines[2].at("from") == "by hand");
    CHECK(lines[2].at("value") == "0.25");
    CHECK(shown.at("trace").count("contrast") == 0);
}

TEST_CASE("a rollout is taken back by command when no file may grow any more", "[cli]") {
    const StudioByHand s;
    s.good("store index", fmt::format("'{}'", s.path("frames").string()));
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline publish", "--note first");
    s.good("rollout apply", "--all");
    const fs::path sidecar = s.frame("SP0001").string() + ".optrel.xmp";
    REQUIRE(fs::exists(sidecar));
    const auto on_full_disk = [&](const std::string& command) {
        return std::system(fmt::format("sh -c \"ulimit -f 0; trap '' XFSZ; '{}' {} --store '{}' >/dev/null 2>&1\"",
                                       OPTREL_CLI, command, s.path("s").string())
                               .c_str());
    };
    CHECK(on_full_disk("baseline pin --field exposure --value 1") != 0);  // what would grow is refused
    on_full_disk("rollout rollback");  // the word that it is done does not fit here, as it would after files are gone
    CHECK_FALSE(fs::exists(sidecar));
    s.good("rollout rollback");
}

TEST_CASE("sets are edited, taken in, renamed and deleted by command, and every slip is told", "[cli]") {
    const StudioByHand s;
    s.good("baseline sets pin", "--name Fronds --field exposure --value 0.3");
    s.good("baseline sets pin", "--name Fronds --field tint --value 4");
    s.good("baseline sets pin", "--name Fronds --field tint --inherit");
    s.refused("baseline sets pin", "--name Fronds --field tint --inherit");     // it is out already
    s.refused("baseline sets pin", "--name Fonds --field exposure --inherit");  // a set that is not there
    s.good("baseline pin", "--use-set fronds");
    s.refused("baseline sets delete", "--name Fronds");  // in use
    s.good("baseline sets export", fmt::format("--out '{}'", s.path("sets.json").string()));
    s.good("baseline sets import", fmt::format("'{}'", s.path("sets.json").string()));  // the same set is no clash
    s.good("baseline sets pin", "--name Fronds --field exposure --value 0.5");
    s.refused("baseline sets import", fmt::format("'{}'", s.path("sets.json").string()));
    const CommandResult replaced =
        s.run("baseline sets import", fmt::format("--overwrite '{}'", s.path("sets.json").string()));
    CHECK(replaced.status == 0);
    CHECK(replaced.err.find("'Fronds' is replaced") != std::string::npos);
    s.good("baseline sets rename", "--name FRONDS --to \"Dry fronds\"");
    const json tiers = json::parse(s.good("baseline tiers", "--json"));
    CHECK(tiers[0].at("sets") == json{"Dry fronds"});
    s.good("baseline pin", "--use-set \"Dry fronds\" --inherit");
    CHECK(json::parse(s.good("baseline tiers", "--json")).empty());  // the tier said nothing else
    s.good("baseline sets delete", "--name \"dry fronds\"");
    CHECK(json::parse(s.good("baseline sets list", "--json")).empty());
}

TEST_CASE("a draft is replaced by a file only when nothing unpublished is lost, or on demand", "[cli]") {
    const StudioByHand s;
    s.good("baseline pin", "--field exposure --value 0.5");
    s.good("baseline export", fmt::format("--out '{}'", s.path("draft.json").string()));
    s.good("baseline pin", "--field tint --value 3");
    s.refused("baseline import", fmt::format("'{}'", s.path("draft.json").string()));
    s.good("baseline import", fmt::format("--replace '{}'", s.path("draft.json").string()));
    const json tiers = json::parse(s.good("baseline tiers", "--json"));
    CHECK(tiers[0].at("pins").size() == 1);
    const json published = json::parse(s.good("baseline publish", "--note first --json"));
    CHECK(published.at("revision") == 1);
    CHECK(published.at("changes").size() >= 1);
    s.good("baseline import", fmt::format("'{}'", s.path("draft.json").string()));  // nothing of the draft is lost
    s.refused("baseline publish", "--note again");                                  // which says nothing new
}

TEST_CASE("one profile is published once by command, and a typed name finds it", "[cli]") {
    const StudioByHand s;
    const Profile p = sample_profile("");  // a file that names none
    write_bytes(s.path("lens.json"), profile_to_json(p));
    const json published =
        json::parse(s.good("store publish-profile", fmt::format("--json '{}'", s.path("lens.json").string())));
    s.refused("store publish-profile", fmt::format("'{}'", s.path("lens.json").string()));
    const json tier =
        json::parse(s.good("baseline pin", "--field lens_profile --value \"lumenfold 35mm f/2.8\" --json"));
    CHECK(tier.at("pins").dump().find(published.at("id").get<std::string>()) != std::string::npos);
    s.refused("baseline pin", "--field lens_profile --value \"Lumenfold 85mm\"");
}

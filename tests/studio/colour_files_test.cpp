// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/colour_files.h"
#include "studio/development/develop_frame.h"

#include <catch2/catch.hpp>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "store/engine.h"
#include "studio/baselines/references.h"
#include "studio/development/prepare_frame.h"
#include "studio/exports/exporting.h"
#include "support/colour_files.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

fs::path carrying(const TemporaryFolder& folder, const std::string& name) {
    const fs::path path = folder / "C1.dng";
    fs::copy_file(rig_frame("SP0001"), path);
    carry_profile(path, name);
    return path;
}

}  // namespace

TEST_CASE("the colour profile that a frame carries is found, named and used where fields ask for it",
          "[studio][colour]") {
    const TemporaryFolder folder;
    const fs::path frame = carrying(folder, "Fernwick room");
    const Metadata m = read_metadata(frame);
    CHECK(m.colours == "Fernwick room");
    CHECK(read_metadata(rig_frame("SP0001")).colours.empty());
    const EmbeddedColours carried = embedded_colours(frame);
    REQUIRE(carried.profiles.size() == 1);
    CHECK(carried.camera == "Somebody's camera");
    CHECK(carried.profiles[0].dng->lights.size() == 2);
    // As a file of its own it says the same, and comes out the same each time.
    const ColourProfile again = colour_profile_from(carried.profiles[0].bytes, "the profile of a frame");
    CHECK(again.name == "Fernwick room");
    CHECK(again.contents() == carried.profiles[0].contents());
    CHECK(embedded_colours(frame).profiles[0].bytes == carried.profiles[0].bytes);

    FrameDevelopment r = bare_development(frame);
    const PictureForm small{ColourSpace::srgb, 300};
    const auto developed = [&] {
        return develop_file(frame, r.metadata, r.fields, std::nullopt, Progress(), small).rgb;
    };
    const cv::Mat3w by_matrix = developed();
    Value& source = r.fields.fields[static_cast<int>(Field::colour_source)].value;
    source.text = "carried";
    const cv::Mat3w by_profile = developed();
    CHECK(colour_difference(by_matrix, by_profile).mean > 1);
    // A frame that carries none is developed by its matrix.
    const cv::Mat3w plain =
        develop_file(rig_frame("SP0001"), r.metadata, r.fields, std::nullopt, Progress(), small).rgb;
    CHECK(colour_difference(by_matrix, plain).mean < 3);
    // The very profile, kept as a file, does what the carried one does; only for its own camera.
    r.fields.colour_file = std::make_shared<const ColourProfile>(again);
    source = value_of_colour_file(again.name, bytes_hash(again.bytes));
    CHECK(colour_difference(developed(), by_profile).largest == 0);
    const ColourChange change = colour_change(frame, bare_development(frame), again, Progress());
    CHECK(change.difference.mean == Approx(colour_difference(by_matrix, by_profile).mean).epsilon(0.3));
    CHECK(change.sentence().find("against: camera matrix") != std::string::npos);

    // The look at a part of the frame is what is written of it.
    const auto prepared = prepare_frame(frame, r.metadata, {}, Progress());
    const auto look = prepared->look(r.fields, std::nullopt, {200, 160, 1, cv::Size(64, 48)}, Progress());
    const cv::Mat3w whole = develop_file(frame, r.metadata, r.fields, std::nullopt, Progress()).rgb;
    CHECK(colour_difference(look.rgb, whole(cv::Rect(200, 160, 64, 48)).clone()).p95 < 0.5);

    CHECK(carried_profile(frame, "fernwick ROOM").name == "Fernwick room");
    CHECK(error_of([&] { carried_profile(frame, "Fernwik room"); }) == "input");
    CHECK(error_of([&] { carried_profile(rig_frame("SP0001"), "Fernwick room"); }) == "input");
}

TEST_CASE("a raw copy carries the colour profile of its frame, so that it develops to the same colours",
          "[studio][colour][export]") {
    const TemporaryFolder folder;
    const fs::path frame = carrying(folder, "Fernwick room"), copy = folder / "copy.dng";
    FrameDevelopment r = bare_development(frame);
    r.fields.fields[static_cast<int>(Field::colour_source)].value.text = "carried";
    export_frame(frame, r, plain_delivery(ExportFormat::dng), copy, Existing::keep, Progress());
    const EmbeddedColours before = embedded_colours(frame), after = embedded_colours(copy);
    REQUIRE(after.profiles.size() == 1);
    CHECK(after.problems.empty());
    CHECK(after.camera == before.camera);
    CHECK(after.profiles[0].bytes == before.profiles[0].bytes);
    const Metadata m = read_metadata(copy);
    CHECK(m.colours == "Fernwick room");
    const auto developed = [&](const fs::path& path) {
        return develop_file(path, read_metadata(path), r.fields, std::nullopt, Progress(), {ColourSpace::srgb, 300})
            .rgb;
    };
    CHECK(colour_difference(developed(frame), developed(copy)).largest < 0.05);
    // Of what carries none the copy has the one matrix that every DNG has.
    export_frame(rig_frame("SP0001"), bare_development(rig_frame("SP0001")), plain_delivery(ExportFormat::dng),
                 folder / "plain.dng", Existing::keep, Progress());
    CHECK(embedded_colours(folder / "plain.dng").profiles.empty());
}

TEST_CASE("colour files are kept by their contents, once, and found by name", "[store][colour]") {
    const TemporaryFolder folder;
    Store store((folder / "store").string(), Access::begin);
    const ColourProfile room = colour_profile_from(two_lights().bytes(), "room");
    const ColourFile kept = store.colours().put(room, "/card/room.colours", "T. Ester");
    CHECK(kept.hash == bytes_hash(room.bytes));
    CHECK(store.colours().put(room, "/elsewhere/copy.colours", "A. Nother").origin == "/card/room.colours");
    const ColourProfile second = colour_profile_from(two_lights().text(dng::name, "Fernwick garden").bytes(), "garden");
    store.colours().put(second, "/card/garden.colours", "T. Ester");
    const std::vector<ColourFile> all = store.colours().all();
    REQUIRE(all.size() == 2);
    CHECK(all[0].name == "Fernwick garden");
    CHECK(store.stamps()["colours"] == 2);

    const auto fetched = store.colours().fetch(kept.value());
    REQUIRE(fetched);
    CHECK(fetched->bytes == room.bytes);
    CHECK(store.colours().fetch({0, "camera matrix"}) == nullptr);
    CHECK(store.colours().fetch(value_of_colour_file("Fernwick room", std::string(64, '0'))) == nullptr);

    const References known = references_for(Field::colour_source, store);
    CHECK(referred(Field::colour_source, {0, "fernwick room"}, known) == kept.value());
    CHECK(referred(Field::colour_source, kept.value(), known) == kept.value());
    CHECK(referred(Field::colour_source, {0, "carried"}, known).text == "carried");
    CHECK(error_of([&] { referred(Field::colour_source, {0, "Fernwick rom"}, known); }) == "input");
    CHECK(error_of([&] { referred(Field::colour_source, {0, "Fernwick"}, known); }) == "input");

    // Bytes that were hurt in the store are told.
    store.engine().run("UPDATE colour_files SET document = 'IIRC' WHERE name = 'Fernwick room'");
    CHECK(error_of([&] { store.colours().fetch(kept.value()); }) == "input");
}

TEST_CASE("colour files by the command line: taken in, compared, pinned, and used by exports", "[cli][colour]") {
    const StudioByHand s;
    const std::string frame = fmt::format("--frame '{}'", s.frame("SP0001").string());
    write_bytes(s.path("room.colours"), two_lights().bytes());
    write_bytes(s.path("foreign.colours"), two_lights().text(dng::camera, "Brackwater N2").bytes());
    write_bytes(s.path("notes.icc"), "no profile");
    const std::string room = "'" + s.path("room.colours").string() + "'";
    CHECK(json::parse(cli("colour show " + room + " --json").out)["lights"] == json({2856.0, 6504.0}));
    CHECK(json::parse(s.good("colour compare", room + " " + frame + " --json"))["mean"] > 0.2);
    CHECK(json::parse(s.good("colour list", "--json"))["files"].empty());
    const json kept = json::parse(s.good("colour take-in", room + " --json"));
    CHECK(json::parse(s.good("colour list", "--json"))["files"].size() == 1);
    s.refused("colour take-in", "'" + s.path("notes.icc").string() + "'");
    s.refused("colour take-in", "'" + s.path("none.colours").string() + "'");
    s.refused("colour take-in", frame);  // it carries none
    s.refused("colour take-in", "", 2);  // neither file nor frame
    s.refused("colour take-in", room + " --profile x", 2);

    // By name, by the whole value; never by a name that means nothing.
    s.refused("baseline pin", "--field colour_source --value 'Fernwick rom'");
    s.good("baseline pin", "--field colour_source --value 'fernwick room'");
    s.good("baseline publish");
    const json answer = json::parse(s.good("resolve", frame + " --json"));
    CHECK(answer.dump().find(kept["value"].get<std::string>()) != std::string::npos);
    s.good("export",
           fmt::format("--frames '{}' --as tiff --out '{}'", s.frame("SP0001").string(), s.path("a").string()));
    s.good("baseline pin", "--field colour_source --value 'camera matrix'");
    s.good("baseline publish");
    s.good("export",
           fmt::format("--frames '{}' --as tiff --out '{}'", s.frame("SP0001").string(), s.path("b").string()));
    CHECK(read_file(s.path("a") / "SP0001.tif") != read_file(s.path("b") / "SP0001.tif"));

    // A file of another camera is told at once, and nothing is written.
    s.good("colour take-in", "'" + s.path("foreign.colours").string() + "'");
    s.refused("baseline pin", "--field colour_source --value 'Fernwick room'");  // two of that name now
    const std::string foreign = json::parse(s.good("colour list", "--json"))["files"][0]["camera"] == "Brackwater N2"
                                    ? json::parse(s.good("colour list", "--json"))["files"][0]["value"]
                                    : json::parse(s.good("colour list", "--json"))["files"][1]["value"];
    s.good("baseline pin", "--field colour_source --value '" + foreign + "'");
    s.good("baseline publish");
    s.refused("export",
              fmt::format("--frames '{}' --as tiff --out '{}'", s.frame("SP0002").string(), s.path("c").string()));
    CHECK_FALSE(fs::exists(s.path("c") / "SP0002.tif"));
}

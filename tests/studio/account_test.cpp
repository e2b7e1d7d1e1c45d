// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/account.h"

#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "frames/export_metadata.h"
#include "frames/picture_sketch.h"
#include "studio/exports/exporting.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

Account some_account() {
    Account a;
    a.program = "Optrel 0.2.0";
    a.time = "2026-03-01T09:30:00Z";
    a.original = "SP0001.dng";
    a.original_hash = std::string(64, 'a');
    a.camera = "Brimholt B2";
    a.body = "Stand 1";
    a.lens = "Lumenfold 35mm f/2.8";
    a.correction = "Lumenfold 35mm f/2.8 version 2 (own copy)";
    a.profile_id = "p1";
    a.profile_version = 2;
    a.profile_rms_px = 0.0072;
    a.profile_sigma_px = 0.02;
    a.revision = 4;
    a.fields = {{Field::exposure, {0.5, ""}, "tier 'Studio', revision 4"}, {Field::border, {0, "fill"}, "by hand"}};
    a.delivery = delivery_to_json(shipped_deliveries()[0]);
    a.sketch = std::string(384, '7');
    return a;
}

/// The bytes of a file but for nothing.
std::string bytes(const fs::path& path) { return read_file(path, 1u << 30); }

}  // namespace

TEST_CASE("an account survives its JSON, and tells when it was changed", "[studio][account]") {
    const Account a = some_account();
    const std::string text = account_to_json(a);
    const Account back = account_from_json(text, "it");
    CHECK(account_to_json(back) == text);
    CHECK(back.fields.size() == 2);
    CHECK(back.fields[1].from == "by hand");
    const std::string words = in_words(a);
    for (const char* said : {"SP0001.dng", "Stand 1", "version 2", "0.0072 px", "revision 4", "Exposure: 0.50 EV",
                             "by hand", "Delivery Archive"})
        CHECK(words.find(said) != std::string::npos);

    json changed = json::parse(text);
    changed["revision"] = 9;
    const std::string s = sentence_of([&] { account_from_json(changed.dump(), "/x/a.tif"); });
    CHECK(is_one_sentence(s));
    CHECK(s.find("changed") != std::string::npos);
    json newer = json::parse(text);
    newer["version"] = 99;
    for (const std::string& bad : {newer.dump(), std::string("{}"), std::string("[]"), std::string(""),
                                   text.substr(0, 90), std::string(2u << 20, ' ')})
        CHECK(error_of([&] { account_from_json(bad, "/x/a.tif"); }) == "input");
}

TEST_CASE("a sketch tells one picture from another, and bears a lossy format", "[studio][account]") {
    cv::Mat3w a(240, 320);
    for (int row = 0; row < a.rows; ++row)
        for (int i = 0; i < a.cols; ++i) a(row, i) = cv::Vec3w(200 * i, 250 * row, 30000);
    CHECK(sketch_of(a).size() == 384);
    CHECK(sketch_difference(sketch_of(a), sketch_of(a)) == 0);
    cv::Mat3b small(a.size());
    for (int row = 0; row < a.rows; ++row)
        for (int i = 0; i < a.cols; ++i)
            for (int c = 0; c < 3; ++c) small(row, i)[c] = static_cast<unsigned char>(a(row, i)[c] / 257);
    CHECK(sketch_difference(sketch_of(a), sketch_of(small)) <= 1);
    cv::Mat3w turned(a.size());
    for (int row = 0; row < a.rows; ++row)
        for (int i = 0; i < a.cols; ++i) turned(row, i) = a(row, a.cols - 1 - i);
    CHECK(sketch_difference(sketch_of(a), sketch_of(turned)) > 50);
    CHECK(sketch_difference(sketch_of(a), "") == 255);
    CHECK(sketch_of(cv::Mat()).empty());
    CHECK_NOTHROW(sketch_of(cv::Mat3w(3, 5, cv::Vec3w(1, 2, 3))));
}

TEST_CASE("every format carries the account, and the same picture comes of it again, byte for byte", "[cli][account]") {
    const StudioByHand s;
    write_bytes(s.path("p.json"), profile_to_json(sample_profile()));
    const std::string profile = Store(s.path("s").string(), Access::write).profiles().publish(sample_profile()).id;
    s.good("baseline pin", "--field exposure --value 0.3");
    s.good("baseline pin", "--field sharpening_amount --value 20");
    s.good("baseline pin", "--field lens_profile --value " + profile);
    s.good("baseline publish");
    const fs::path frame = s.frame("SP0001");
    s.good("store index", "'" + s.path("frames").string() + "'");
    s.good("rollout apply", "--all");
    s.good("frame set", fmt::format("--frame '{}' --field roll --value 0.7", frame.string()));
    for (const char* format : {"tiff", "jpeg", "png", "dng"}) {
        INFO(format);
        const json done = json::parse(s.good(
            "export", fmt::format("--frames '{}' --as {} {} --out '{}' --json", frame.string(), format,
                                  format == std::string("dng") ? "" : "--longest-side 600", s.path("out").string())));
        const fs::path out = done["exported"][0]["out"].get<std::string>();
        const json told = json::parse(cli(fmt::format("explain '{}' --json", out.string())).out);
        CHECK(told["changed"].empty());
        CHECK(told["account"]["original"]["sha256"] == file_hash(frame));
        CHECK(told["account"]["profile"]["version"] == 1);
        bool by_hand = false, by_tier = false;
        for (const json& f : told["account"]["fields"]) {
            by_hand =
                by_hand || (f["field"] == "roll" && f["from"].get<std::string>().find("hand") != std::string::npos);
            by_tier = by_tier || f["field"] == "exposure";
        }
        CHECK(by_hand);
        CHECK(by_tier);
        const fs::path again = s.path(std::string("again-") + format + out.extension().string());
        s.good("remake", fmt::format("'{}' --frame '{}' --out '{}'", out.string(), frame.string(), again.string()));
        CHECK(bytes(again) == bytes(out));
        s.refused("remake", fmt::format("'{}' --frame '{}' --out '{}'", out.string(), s.frame("SP0002").string(),
                                        s.path("x" + out.extension().string()).string()));
    }
    // What has changed since: a later revision, another value, a picture under another's account.
    s.good("baseline pin", "--field exposure --value 0.4");
    s.good("baseline publish");
    s.good("frame back-to-baseline", fmt::format("--frame '{}'", frame.string()));
    const json later = json::parse(cli(fmt::format("explain '{}' --store '{}' --json",
                                                   (s.path("out") / "SP0001.tif").string(), s.path("s").string()))
                                       .out);
    CHECK(later["changed"].dump().find("Revision 2 is current") != std::string::npos);
    CHECK(later["changed"].dump().find("Roll would be 0.00") != std::string::npos);
    s.good("export",
           fmt::format("--frames '{}' --as jpeg --out '{}'", s.frame("SP0007").string(), s.path("other").string()));
    const auto from = Exiv2::ImageFactory::open((s.path("out") / "SP0001.jpg").string());
    from->readMetadata();
    const auto to = Exiv2::ImageFactory::open((s.path("other") / "SP0007.jpg").string());
    to->readMetadata();
    to->setXmpData(from->xmpData());
    to->writeMetadata();
    const json copied =
        json::parse(cli(fmt::format("explain '{}' --json", (s.path("other") / "SP0007.jpg").string())).out);
    CHECK(copied["changed"].dump().find("not the one") != std::string::npos);
    for (const fs::path& bare : {frame, s.path("p.json"), s.path("none.tif")})
        CHECK(cli(fmt::format("explain '{}'", bare.string())).status == 1);
}

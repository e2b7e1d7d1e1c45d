// SPDX-License-Identifier: GPL-3.0-or-later
// Exporting: formats, colours checked by Little CMS, names, what stays and what is refused.
#include "studio/exports/exporting.h"

#include <lcms2.h>
#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>
#include <fstream>
#include <thread>

#include "base/fault_point.h"
#include "base/files.h"
#include "exchange/file_name.h"
#include "frames/dng_writer.h"
#include "studio/development/develop_frame.h"
#include "studio/development/embedded_correction.h"
#include "studio/profiles/profile_file.h"
#include "support/pictures.h"
#include "support/rig_run.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A small raw frame with a gradient in every colour.
void write_frame(const fs::path& path, const std::string& lens = "Lumenfold 35mm f/2.8") {
    RawPicture raw;
    raw.counts.create(128, 192);
    for (int row = 0; row < 128; ++row)
        for (int i = 0; i < 192; ++i)
            raw.counts(row, i) = static_cast<std::uint16_t>(600 + 200 * i + (row % 2 ? 40 * row : 0));
    raw.filter = {{{0, 1}, {1, 2}}};
    raw.black = {{{500, 500}, {500, 500}}};
    raw.white = 40000;
    raw.xyz_to_camera = cv::Matx33d(0.74, -0.24, -0.07, -0.46, 1.24, 0.25, -0.07, 0.15, 0.64);
    raw.as_shot_neutral = {0.5, 1, 0.7};
    Metadata m;
    m.maker = "Quenby";
    m.model = "Q1";
    m.body_serial = "77";
    m.lens = lens;
    m.focal_mm = 35;
    m.iso = 400;
    m.time = "2026:03:02 10:15:00";
    write_dng(path, raw, m);
}

Delivery delivery(ExportFormat format, ColourSpace space, int bits) {
    Delivery r = plain_delivery(format);
    r.space = space;
    r.bits = bits;
    return r;
}

std::vector<Exported> export_all(const std::vector<fs::path>& frames, const Delivery& r, const fs::path& folder) {
    Progress progress;
    return export_frames(
        frames, r, folder, bare_development, [](const Exported&) {}, progress);
}

std::string icc_of(const fs::path& path) {
    const auto image = Exiv2::ImageFactory::open(path.string());
    image->readMetadata();
    const Exiv2::DataBuf& icc = *image->iccProfile();
    return {reinterpret_cast<const char*>(icc.pData_), static_cast<std::size_t>(icc.size_)};
}

}  // namespace

TEST_CASE("what is written says its colours by its profile: all spaces look alike to Little CMS", "[studio][export]") {
    const TemporaryFolder folder;
    write_frame(folder / "SP1.dng");
    cv::Mat reference;
    for (const ColourSpace space : {ColourSpace::srgb, ColourSpace::p3, ColourSpace::rec2020, ColourSpace::romm,
                                    ColourSpace::linear, ColourSpace::camera}) {
        INFO(to_string(space));
        export_frame(folder / "SP1.dng", bare_development(folder / "SP1.dng"), delivery(ExportFormat::tiff, space, 16),
                     folder / (to_string(space) + ".tif"), Existing::keep, Progress());
        const cv::Mat3w bgr = read_picture(folder / (to_string(space) + ".tif"));
        const std::string icc = icc_of(folder / (to_string(space) + ".tif"));
        const cmsHPROFILE from = cmsOpenProfileFromMem(icc.data(), static_cast<cmsUInt32Number>(icc.size()));
        REQUIRE(from);
        const cmsHPROFILE lab = cmsCreateLab4Profile(nullptr);
        const cmsHTRANSFORM transform = cmsCreateTransform(
            from, TYPE_BGR_16, lab, TYPE_Lab_FLT, INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_NOOPTIMIZE | cmsFLAGS_NOCACHE);
        cv::Mat3f colours(bgr.size());
        cmsDoTransform(transform, bgr.data, colours.data, static_cast<cmsUInt32Number>(bgr.total()));
        cmsDeleteTransform(transform);
        cmsCloseProfile(from);
        cmsCloseProfile(lab);
        if (space == ColourSpace::srgb) {
            reference = colours;
            continue;
        }
        // Where sRGB holds the colour, and so all of them do.
        const cv::Mat3w srgb = read_picture(folder / "srgb.tif");
        double largest = 0;
        int compared = 0;
        for (int row = 4; row < 124; row += 3)
            for (int i = 4; i < 188; i += 3) {
                const cv::Vec3w s = srgb(row, i);
                if (std::min({s[0], s[1], s[2]}) < 300 || std::max({s[0], s[1], s[2]}) > 65000) continue;
                const cv::Vec3f d = colours(row, i) - reference.at<cv::Vec3f>(row, i);
                largest = std::max(largest, cv::norm(d));
                ++compared;
            }
        CHECK(compared > 300);
        CHECK(largest < 0.1);  // CIE 1976 difference
    }
}

TEST_CASE("every format is read by others, with its size and its metadata", "[studio][export]") {
    const TemporaryFolder folder;
    write_frame(folder / "SP1.dng");
    for (const ExportFormat format : {ExportFormat::tiff, ExportFormat::jpeg, ExportFormat::png, ExportFormat::dng})
        for (const int bits : {8, 16}) {
            if ((format == ExportFormat::jpeg && bits == 16) || (format == ExportFormat::dng && bits == 8)) continue;
            Delivery r = delivery(format, ColourSpace::srgb, bits);
            r.compressed = bits == 16;
            r.file_name = "{name}-" + std::to_string(bits);
            r.longest_side = format == ExportFormat::dng ? 0 : 96;
            const std::vector<Exported> done = export_all({folder / "SP1.dng"}, r, folder / "out");
            INFO(done[0].problem);
            REQUIRE(done[0].problem.empty());
            const fs::path out = folder / ("out/SP1-" + std::to_string(bits) + extension_of(plain_delivery(format)));
            CHECK(done[0].out == out);
            const Metadata m = read_metadata(out);
            CHECK(m.kind == (format == ExportFormat::dng ? FrameKind::raw : FrameKind::rendered));
            CHECK(m.lens == "Lumenfold 35mm f/2.8");
            CHECK(m.body_serial == "77");
            CHECK(m.time == "2026:03:02 10:15:00");
            CHECK(m.width == (format == ExportFormat::dng ? 192 : 96));
            if (format == ExportFormat::dng) continue;
            const cv::Mat picture = read_picture(out);
            CHECK(picture.cols == 96);
            CHECK(picture.depth() == (bits == 16 ? CV_16U : CV_8U));
        }
    // 8 and 16 bits, and a reader of ours and another, agree.
    const cv::Mat a = read_picture(folder / "out/SP1-8.tif"), b = read_picture(folder / "out/SP1-16.tif");
    cv::Mat a16;
    a.convertTo(a16, CV_16U, 257);
    CHECK(cv::norm(a16, b, cv::NORM_INF) <= 129);
    CHECK(cv::norm(read_picture(folder / "out/SP1-16.png"), b, cv::NORM_INF) == 0);
}

TEST_CASE("an independent validator finds no fault in the metadata of any format", "[studio][export]") {
    const TemporaryFolder folder;
    write_frame(folder / "SP1.dng");
    for (const ExportFormat format : {ExportFormat::tiff, ExportFormat::jpeg, ExportFormat::png, ExportFormat::dng})
        for (const ColourSpace space : {ColourSpace::srgb, ColourSpace::romm, ColourSpace::camera}) {
            if (format == ExportFormat::jpeg && space == ColourSpace::camera) continue;
            Delivery r = delivery(format, space, format == ExportFormat::jpeg ? 8 : 16);
            r.file_name = "{name}-" + to_string(space);
            if (format != ExportFormat::dng) r.resolution = print_resolution_from("120/cm");
            const std::vector<Exported> done = export_all({folder / "SP1.dng"}, r, folder / "out");
            INFO(done[0].problem);
            REQUIRE(done[0].problem.empty());
            const fs::path said = folder / "said.txt";
            const auto ask = [&](const std::string& what) {
                const std::string command =
                    "exiftool " + what + " '" + done[0].out.string() + "' > '" + said.string() + "' 2>&1";
                REQUIRE(std::system(command.c_str()) == 0);
                return read_file(said);
            };
            INFO(done[0].out.string());
            CHECK(ask("-validate -warning -error -a") == "Validate                        : OK\n");
            if (format == ExportFormat::dng) continue;
            CHECK(ask("-s3 -IFD0:XResolution -IFD0:ResolutionUnit") == "120\ncm\n");
            CHECK(ask("-s3 -ExifIFD:ColorSpace") == (space == ColourSpace::srgb ? "sRGB\n" : "Uncalibrated\n"));
            CHECK(ask("-s3 -XMP-optrel:Account").find("optrel-account") != std::string::npos);
            // The colours of the primaries are told once, or not by two tags that contradict each other.
            CHECK(ask("-s3 -ICC_Profile:ChromaticityChannel1").empty() == (space == ColourSpace::camera));
        }
}

TEST_CASE("the correction stands in the metadata, and nobody corrects twice", "[studio][export]") {
    const TemporaryFolder folder;
    const fs::path frame = rig_frame("SP0005");
    FrameDevelopment r = bare_development(frame);
    CHECK(correction_note(r).empty());
    const Profile profile = read_profile(solved_rig_profile());
    r.profile = AppliedProfile{profile.nodes.front(), profile.geometry};
    r.chosen = "Lumenfold 35mm version 2 (own copy)";
    r.profile_id = "p7";
    r.profile_version = 2;
    r.revision = 12;
    r.fields.fields[static_cast<int>(Field::fringe_strength)].value.number = 0;
    export_frame(frame, r, delivery(ExportFormat::jpeg, ColourSpace::srgb, 8), folder / "a.jpg", Existing::keep,
                 Progress());
    const auto image = Exiv2::ImageFactory::open((folder / "a.jpg").string());
    image->readMetadata();
    const auto said = [&](const char* name) { return image->xmpData()[std::string("Xmp.optrel.") + name].toString(); };
    CHECK(said("corrected") == "distortion and falloff by Lumenfold 35mm version 2 (own copy)");
    CHECK(said("profile") == "p7");
    CHECK(said("profile_version") == "2");
    CHECK(said("baseline_revision") == "12");
    CHECK(said("distortion_strength") == "100 %");
    const Metadata again = read_metadata(folder / "a.jpg");
    CHECK(again.corrected == said("corrected"));
    const ProfileMatch match = profile_for(neutral_start(), again, {profile});
    CHECK_FALSE(match.usable());
    REQUIRE_FALSE(match.reasons.empty());
    CHECK(match.reasons[0].find("corrected already") != std::string::npos);
}

TEST_CASE("names come from tokens, and what they cannot be is said", "[exchange][export]") {
    NameFacts f;
    f.name = "SP1";
    f.body = "Camera 3/left";
    f.delivery = "Review";
    f.number = 7;
    f.metadata.time = "2026:03:02 10:15:00";
    f.metadata.iso = 400;
    CHECK(name_from("{name}", f) == "SP1");
    CHECK(name_from("{year}/{date}-{time}_{number:3}", f) == "2026/20260302-101500_007");
    CHECK(name_from("{body}/{name}", f) == "Camera 3-left/SP1");
    CHECK(name_from("{lens|no lens}/{name}-{iso}", f) == "no lens/SP1-400");
    const std::string empty = sentence_of([&] { name_from("{lens}-{name}", f); });
    CHECK(is_one_sentence(empty));
    CHECK(empty.find("{lens|...}") != std::string::npos);
    for (const char* bad : {"", "{nmae}", "{name", "name}", "../{name}", "/{name}", "{name}/", "a/./{name}", ".{name}",
                            "{delivery}", "{name}:x", "{number:0}", "{iso:3}-{name}"})
        CHECK(error_of([&] { check_name_pattern(bad); }) == "input");
    f.body = "..";
    CHECK(error_of([&] { name_from("{body}/{name}", f); }) == "input");
}

TEST_CASE("names that are taken stay, are numbered, or are replaced when they are ours", "[studio][export]") {
    const TemporaryFolder folder;
    fs::create_directories(folder / "a");
    fs::create_directories(folder / "b");
    write_frame(folder / "a/SP1.dng");
    write_frame(folder / "b/SP1.dng");
    write_frame(folder / "b/sp1.dng");
    Delivery r = delivery(ExportFormat::tiff, ColourSpace::srgb, 16);
    const std::vector<fs::path> two{folder / "a/SP1.dng", folder / "b/SP1.dng"};
    const auto first = export_all(two, r, folder / "out");
    CHECK(first[0].problem.empty());
    CHECK(first[1].problem.find("two frames of this export") != std::string::npos);
    const auto second = export_all(two, r, folder / "out");
    CHECK(second[0].problem.find("there already") != std::string::npos);
    r.taken = NameTaken::number;
    const auto numbered = export_all({two[0], two[1], folder / "b/sp1.dng"}, r, folder / "out");
    CHECK(numbered[0].out.filename() == "SP1-2.tif");
    CHECK(numbered[1].out.filename() == "SP1-3.tif");
    CHECK(numbered[2].out.filename() == "sp1.tif");  // case alone: not taken on this disk, and not given in this export
    r.taken = NameTaken::replace;
    CHECK(export_all({two[0]}, r, folder / "out")[0].problem.empty());
    write_atomic(folder / "out/SP1.tif", "somebody's own");
    const auto kept = export_all({two[0]}, r, folder / "out");
    CHECK(kept[0].problem.find("not written by Optrel") != std::string::npos);
    CHECK(read_file(folder / "out/SP1.tif") == "somebody's own");
    // The frame itself is never in danger, not even where it is a file of Optrel's.
    Delivery raw = plain_delivery(ExportFormat::dng);
    raw.taken = NameTaken::replace;
    const std::string before = read_file(two[0]);
    write_atomic(folder / "a/other.dng", "II*");
    const auto onto = export_all({two[0]}, raw, folder / "a");
    CHECK(onto[0].problem.find("the frame itself") != std::string::npos);
    const auto over = export_all({folder / "a/other.dng"}, raw, folder / "a");
    CHECK_FALSE(over[0].problem.empty());
    CHECK(read_file(two[0]) == before);
}

TEST_CASE("six stations that count names at once write six files, and lose none", "[studio][export]") {
    const TemporaryFolder folder;
    write_frame(folder / "SP1.dng");
    Delivery r = delivery(ExportFormat::tiff, ColourSpace::srgb, 16);
    r.taken = NameTaken::number;
    std::vector<std::string> problems(6);
    std::vector<std::thread> stations;
    for (std::string& problem : problems)
        stations.emplace_back([&] { problem = export_all({folder / "SP1.dng"}, r, folder / "out")[0].problem; });
    for (std::thread& s : stations) s.join();
    for (const std::string& problem : problems) CHECK(problem.empty());
    int files = 0;
    for (const auto& entry : fs::directory_iterator(folder / "out")) files += entry.path().extension() == ".tif";
    CHECK(files == 6);
}

TEST_CASE("one frame that cannot be exported stops no other, and leaves nothing behind", "[studio][export]") {
    const TemporaryFolder folder;
    write_frame(folder / "SP1.dng");
    write_frame(folder / "SP2.dng", "");
    write_atomic(folder / "SP3.dng", "no picture");
    const std::vector<fs::path> frames{folder / "none.dng", folder / "SP3.dng", folder / "SP2.dng", folder / "SP1.dng"};
    Delivery r = delivery(ExportFormat::png, ColourSpace::srgb, 8);
    r.file_name = "{lens}/{name}";
    const auto done = export_all(frames, r, folder / "out");
    for (int i = 0; i < 3; ++i) CHECK(is_one_sentence(done[i].problem));
    CHECK(done[3].problem.empty());
    CHECK(done[3].out == folder / "out/Lumenfold 35mm f-2.8/SP1.png");
    // A rendered picture has no camera's colours, and no raw copy.
    fs::copy_file(done[3].out, folder / "R.png");
    Delivery camera = delivery(ExportFormat::tiff, ColourSpace::camera, 16);
    CHECK(is_one_sentence(export_all({folder / "R.png"}, camera, folder / "out2")[0].problem));
    CHECK(
        is_one_sentence(export_all({folder / "R.png"}, plain_delivery(ExportFormat::dng), folder / "out2")[0].problem));
    for (const auto& entry : fs::recursive_directory_iterator(folder / "out2")) CHECK_FALSE(entry.is_regular_file());
}

TEST_CASE("a frame that changes while it is exported gives no picture of neither", "[studio][export]") {
    const TemporaryFolder folder;
    write_frame(folder / "SP1.dng");
    const FrameDevelopment facts = bare_development(folder / "SP1.dng");
    for (const ExportFormat format : {ExportFormat::tiff, ExportFormat::dng}) {
        // While the folder is made, the frame has been looked at and not yet read.
        fault_point = [&](const char* step) {
            if (std::string(step) == "make folder") std::ofstream(folder / "SP1.dng", std::ios::app) << 'x';
            return 0;
        };
        const fs::path out = folder / (to_string(format) + "/a" + extension_of(plain_delivery(format)));
        const std::string said = sentence_of(
            [&] { export_frame(folder / "SP1.dng", facts, plain_delivery(format), out, Existing::keep, Progress()); });
        fault_point = nullptr;
        CHECK(is_one_sentence(said));
        CHECK(said.find("changed while") != std::string::npos);
        CHECK(fs::is_empty(out.parent_path()));
    }
}

TEST_CASE("a raw copy of the rig's frame develops as the frame does, and tells how well it carries the lens",
          "[studio][export]") {
    const TemporaryFolder folder;
    const fs::path frame = rig_frame("SP0005");
    FrameDevelopment r = bare_development(frame);
    const Profile profile = read_profile(solved_rig_profile());
    r.profile = AppliedProfile{node_at(profile, {r.metadata.focal_mm, r.metadata.aperture, 0}).node, profile.geometry};
    const Exported done =
        export_frame(frame, r, plain_delivery(ExportFormat::dng), folder / "copy.dng", Existing::keep, Progress());
    CHECK(done.carried.geometry == "WarpRectilinear");
    CHECK(done.carried.green_largest_px < 0.06);
    // Its red and blue are displaced as a whole by 0.12 px, for which the form has no place: that is said.
    CHECK(done.carried.geometry_largest_px < 0.25);
    REQUIRE(done.remarks.size() == 1);
    CHECK(done.remarks[0].find("0.213 px in red or blue") != std::string::npos);
    CHECK_FALSE(done.carried.falloff.empty());
    CHECK(done.carried.falloff_largest_percent < 0.2);
    CHECK(cv::norm(read_mosaic(folder / "copy.dng").whole, read_mosaic(frame).whole, cv::NORM_INF) == 0);
    CHECK(fs::file_size(folder / "copy.dng") < fs::file_size(frame));
    const FrameDevelopment again = bare_development(folder / "copy.dng");
    CHECK(again.metadata.lens == r.metadata.lens);
    CHECK(again.metadata.pitch_um == Approx(r.metadata.pitch_um).epsilon(1e-4));
    CHECK(again.metadata.corrected.empty());
    // What it carries is what the profile does, as far as the form goes; Optrel reads it like anybody's.
    const EmbeddedCorrection carried = embedded_correction(folder / "copy.dng", again.metadata);
    CHECK(carried.in_words().find("WarpRectilinear (optional)") != std::string::npos);
    const EmbeddedDifference off = embedded_difference(carried, *r.profile);
    CHECK(off.largest_px.value() < 0.06);
    CHECK(off.colour_largest_px.value() < 0.25);
    CHECK_FALSE(off.falloff_largest_percent);  // in maps
    AppliedProfile other = *r.profile;
    other.node.focal_mm *= 1.05;
    CHECK(embedded_difference(carried, other).largest_px.value() > 1);
    CHECK_FALSE(embedded_correction(frame, r.metadata).any());
    const Developed a = develop_file(frame, r.metadata, r.fields, r.profile, Progress());
    const Developed b = develop_file(folder / "copy.dng", again.metadata, again.fields, r.profile, Progress());
    CHECK(cv::norm(a.rgb, b.rgb, cv::NORM_INF) < 40);
}

TEST_CASE("deliveries come back as they were, and broken ones are refused in one sentence", "[exchange][export]") {
    for (Delivery r : shipped_deliveries()) {
        r.metadata.place = false;
        r.raw.geometry = OpcodeUse::required;
        if (r.format == ExportFormat::dng) {
            r.raw.embed_original = true;  // which says the place
            CHECK(error_of([&] { check(r); }) == "input");
            r.metadata.place = true;
        }
        CHECK(delivery_from_json(delivery_to_json(r), "/studio/r.json") == r);
        CHECK_FALSE(described(r).empty());
    }
    Delivery printed = shipped_deliveries().front();
    CHECK(delivery_to_json(printed).find("resolution") == std::string::npos);
    printed.resolution = print_resolution_from(" 118.11 / cm");
    CHECK(delivery_from_json(delivery_to_json(printed), "/studio/r.json") == printed);
    for (const char* bad : {"", "300", "300/inch", "300 dpi", "-1/in", "0/in", "nan/in", "1e9/in", "0.1/cm", "/cm"})
        CHECK(error_of([&] { print_resolution_from(bad); }) == "input");
    const std::string good = delivery_to_json(shipped_deliveries().front());
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string out = good;
        out.replace(out.find(from), from.size(), to);
        return out;
    };
    for (const std::string& bad :
         {std::string(), std::string("{}"), std::string("[1]"), good.substr(0, good.size() / 2),
          with("\"bits\": 16", "\"bits\": 12"), with("\"bits\": 16", "\"bits\": 8.5"), with("\"romm\"", "\"crayon\""),
          with("\"bits\"", "\"bist\""), with("{name}", "{nmae}"), with("\"exposure\"", "\"exposition\""),
          with("\"version\": 1", "\"version\": 3")})
        CHECK(error_of([&] { delivery_from_json(bad, "/studio/r.json"); }) == "input");
}

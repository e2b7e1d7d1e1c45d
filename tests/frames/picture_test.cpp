// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/picture.h"

#include <tiffio.h>
#include <catch2/catch.hpp>
#include <fstream>

#include "base/files.h"
#include "frames/colour_space.h"
#include "frames/dng_writer.h"
#include "frames/export_metadata.h"
#include "frames/picture_writer.h"
#include "support/pictures.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

RawPicture small_raw() {
    RawPicture raw;
    raw.counts.create(100, 128);
    for (int row = 0; row < 100; ++row)
        for (int i = 0; i < 128; ++i) raw.counts(row, i) = static_cast<std::uint16_t>(1000 + 37 * row + 101 * i);
    raw.filter = {{{1, 2}, {0, 1}}};
    raw.black = {{{500, 510}, {520, 530}}};
    raw.white = 40000;
    raw.xyz_to_camera = cv::Matx33d(0.7, -0.2, -0.1, -0.4, 1.2, 0.2, -0.1, 0.2, 0.6);
    raw.has_colour_matrix = true;
    raw.as_shot_neutral = {0.5, 1, 0.625};
    return raw;
}

Metadata sample_metadata() {
    Metadata m;
    m.maker = "Quenby";
    m.model = "Q1";
    m.body_serial = "77";
    m.lens = "Aldercroft 60mm";
    m.iso = 400;
    m.focal_mm = 60;
    m.pitch_um = 5;
    return m;
}

}  // namespace

TEST_CASE("a DNG that is written is read back the same", "[frames]") {
    const TemporaryFolder folder;
    const RawPicture raw = small_raw();
    write_dng(folder / "a.dng", raw, sample_metadata());
    const RawPicture back = read_raw(folder / "a.dng");
    REQUIRE(back.counts.size() == raw.counts.size());
    CHECK(cv::countNonZero(back.counts != raw.counts) == 0);
    CHECK(back.filter == raw.filter);
    CHECK(back.white == raw.white);
    for (int row = 0; row < 2; ++row)
        for (int column = 0; column < 2; ++column)
            CHECK(back.black.at(row, column) == Approx(raw.black.at(row, column)).margin(0.51));
    for (int i = 0; i < 9; ++i) CHECK(back.xyz_to_camera.val[i] == Approx(raw.xyz_to_camera.val[i]).margin(1e-4));
    for (int c = 0; c < 3; ++c) CHECK(back.as_shot_neutral[c] == Approx(raw.as_shot_neutral[c]).epsilon(1e-4));
    const Metadata m = read_metadata(folder / "a.dng");
    CHECK(m.body_serial == "77");
    CHECK(m.lens == "Aldercroft 60mm");
    CHECK(m.iso == 400);
}

TEST_CASE("same picture, same bytes", "[frames]") {
    const TemporaryFolder folder;
    write_dng(folder / "a.dng", small_raw(), sample_metadata());
    write_dng(folder / "b.dng", small_raw(), sample_metadata());
    CHECK(read_file(folder / "a.dng") == read_file(folder / "b.dng"));
    const cv::Mat3w rgb(20, 30, cv::Vec3w(1, 2, 3));
    write_picture(folder / "a.tif", Existing::keep, rgb, {}, icc_profile(ColourSpace::srgb));
    write_picture(folder / "b.tif", Existing::keep, rgb, {}, icc_profile(ColourSpace::srgb));
    CHECK(read_file(folder / "a.tif") == read_file(folder / "b.tif"));
}

TEST_CASE("a picture that begins at an odd row and column keeps them, with their filter and black levels", "[frames]") {
    const TemporaryFolder folder;
    const fs::path path = folder / "a.dng";
    const RawPicture raw = small_raw();
    for (const auto& [top, left] : {std::pair(2, 4), std::pair(3, 4), std::pair(2, 5), std::pair(3, 5)}) {
        write_dng(path, raw, sample_metadata(), Existing::replace_ours);
        TIFF* tiff = TIFFOpen(path.c_str(), "r+");
        REQUIRE(tiff);
        const std::uint32_t area[] = {static_cast<std::uint32_t>(top), static_cast<std::uint32_t>(left), 90, 110};
        TIFFSetField(tiff, TIFFTAG_ACTIVEAREA, area);
        TIFFRewriteDirectory(tiff);
        TIFFClose(tiff);
        const RawPicture back = read_raw(path);
        INFO("from row " << top << ", column " << left);
        REQUIRE(back.counts.size() == cv::Size(110 - left, 90 - top));
        CHECK(cv::countNonZero(back.counts != raw.counts(cv::Rect(left, top, 110 - left, 90 - top))) == 0);
        // Filter and black levels of a DNG count from the beginning of what is to be seen.
        CHECK(back.filter == raw.filter);
        for (int row = 0; row < 2; ++row)
            for (int column = 0; column < 2; ++column)
                CHECK(back.black.at(row, column) == Approx(raw.black.at(row, column)).margin(0.51));
    }
}

TEST_CASE("planes stand where their samples were taken", "[frames]") {
    const RawPicture raw = small_raw();
    const auto planes = raw.planes();
    REQUIRE(planes.size() == 4);
    int greens = 0;
    for (const SamplePlane& p : planes) {
        CHECK(p.step == 2);
        greens += p.channel == Channel::green;
        const int row = static_cast<int>(p.v0 - 0.5), column = static_cast<int>(p.u0 - 0.5);
        CHECK(raw.channel_at(row, column) == p.channel);
        const double black = raw.black.at(row, column);
        CHECK(p.values(3, 5) == Approx((raw.counts(6 + row, 10 + column) - black) / (raw.white - black)));
    }
    CHECK(greens == 2);
}

TEST_CASE("odd sizes keep their last samples", "[frames]") {
    RawPicture raw = small_raw();
    raw.counts = raw.counts(cv::Rect(0, 0, 127, 99)).clone();
    for (const SamplePlane& p : raw.planes()) {
        CHECK(p.values.cols == (p.u0 < 1 ? 64 : 63));
        CHECK(p.values.rows == (p.v0 < 1 ? 50 : 49));
    }
}

TEST_CASE("bad raw files are refused in one sentence", "[frames]") {
    const TemporaryFolder folder;
    const std::string whole = read_file(rig_frame("CH0001"));
    write_bytes(folder / "empty.dng", "");
    write_bytes(folder / "noise.dng", random_bytes(100000, 2));
    write_bytes(folder / "header.dng", whole.substr(0, 100));
    write_bytes(folder / "half.dng", whole.substr(0, whole.size() / 2));
    write_picture(folder / "picture.jpg", cv::Mat3b(100, 100));
    for (const char* name : {"empty.dng", "noise.dng", "header.dng", "half.dng", "picture.jpg", "missing.dng"}) {
        const std::string sentence = sentence_of([&] { read_raw(folder / name); });
        INFO(name << ": " << sentence);
        CHECK(is_one_sentence(sentence));
        CHECK(sentence.find(name) != std::string::npos);
    }
    CHECK(sentence_of([&] { read_raw(folder / "picture.jpg"); }).find("rendered") != std::string::npos);
}

TEST_CASE("a raw file whose pixels were cut off is noticed", "[frames]") {
    // The directories are moved to the front, so that only the pixels are short.
    const TemporaryFolder folder;
    RawPicture raw = small_raw();
    write_dng(folder / "a.dng", raw, sample_metadata());
    std::string bytes = read_file(folder / "a.dng");
    std::string padded = bytes;
    const std::size_t pixels = raw.counts.total() * 2;
    // Claim a picture twice as high as there are samples.
    const std::uint16_t height = 100, twice = 4000;
    std::size_t changed = 0;
    for (std::size_t i = pixels; i + 12 <= padded.size(); i += 1) {
        std::uint16_t tag, value;
        std::memcpy(&tag, &padded[i], 2);
        std::memcpy(&value, &padded[i + 8], 2);
        if ((tag == 257 || tag == 278) && value == height) {
            std::memcpy(&padded[i + 8], &twice, 2);
            ++changed;
        }
    }
    REQUIRE(changed >= 1);
    write_bytes(folder / "b.dng", padded);
    const std::string sentence = sentence_of([&] { read_raw(folder / "b.dng"); });
    INFO(sentence);
    CHECK(is_one_sentence(sentence));
}

TEST_CASE("a rendered picture is made linear, red first", "[frames]") {
    const TemporaryFolder folder;
    write_picture(folder / "a.png", cv::Mat3b(80, 90, cv::Vec3b(0, 128, 255)));  // blue first on disk's side
    const cv::Mat3f linear = read_rendered(folder / "a.png");
    CHECK(linear(10, 10)[0] == Approx(1));
    CHECK(linear(10, 10)[1] == Approx(0.2158605).epsilon(1e-4));
    CHECK(linear(10, 10)[2] == Approx(0).margin(1e-6));
    cv::Mat3w deep(80, 90, cv::Vec3w(65535, 0, 32768));
    write_picture(folder / "b.png", deep);
    CHECK(read_rendered(folder / "b.png")(5, 5)[2] == Approx(1));
}

TEST_CASE("a raw file where a picture is needed, and damaged pictures, are refused", "[frames]") {
    const TemporaryFolder folder;
    CHECK(error_of([&] { read_rendered(rig_frame("CH0001")); }) == "input");
    write_picture(folder / "a.jpg", cv::Mat3b(300, 300, cv::Vec3b(5, 6, 7)));
    const std::string whole = read_file(folder / "a.jpg");
    write_bytes(folder / "cut.jpg", whole.substr(0, 40));
    write_picture(folder / "tiny.png", cv::Mat3b(8, 8));
    for (const char* name : {"cut.jpg", "tiny.png"}) CHECK(error_of([&] { read_rendered(folder / name); }) == "input");
}

TEST_CASE("writing a picture where nothing may be written is told", "[frames]") {
    const TemporaryFolder folder;
    const cv::Mat3w rgb(20, 30, cv::Vec3w(1, 2, 3));
    CHECK(error_of([&] { write_picture(folder / "none" / "a.tif", Existing::keep, rgb, {}, ""); }) == "file");
    CHECK(error_of([&] { write_dng(folder / "none" / "a.dng", small_raw(), sample_metadata()); }) == "file");
}

TEST_CASE("an exported TIFF carries its profile and metadata", "[frames]") {
    const TemporaryFolder folder;
    cv::Mat3w rgb(70, 90, cv::Vec3w(1000, 20000, 65535));
    write_picture(folder / "a.tif", Existing::keep, rgb, {}, icc_profile(ColourSpace::srgb),
                  {folder / "none.dng", sample_metadata()});
    const std::string bytes = read_file(folder / "a.tif");
    CHECK(bytes.find("acsp") != std::string::npos);  // the signature of an ICC profile
    const Metadata m = read_metadata(folder / "a.tif");
    CHECK(m.kind == FrameKind::rendered);
    CHECK(camera_name(m) == "Quenby Q1");
    CHECK(m.focal_mm == Approx(60));
    const cv::Mat back = read_picture(folder / "a.tif");
    CHECK(back.depth() == CV_16U);
    CHECK(back.at<cv::Vec3w>(3, 3) == cv::Vec3w(65535, 20000, 1000));
}

TEST_CASE("a picture whose header asks for gigabytes is refused before it is decoded", "[frames]") {
    const TemporaryFolder folder;
    const fs::path path = folder / "vast.png";
    write_picture(path, cv::Mat3b(80, 100, cv::Vec3b(1, 2, 3)));
    std::string bytes = read_file(path);
    const auto put = [&](std::size_t at, std::uint32_t value) {
        for (int i = 0; i < 4; ++i) bytes[at + i] = static_cast<char>(value >> (24 - 8 * i));
    };
    put(16, 20000);
    put(20, 10000);
    std::uint32_t crc = 0xffffffffu;  // of the chunk's name and contents (PNG specification, annex D)
    for (std::size_t i = 12; i < 29; ++i) {
        crc ^= static_cast<unsigned char>(bytes[i]);
        for (int bit = 0; bit < 8; ++bit) crc = crc & 1 ? 0xedb88320u ^ (crc >> 1) : crc >> 1;
    }
    put(29, ~crc);
    std::ofstream(path, std::ios::binary) << bytes;
    CHECK_THROWS_WITH(read_rendered(path), Catch::Contains("20000 by 10000") && Catch::Contains("megapixels"));
}

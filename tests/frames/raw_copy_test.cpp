// SPDX-License-Identifier: GPL-3.0-or-later
// Raw copies, read by the raw library and by libtiff and zlib, which have no part in writing them.
#include "frames/dng_writer.h"
#include "frames/embedded_preview.h"

#include <tiffio.h>
#include <zlib.h>
#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>
#include <random>

#include "base/files.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Slow changes, noise, and the extremes in between: all that a difference can be.
cv::Mat1w samples(int rows, int columns, unsigned seed) {
    std::mt19937 random(seed);
    cv::Mat1w out(rows, columns);
    for (int row = 0; row < rows; ++row)
        for (int i = 0; i < columns; ++i) {
            const unsigned noise = random() % 64;
            out(row, i) =
                static_cast<std::uint16_t>(random() % 50 == 0 ? (random() % 2) * 65535 : 900 + 7 * row + 3 * i + noise);
        }
    return out;
}

RawMosaic mosaic_of(const cv::Mat1w& whole, const VisiblePart& visible) {
    RawMosaic out;
    out.whole = whole;
    out.visible = visible;
    RawPicture& p = out.picture;
    p.counts = whole(cv::Rect(visible.left, visible.top, visible.width, visible.height));
    p.filter = {{{1, 2}, {0, 1}}};
    p.black = {{{512, 513}, {514, 515}}};
    p.white = 60000;
    p.xyz_to_camera = cv::Matx33d(0.74, -0.24, -0.07, -0.46, 1.24, 0.25, -0.07, 0.15, 0.64);
    p.as_shot_neutral = {0.5, 1, 0.625};
    return out;
}

RawCopyContent content(bool compressed) {
    RawCopyContent out;
    out.metadata.maker = "Quenby";
    out.metadata.model = "Q1";
    out.metadata.body_serial = "QX-4471";
    out.metadata.lens = "Aldercroft 60mm";
    out.metadata.focal_mm = 60;
    out.compressed = compressed;
    out.preview = cv::Mat3b(60, 90, cv::Vec3b(200, 120, 40));
    out.noise = {1e-4, 2e-6, 1e-4, 2e-6, 1.5e-4, 3e-6};
    return out;
}

}  // namespace

TEST_CASE("every sample of a raw copy is what it was, for another reader", "[frames][dng]") {
    const TemporaryFolder folder;
    for (const auto& [rows, columns] :
         {std::pair(700, 1100), std::pair(512, 512), std::pair(513, 1025), std::pair(300, 401)})
        for (const bool compressed : {true, false}) {
            INFO(rows << " x " << columns << (compressed ? " compressed" : ""));
            const RawMosaic mosaic = mosaic_of(samples(rows, columns, 5), {6, 8, rows - 10, columns - 12});
            write_raw_copy(folder / "a.dng", Existing::replace_ours, mosaic, folder / "none.dng", content(compressed),
                           Progress());
            const RawMosaic back = read_mosaic(folder / "a.dng");
            REQUIRE(back.whole.size() == mosaic.whole.size());
            CHECK(cv::norm(back.whole, mosaic.whole, cv::NORM_INF) == 0);
            CHECK(back.visible.top == 6);
            CHECK(back.visible.left == 8);
            CHECK(back.picture.counts.size() == mosaic.picture.counts.size());
            CHECK(back.picture.filter == mosaic.picture.filter);
            for (int i = 0; i < 4; ++i)
                CHECK(back.picture.black.at(i / 2, i % 2) == Approx(mosaic.picture.black.at(i / 2, i % 2)));
            CHECK(back.picture.white == 60000);
            for (int i = 0; i < 9; ++i)
                CHECK(back.picture.xyz_to_camera.val[i] == Approx(mosaic.picture.xyz_to_camera.val[i]).margin(1e-5));
            CHECK(back.picture.as_shot_neutral[0] == Approx(0.5).epsilon(1e-4));
        }
}

TEST_CASE("compression pays where samples are alike, and holds one value alone", "[frames][dng]") {
    const TemporaryFolder folder;
    cv::Mat1w smooth(512, 1024);
    for (int row = 0; row < smooth.rows; ++row)
        for (int i = 0; i < smooth.cols; ++i) smooth(row, i) = static_cast<std::uint16_t>(2000 + row + i / 2);
    write_raw_copy(folder / "a.dng", Existing::keep, mosaic_of(smooth, {0, 0, 512, 1024}), folder / "none.dng",
                   content(true), Progress());
    CHECK(fs::file_size(folder / "a.dng") < smooth.total() / 2);
    const RawMosaic flat = mosaic_of(cv::Mat1w(128, 128, std::uint16_t(32768)), {0, 0, 128, 128});
    write_raw_copy(folder / "b.dng", Existing::keep, flat, folder / "none.dng", content(true), Progress());
    CHECK(cv::norm(read_mosaic(folder / "b.dng").whole, flat.whole, cv::NORM_INF) == 0);
    write_raw_copy(folder / "c.dng", Existing::keep, flat, folder / "none.dng", content(true), Progress());
    CHECK(read_file(folder / "b.dng") == read_file(folder / "c.dng"));
}

TEST_CASE("a raw copy keeps what the frame says, its maker's block at its place, and the frame itself",
          "[frames][dng]") {
    const TemporaryFolder folder;
    const fs::path frame = folder / "SP1.dng", copy = folder / "copy.dng";
    const RawMosaic mosaic = mosaic_of(samples(128, 160, 3), {0, 0, 128, 160});
    write_dng(frame, mosaic.picture, content(true).metadata);
    {
        const auto image = Exiv2::ImageFactory::open(frame.string());
        image->readMetadata();
        Exiv2::ExifData& exif = image->exifData();
        exif["Exif.Image.Artist"] = "Iva";
        exif["Exif.Photo.ExposureTime"] = Exiv2::URational(1, 125);
        exif["Exif.GPSInfo.GPSLatitudeRef"] = "N";
        Exiv2::DataValue note(Exiv2::undefined);
        const std::string bytes = "A MAKER'S OWN: " + std::string(200, '\x5a');
        note.read(reinterpret_cast<const Exiv2::byte*>(bytes.data()), static_cast<long>(bytes.size()));
        exif.add(Exiv2::ExifKey("Exif.Photo.MakerNote"), &note);
        image->writeMetadata();
    }
    RawCopyContent c = content(true);
    c.original = frame;
    c.properties = {{"carries", "distortion by Q1 version 2"}};
    write_raw_copy(copy, Existing::keep, mosaic, frame, c, Progress());
    const auto image = Exiv2::ImageFactory::open(copy.string());
    image->readMetadata();
    const Exiv2::ExifData& exif = image->exifData();
    const auto text = [&](const char* key) {
        const auto it = exif.findKey(Exiv2::ExifKey(key));
        return it == exif.end() ? std::string() : it->toString();
    };
    CHECK(text("Exif.Image.Artist") == "Iva");
    CHECK(text("Exif.Photo.ExposureTime") == "1/125");
    CHECK(text("Exif.GPSInfo.GPSLatitudeRef") == "N");
    CHECK(text("Exif.Photo.LensModel") == "Aldercroft 60mm");
    CHECK(text("Exif.Image.CameraSerialNumber") == "QX-4471");
    CHECK(exif.findKey(Exiv2::ExifKey("Exif.Photo.MakerNote"))->size() == 215);
    CHECK(image->xmpData().findKey(Exiv2::XmpKey("Xmp.optrel.carries"))->toString() == "distortion by Q1 version 2");
    const Metadata m = read_metadata(copy);
    CHECK(m.kind == FrameKind::raw);
    CHECK(m.corrected.empty());
    CHECK(m.width == 160);

    // The frame inside, unpacked by the specification.
    const auto inside = exif.findKey(Exiv2::ExifKey("Exif.Image.OriginalRawFileData"));
    REQUIRE(inside != exif.end());
    std::string packed(inside->size(), '\0');
    inside->copy(reinterpret_cast<Exiv2::byte*>(packed.data()), Exiv2::littleEndian);
    const auto big = [&](std::size_t at) {
        std::size_t v = 0;
        for (int i = 0; i < 4; ++i) v = v << 8 | static_cast<unsigned char>(packed[at + i]);
        return v;
    };
    const std::string original = read_file(frame);
    REQUIRE(big(0) == original.size());
    std::string unpacked;
    for (std::size_t i = 0; i < (original.size() + 65535) / 65536; ++i) {
        std::string block(65536, '\0');
        uLongf size = block.size();
        const std::size_t from = big(4 + 4 * i), to = big(8 + 4 * i);
        REQUIRE(uncompress(reinterpret_cast<Bytef*>(block.data()), &size,
                           reinterpret_cast<const Bytef*>(packed.data()) + from, to - from) == Z_OK);
        unpacked.append(block.data(), size);
    }
    CHECK(unpacked == original);

    c.keep = {true, false, false, false, true};
    write_raw_copy(copy, Existing::replace_ours, mosaic, frame, c, Progress());
    const std::string bytes = read_file(copy).substr(0, 4096);
    for (const char* gone : {"Iva", "MAKER'S", "QX-4471"}) CHECK(bytes.find(gone) == std::string::npos);
}

TEST_CASE("a raw copy is not written where it cannot be, nor when it is given up", "[frames][dng]") {
    const TemporaryFolder folder;
    const RawMosaic mosaic = mosaic_of(samples(128, 160, 3), {0, 0, 128, 160});
    CHECK(error_of([&] {
              write_raw_copy(folder / "none" / "a.dng", Existing::keep, mosaic, folder / "x", content(true),
                             Progress());
          }) == "file");
    CHECK(error_of([&] {
              write_raw_copy(folder / "a.tif", Existing::keep, mosaic, folder / "x", content(true), Progress());
          }) == "usage");
    Progress given_up;
    given_up.cancel();
    CHECK_THROWS_AS(write_raw_copy(folder / "a.dng", Existing::keep, mosaic, folder / "x", content(true), given_up),
                    Cancelled);
    CHECK(fs::is_empty(folder.path()));
}

TEST_CASE("the preview of a raw copy is found as its embedded picture", "[frames][dng][pictures]") {
    const TemporaryFolder folder;
    RawCopyContent with = content(true);
    with.preview = cv::Mat3b(600, 900, cv::Vec3b(200, 120, 40));
    write_raw_copy(folder / "a.dng", Existing::keep, mosaic_of(samples(700, 1000, 5), {0, 0, 700, 1000}),
                   folder / "none.dng", with, Progress());
    const std::optional<cv::Mat3b> found = embedded_preview(folder / "a.dng", 300);
    REQUIRE(found);
    CHECK(found->size() == cv::Size(300, 200));
    const cv::Vec3b middle = (*found)(100, 150);
    for (int c = 0; c < 3; ++c) CHECK(std::abs(middle[c] - with.preview(0, 0)[c]) <= 3);
}

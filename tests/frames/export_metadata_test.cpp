// SPDX-License-Identifier: GPL-3.0-or-later
// What an export says, read by libtiff, which has no part in writing it down.
#include "frames/export_metadata.h"

#include <tiffio.h>
#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>
#include <memory>

#include "frames/colour_space.h"
#include "frames/dng_writer.h"
#include "frames/picture.h"
#include "frames/picture_writer.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A raw frame that was held on its side, with what photographers write into theirs.
void write_portrait(const fs::path& path) {
    RawPicture raw;
    raw.counts.create(100, 128);
    raw.counts = 3000;
    raw.filter = {{{0, 1}, {1, 2}}};
    raw.black = {{{500, 500}, {500, 500}}};
    raw.white = 40000;
    Metadata m;
    m.maker = "Quenby";
    m.model = "Q1";
    m.focal_mm = 60;
    m.aperture = 5.6;
    m.iso = 400;
    m.pitch_um = 5;
    write_dng(path, raw, m);
    const auto image = Exiv2::ImageFactory::open(path.string());
    image->readMetadata();
    Exiv2::ExifData& exif = image->exifData();
    exif["Exif.Image.Orientation"] = std::uint16_t{6};
    exif["Exif.Image.Artist"] = "Iva";
    exif["Exif.Image.Copyright"] = "The herbarium";
    exif["Exif.Image.ImageDescription"] = "a frond";
    exif["Exif.Photo.ExposureTime"] = Exiv2::URational(1, 125);
    exif["Exif.Photo.DateTimeOriginal"] = "2026:03:02 10:00:00";
    image->writeMetadata();
}

std::string text(TIFF* tiff, std::uint32_t tag) {
    char* value = nullptr;
    return TIFFGetField(tiff, tag, &value) && value ? value : "";
}

}  // namespace

TEST_CASE("another reader finds the export the right way up, with its rights, times and exposure", "[frames]") {
    const TemporaryFolder folder;
    const fs::path frame = folder / "SP1.dng", out = folder / "SP1.tif";
    write_portrait(frame);
    Metadata known = read_metadata(frame);
    CHECK(known.orientation == 6);
    known.lens = "Aldercroft 60mm";                              // which the file does not name
    const cv::Mat3w rgb(256, 200, cv::Vec3w(1000, 2000, 3000));  // twice the size, the right way up
    write_picture(out, Existing::keep, rgb, {}, icc_profile(ColourSpace::srgb), {frame, known, 2});

    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(TIFFOpen(out.c_str(), "r"), TIFFClose);
    REQUIRE(tiff);
    std::uint32_t width = 0, height = 0;
    std::uint16_t orientation = ORIENTATION_TOPLEFT;
    TIFFGetField(tiff.get(), TIFFTAG_IMAGEWIDTH, &width);
    TIFFGetField(tiff.get(), TIFFTAG_IMAGELENGTH, &height);
    TIFFGetField(tiff.get(), TIFFTAG_ORIENTATION, &orientation);
    CHECK(width == 200);
    CHECK(height == 256);
    CHECK(orientation == ORIENTATION_TOPLEFT);
    CHECK(text(tiff.get(), TIFFTAG_MAKE) == "Quenby");
    CHECK(text(tiff.get(), TIFFTAG_MODEL) == "Q1");
    CHECK(text(tiff.get(), TIFFTAG_ARTIST) == "Iva");
    CHECK(text(tiff.get(), TIFFTAG_COPYRIGHT) == "The herbarium");
    CHECK(text(tiff.get(), TIFFTAG_IMAGEDESCRIPTION) == "a frond");
    CHECK(text(tiff.get(), TIFFTAG_SOFTWARE).find("Optrel") == 0);

    std::uint64_t exif = 0;
    REQUIRE(TIFFGetField(tiff.get(), TIFFTAG_EXIFIFD, &exif));
    REQUIRE(TIFFReadEXIFDirectory(tiff.get(), exif));
    float exposure = 0, aperture = 0, focal = 0, across = 0;
    std::uint16_t unit = 0;
    TIFFGetField(tiff.get(), EXIFTAG_EXPOSURETIME, &exposure);
    TIFFGetField(tiff.get(), EXIFTAG_FNUMBER, &aperture);
    TIFFGetField(tiff.get(), EXIFTAG_FOCALLENGTH, &focal);
    TIFFGetField(tiff.get(), EXIFTAG_FOCALPLANEXRESOLUTION, &across);
    TIFFGetField(tiff.get(), EXIFTAG_FOCALPLANERESOLUTIONUNIT, &unit);
    CHECK(exposure == Approx(1.0 / 125));
    CHECK(aperture == Approx(5.6));
    CHECK(focal == Approx(60));
    CHECK(text(tiff.get(), EXIFTAG_DATETIMEORIGINAL) == "2026:03:02 10:00:00");
    CHECK(text(tiff.get(), EXIFTAG_LENSMODEL) == "Aldercroft 60mm");
    // Two pixels where the frame had one of 5 um: 4000 pixels to the centimetre.
    REQUIRE((unit == 2 || unit == 3));
    CHECK(across * (unit == 3 ? 1 : 1 / 2.54) == Approx(4000).epsilon(0.001));
}

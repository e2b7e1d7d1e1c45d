// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/metadata.h"

#include <catch2/catch.hpp>
#include <exiv2/exiv2.hpp>

#include "base/files.h"
#include "base/parallel.h"
#include "frames/dng_writer.h"
#include "frames/picture.h"
#include "support/pictures.h"
#include "support/plain_raw.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a raw frame says who took it, with what and how", "[frames]") {
    const Metadata m = read_metadata(rig_frame("CH0001"));
    CHECK(m.kind == FrameKind::raw);
    CHECK(m.maker == "Brimholt");
    CHECK(m.model == "Brimholt B2");
    CHECK(camera_name(m) == "Brimholt B2");
    CHECK(m.body_serial == "B2-0117");
    CHECK(m.lens == "Lumenfold 35mm f/2.8");
    CHECK(m.lens_serial == "LF35-00482");
    CHECK(m.focal_mm == Approx(35));
    CHECK(m.aperture == Approx(4));
    CHECK(m.iso == 100);
    CHECK(m.distance_m == Approx(1).epsilon(0.001));
    CHECK(m.pitch_um == Approx(9.4).epsilon(1e-4));
    CHECK(m.width == 2464);
    CHECK(m.height == 1640);
    CHECK(m.time == "2026:03:02 09:11:00");
}

TEST_CASE("the maker is not said twice", "[frames]") {
    Metadata m;
    m.maker = "Quenby";
    m.model = "Q1";
    CHECK(camera_name(m) == "Quenby Q1");
    m.model = "Quenby Q1";
    CHECK(camera_name(m) == "Quenby Q1");
    m.maker.clear();
    CHECK(camera_name(m) == "Quenby Q1");
    m.maker = "Quenby";
    m.model.clear();
    CHECK(camera_name(m) == "Quenby");
}

TEST_CASE("raw and rendered are told by content, not by name", "[frames]") {
    const TemporaryFolder folder;
    const cv::Mat3b grey(100, 120, cv::Vec3b(90, 90, 90));
    write_picture(folder / "a.jpg", grey);
    write_picture(folder / "b.png", grey);
    write_picture(folder / "c.tif", grey);
    fs::copy_file(folder / "a.jpg", folder / "named.dng");
    fs::copy_file(rig_frame("CH0001"), folder / "named.jpg");
    CHECK(sniff_kind(folder / "a.jpg") == FrameKind::rendered);
    CHECK(sniff_kind(folder / "b.png") == FrameKind::rendered);
    CHECK(sniff_kind(folder / "c.tif") == FrameKind::rendered);
    CHECK(sniff_kind(folder / "named.dng") == FrameKind::rendered);
    CHECK(sniff_kind(folder / "named.jpg") == FrameKind::raw);
}

TEST_CASE("files that are no pictures are refused in one sentence", "[frames]") {
    const TemporaryFolder folder;
    write_bytes(folder / "empty.dng", "");
    write_bytes(folder / "text.dng", "this is not a picture, only some words that pretend to be one");
    write_bytes(folder / "noise.dng", random_bytes(5000, 5));
    for (const char* name : {"empty.dng", "text.dng", "noise.dng", "missing.dng"}) {
        const std::string sentence = sentence_of([&] { read_metadata(folder / name); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
        CHECK(sentence.find(name) != std::string::npos);
    }
    CHECK(error_of([&] { read_metadata(folder.path()); }) == "file");
}

TEST_CASE("damaged metadata never take the program down", "[frames]") {
    const TemporaryFolder folder;
    const std::string whole = read_file(rig_frame("CH0001"));
    std::mt19937 random(9);
    for (int round = 0; round < 30; ++round) {
        std::string bytes = whole.substr(whole.size() - 1400);  // the directories stand at the end
        std::string file = whole.substr(0, 4096) + bytes;
        for (int i = 0; i < 20; ++i) file[random() % file.size()] = static_cast<char>(random());
        file[0] = file[1] = 'I';
        write_bytes(folder / "x.dng", file);
        sentence_of([&] { read_metadata(folder / "x.dng"); });
        sentence_of([&] { read_raw(folder / "x.dng"); });
    }
}

TEST_CASE("every serial number is kept as reported, the body's own apart from internal and foreign ones", "[frames]") {
    const TemporaryFolder folder;
    Metadata m;
    m.maker = "Quenby";
    m.model = "Quenby Q5";
    m.recorded_contrast = 2;
    m.recorded_sharpness = 1;
    m.baseline_exposure = 0.5;
    write_dng(folder / "a.dng", plain_raw(), m);
    const auto with = [&](std::initializer_list<std::pair<const char*, const char*>> tags) {
        fs::copy_file(folder / "a.dng", folder / "b.dng", fs::copy_options::overwrite_existing);
        const auto image = Exiv2::ImageFactory::open((folder / "b.dng").string());
        image->readMetadata();
        for (const auto& [key, value] : tags) image->exifData()[key] = std::string(value);
        image->writeMetadata();
        return read_metadata(folder / "b.dng");
    };
    const Metadata plain = read_metadata(folder / "a.dng");
    CHECK(plain.body_serial.empty());
    CHECK(plain.other_serials.empty());
    CHECK(plain.recorded_contrast == 2);
    CHECK(plain.recorded_saturation == -1);
    CHECK(plain.recorded_sharpness == 1);
    CHECK(plain.recorded_rendering);
    CHECK(plain.filter == "GBRG");
    CHECK(read_rendering(folder / "a.dng").baseline_exposure == Approx(0.5));
    CHECK(with({{"Exif.Photo.BodySerialNumber", "Q5-1"}}).body_serial == "Q5-1");
    const Metadata both =
        with({{"Exif.Photo.BodySerialNumber", "Q5-1"}, {"Exif.Image.CameraSerialNumber", "00a7f3c1"}});
    CHECK(both.body_serial == "Q5-1");
    CHECK(both.other_serials == std::vector<std::string>{"00a7f3c1"});
    CHECK(with({{"Exif.Image.CameraSerialNumber", "00a7f3c1"}}).body_serial == "00a7f3c1");
    CHECK(with({{"Exif.Photo.BodySerialNumber", "00000000"}}).body_serial.empty());  // a place-holder
    CHECK(with({{"Exif.Photo.LensSerialNumber", "L1"}}).other_serials.empty());
    CHECK(with({{"Exif.Photo.LensSerialNumber", "0000000"}}).lens_serial.empty());
    CHECK(with({{"Exif.Photo.LensModel", "0.0 mm f/0.0"}}).lens.empty());
    CHECK(with({{"Exif.Photo.LensModel", "----"}}).lens.empty());
    CHECK(with({{"Exif.Photo.LensModel", "35mm F2"}}).lens == "35mm F2");
}

TEST_CASE("many files are read side by side as one by one", "[frames][threads]") {
    std::vector<Metadata> found(64);
    parallel_for(64, [&](int i) { found[i] = read_metadata(rig_frame(i % 2 ? "SP0001" : "SP0007")); });
    for (int i = 0; i < 64; ++i) CHECK(found[i].body_serial == (i % 2 ? "B2-0117" : "70031"));
}

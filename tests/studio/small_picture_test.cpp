// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/small_picture.h"

#include <catch2/catch.hpp>
#include <fstream>
#include <opencv2/imgproc.hpp>

#include "base/error.h"
#include "base/files.h"
#include "frames/dng_writer.h"
#include "frames/embedded_preview.h"
#include "frames/jpeg_bytes.h"
#include "frames/metadata.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A picture that is red at its left, green at its right, and dark below.
cv::Mat3b marked_picture(int width, int height) {
    cv::Mat3b out(height, width);
    for (int row = 0; row < height; ++row)
        for (int i = 0; i < width; ++i) {
            const int light = row < height / 2 ? 200 : 60;
            out(row, i) = i < width / 2 ? cv::Vec3b(light, 20, 20) : cv::Vec3b(20, light, 20);
        }
    return out;
}

fs::path written(const fs::path& path, const std::string& bytes) {
    std::ofstream(path, std::ios::binary) << bytes;
    return path;
}

double largest_difference(const cv::Mat3b& a, const cv::Mat3b& b) {
    REQUIRE(a.size() == b.size());
    cv::Mat apart;
    cv::absdiff(a, b, apart);
    double most = 0;
    cv::minMaxLoc(apart.reshape(1), nullptr, &most);
    return most;
}

/// A JPEG with the Exif tag of an orientation before its picture.
std::string with_orientation(const std::string& jpeg, char orientation) {
    const char exif[] =
        "\xff\xe1\0\x22"
        "Exif\0\0MM\0\x2a\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0\x06\0\0\0\0\0\0";
    std::string tag(exif, 36);
    tag[29] = orientation;
    return jpeg.substr(0, 2) + tag + jpeg.substr(2);
}

const Progress quiet;

}  // namespace

TEST_CASE("a JPEG is its own small picture, as it was held", "[studio][pictures]") {
    const TemporaryFolder folder;
    const cv::Mat3b large = marked_picture(1600, 1000);
    const fs::path plain = written(folder / "plain.jpg", jpeg_bytes(large, 95));
    const cv::Mat3b small = small_picture(plain, 320, quiet);
    CHECK(small.size() == cv::Size(320, 200));
    cv::Mat3b wanted;
    cv::resize(large, wanted, {320, 200}, 0, 0, cv::INTER_AREA);
    // Away from the edges, where reduction by the library and by means differ.
    for (const cv::Rect& part : {cv::Rect(10, 10, 140, 80), cv::Rect(170, 110, 140, 80)})
        CHECK(largest_difference(small(part).clone(), wanted(part).clone()) <= 6);
    const fs::path turned = written(folder / "turned.jpg", with_orientation(jpeg_bytes(large, 95), 6));
    REQUIRE(read_metadata(turned).orientation == 6);
    const cv::Mat3b held = small_picture(turned, 320, quiet);
    REQUIRE(held.size() == cv::Size(200, 320));
    // Turned clockwise, the left becomes the top, and what was below is at the left.
    CHECK(held(40, 150)[0] > 150);
    CHECK(held(280, 150)[1] > 150);
    CHECK(held(40, 50)[0] < 90);
}

TEST_CASE("a raw frame without an embedded picture is developed, a damaged one is refused", "[studio][pictures]") {
    const TemporaryFolder folder;
    const fs::path frame = rig_frame("SP0001");
    CHECK_FALSE(embedded_preview(frame, 320));
    const cv::Mat3b small = small_picture(frame, 320, quiet);
    CHECK(std::max(small.cols, small.rows) == 320);
    CHECK(cv::mean(small)[1] > 20);
    const std::string bytes = read_file(frame);
    CHECK_THROWS_AS(small_picture(written(folder / "cut.dng", bytes.substr(0, bytes.size() / 3)), 320, quiet), Error);
    CHECK_THROWS_AS(small_picture(written(folder / "empty.dng", ""), 320, quiet), Error);
    CHECK_THROWS_AS(small_picture(folder / "none.dng", 320, quiet), Error);
    const std::string jpeg = jpeg_bytes(marked_picture(400, 300), 90);
    for (std::size_t size = 0; size < jpeg.size(); size += 97)
        CHECK_FALSE(embedded_preview(written(folder / "cut.jpg", jpeg.substr(0, size)), 320));
}

TEST_CASE("kept pictures are found again, made anew for a changed file, and limited", "[studio][pictures]") {
    const TemporaryFolder folder;
    const fs::path frame = written(folder / "a.jpg", jpeg_bytes(marked_picture(800, 600), 90));
    const auto state = [](const fs::path& path, long long modified) {
        return SmallPictureCache::Of{path, static_cast<long long>(fs::file_size(path)), modified, 160};
    };
    {
        SmallPictureCache cache(folder / "kept", 1 << 20);
        CHECK_FALSE(cache.find(state(frame, 1)));
        const cv::Mat3b made = cache.get(state(frame, 1), quiet);
        REQUIRE(cache.find(state(frame, 1)));
        // Colours are kept with half the resolution, so edges differ.
        const cv::Rect part(10, 10, 60, 40);
        CHECK(largest_difference((*cache.find(state(frame, 1)))(part).clone(), made(part).clone()) < 8);
        CHECK_FALSE(cache.find(state(frame, 2)));
        CHECK((fs::status(folder / "kept").permissions() & fs::perms::others_all) == fs::perms::none);
    }
    // Another program finds it, and a damaged file is made again.
    SmallPictureCache cache(folder / "kept", 1 << 20);
    CHECK(cache.kept_bytes() > 0);
    for (const auto& entry : fs::recursive_directory_iterator(folder / "kept"))
        if (entry.is_regular_file()) written(entry.path(), "no picture");
    CHECK_FALSE(cache.find(state(frame, 1)));
    cache.get(state(frame, 1), quiet);
    CHECK(cache.find(state(frame, 1)));
    // What the cache did not write stays.
    const fs::path foreign = written(folder / "kept" / "letter.jpg", std::string(2 << 20, 'x'));
    SmallPictureCache narrow(folder / "kept", 12000);
    for (int i = 0; i < 40; ++i) narrow.get(state(frame, 100 + i), quiet);
    CHECK(narrow.kept_bytes() <= 12000);
    CHECK(narrow.find(state(frame, 139)));
    CHECK_FALSE(narrow.find(state(frame, 100)));
    CHECK(fs::exists(foreign));
}

TEST_CASE("a picture that cannot be kept is shown all the same", "[studio][pictures]") {
    const TemporaryFolder folder;
    const fs::path frame = written(folder / "a.jpg", jpeg_bytes(marked_picture(800, 600), 90));
    written(folder / "kept", "a file in the way");
    SmallPictureCache cache(folder / "kept", 1 << 20);
    CHECK(cache.get({frame, -1, 0, 160}, quiet).cols == 160);
    CHECK(fs::file_size(folder / "kept") == 17);
}

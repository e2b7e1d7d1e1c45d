// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/whole_file.h"

#include <catch2/catch.hpp>

#include <opencv2/core.hpp>
#include <random>

#include "base/files.h"
#include "frames/picture_writer.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a file that is still being copied is not whole, whatever its container", "[frames]") {
    const TemporaryFolder folder;
    const auto whole = [&](const std::string& bytes) {
        write_bytes(folder / "x", bytes);
        return is_whole(folder / "x");
    };
    std::vector<std::string> files{read_file(rig_frame("SP0001"), 1u << 30)};
    const cv::Mat3w grey(40, 60, cv::Vec3w(9000, 9000, 9000));
    for (const auto& [format, name] :
         {std::pair(PictureFormat::tiff, "a.tif"), {PictureFormat::jpeg, "a.jpg"}, {PictureFormat::png, "a.png"}}) {
        PictureCoding coding;
        coding.format = format;
        coding.bits = format == PictureFormat::jpeg ? 8 : 16;
        Metadata m;
        m.kind = FrameKind::rendered;
        write_picture(folder / name, Existing::keep, grey, coding, "", {folder / "none", m}, [] {});
        files.push_back(read_file(folder / name));
    }
    using namespace std::string_literals;
    files.push_back("\0\0\0\x10"s + "ftypabcd0000" + "\0\0\0\x0c"s + "mdat1234");
    for (const std::string& bytes : files) {
        INFO(bytes.substr(0, 4) << ", " << bytes.size() << " bytes");
        CHECK(whole(bytes));
        for (const double share : {0.02, 0.3, 0.7, 0.95}) CHECK_FALSE(whole(bytes.substr(0, bytes.size() * share)));
        CHECK_FALSE(whole(bytes.substr(0, 5)));
    }
    // What was made as long as it will be, but is not filled yet.
    CHECK_FALSE(whole(files[0].substr(0, 100) + std::string(files[0].size() - 100, '\0')));
    CHECK_FALSE(whole(""));
    CHECK_FALSE(is_whole(folder / "none"));
    CHECK_FALSE(is_whole(folder.path()));
    // A container that says nothing of itself.
    CHECK(whole("some other kind of file"));
}

TEST_CASE("scrambled containers are told apart or not, and never do harm", "[frames]") {
    const TemporaryFolder folder;
    // A directory that leads to itself, and one that claims a thousand million strips.
    using namespace std::string_literals;
    write_bytes(folder / "circle", "II*\0\x08\0\0\0\x01\0\0\x01\x04\0\x01\0\0\0\x05\0\0\0\x08\0\0\0"s);
    CHECK(is_whole(folder / "circle"));
    write_bytes(folder / "many", "II*\0\x08\0\0\0\x01\0\x11\x01\x04\0\xff\xff\xff\x3f\x08\0\0\0\0\0\0\0"s);
    CHECK_FALSE(is_whole(folder / "many"));
    std::mt19937 random(5);
    const std::string good = read_file(rig_frame("SP0001"), 1u << 30);
    std::string head = good.substr(good.size() - 4000);
    for (int i = 0; i < 300; ++i) {
        std::string bytes = "II*\0"s + std::string("\x08\0\0\0", 4) + head;
        for (int k = 0; k < 20; ++k) bytes[8 + random() % 200] = static_cast<char>(random());
        write_bytes(folder / "x", bytes);
        is_whole(folder / "x");
    }
}

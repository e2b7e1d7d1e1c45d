// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/displacement_map.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfInputFile.h>
#include <ImfStringAttribute.h>

#include <catch2/catch.hpp>
#include <opencv2/imgproc.hpp>

#include "base/files.h"
#include "exchange/lens_tables.h"
#include "support/pictures.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

constexpr PictureGeometry mapped{600, 400, 40};

Profile mapped_lens() {
    Profile p = sample_profile();
    p.nodes[0].model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.05, 0, 0.0004, 0.0003, 0, 0, 0, 0, 0});
    p.nodes[0].focal_mm = 20;
    p.nodes[0].centre_mm = {0.15, -0.1};
    p.geometry = {3000, 2000, 8};
    LateralChromatic f;
    f.c0 = 4e-4;
    p.nodes[0].red = f;
    f.c0 = -3e-4;
    p.nodes[0].blue = f;
    Falloff falloff;
    for (auto& a : falloff.a) a = {0.5, 0.1, 0, 0};
    falloff.reciprocal = true;
    p.nodes[0].falloff = falloff;
    return p;
}

MapChannels map_of(const FrameMap& lens, const MapRequest& wish) {
    return displacement_map(
        lens, wish, [](const std::vector<Vec2>& at) { return std::vector<double>(at.size(), 0.25); }, Progress());
}

/// Places to read for OpenCV's remap, which counts from the middle of the first pixel.
std::pair<cv::Mat1f, cv::Mat1f> places_of(const MapChannels& map) {
    cv::Mat1f x = map.at("x").clone(), y = map.at("y").clone();
    for (int row = 0; row < x.rows; ++row)
        for (int i = 0; i < x.cols; ++i) {
            x(row, i) += static_cast<float>(i);
            y(row, i) += static_cast<float>(row);
        }
    return {x, y};
}

}  // namespace

TEST_CASE("a chart that is warped by a map has straight lines again", "[exchange][map]") {
    const Profile p = mapped_lens();
    const FrameMap map(p.nodes[0], p.geometry, mapped);
    // A ruled frame as the lens shows it: dark where the ideal picture has its lines.
    cv::Mat1f frame(mapped.height, mapped.width);
    for (int row = 0; row < frame.rows; ++row)
        for (int i = 0; i < frame.cols; ++i) {
            double mean = 0;
            for (int k = 0; k < 16; ++k) {
                const auto at = map.ideal(Vec2(i + (k % 4 + 0.5) / 4, row + (k / 4 + 0.5) / 4));
                const double off = at ? std::abs(std::remainder(at->y() - 200, 60)) : 30;
                mean += std::min(1.0, off / 4) / 16;
            }
            frame(row, i) = static_cast<float>(mean);
        }
    const auto [x, y] = places_of(map_of(map, {}));
    cv::Mat1f straight;
    cv::remap(frame, straight, x, y, cv::INTER_CUBIC);
    // The dark line of each height: its centroid in every column.
    double worst = 0, worst_before = 0;
    for (const int line : {80, 140, 200, 260, 320})
        for (int i = 60; i < 540; i += 4) {
            const auto centroid = [&](const cv::Mat1f& in, int reach) {
                double sum = 0, weight = 0;
                for (int row = line - reach; row < line + reach; ++row) {
                    const double w = std::max(0.f, 1 - in(row, i));
                    sum += w * (row + 0.5);
                    weight += w;
                }
                return weight > 0 ? sum / weight : HUGE_VAL;
            };
            worst = std::max(worst, std::abs(centroid(straight, 12) - line));
            worst_before = std::max(worst_before, std::abs(centroid(frame, 25) - line));
        }
    CHECK(worst < 0.1);
    CHECK(worst_before > 3);
}

TEST_CASE("the two directions undo one another, and hold planes, gain and uncertainty", "[exchange][map]") {
    const Profile p = mapped_lens();
    const FrameMap map(p.nodes[0], p.geometry, mapped);
    const MapChannels there = map_of(map, {MapDirection::to_frame, true, true, true});
    const MapChannels back = map_of(map, {MapDirection::to_ideal, true, true, false});
    CHECK(there.size() == 10);
    CHECK(there.at("sigma")(200, 300) == Approx(0.25));
    for (const cv::Point at : {cv::Point(60, 50), cv::Point(300, 200), cv::Point(520, 333)}) {
        const Vec2 place(at.x + 0.5, at.y + 0.5);
        const Vec2 green = map.green(place);
        CHECK(there.at("x")(at) == Approx(green.x() - place.x()).margin(1e-4));
        CHECK(there.at("red.y")(at) == Approx(map.fringe(Channel::red, green).y() - place.y()).margin(1e-4));
        CHECK(there.at("gain.B")(at) ==
              Approx(map.gain(Channel::blue, map.fringe(Channel::blue, green))).epsilon(1e-5));
        for (const char* plane : {"", "red.", "blue."}) {
            const std::string n = plane;
            const Vec2 ideal(place.x() + back.at(n + "x")(at), place.y() + back.at(n + "y")(at));
            Channel c = Channel::green;
            if (n == "red.") c = Channel::red;
            if (n == "blue.") c = Channel::blue;
            CHECK((map.fringe(c, map.green(ideal)) - place).norm() < 2e-3);
        }
    }
    CHECK(error_of([&] { map_of(map, {MapDirection::to_ideal, false, false, true}); }) == "input");
    CHECK(error_of([] { map_direction_from("sideways"); }) == "input");
}

TEST_CASE("a map survives its file, which is replaced only when Optrel wrote it", "[exchange][map]") {
    const TemporaryFolder folder;
    const Profile p = mapped_lens();
    const FrameMap map(p.nodes[0], p.geometry, mapped);
    const MapChannels channels = map_of(map, {MapDirection::to_frame, true, false, false});
    const fs::path exr = folder / "m.exr";
    write_exr(exr, channels, MapDirection::to_frame, "a note", Existing::keep);
    Imf::InputFile in(exr.string().c_str());
    CHECK(in.header().findTypedAttribute<Imf::StringAttribute>("direction")->value() == "to-frame");
    CHECK(in.header().findTypedAttribute<Imf::StringAttribute>("conventions")->value().find("px") == std::string::npos);
    cv::Mat1f y(mapped.height, mapped.width);
    Imf::FrameBuffer buffer;
    buffer.insert("red.y", Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(y.data), 4, y.step));
    in.setFrameBuffer(buffer);
    in.readPixels(0, mapped.height - 1);
    CHECK(cv::norm(y - channels.at("red.y"), cv::NORM_INF) == 0);
    CHECK(error_of([&] { write_exr(exr, channels, MapDirection::to_frame, "", Existing::keep); }) == "file");
    CHECK_NOTHROW(write_exr(exr, channels, MapDirection::to_frame, "", Existing::replace_ours));
    write_atomic(folder / "mine.exr", "somebody's");
    CHECK(error_of([&] {
              write_exr(folder / "mine.exr", channels, MapDirection::to_frame, "", Existing::replace_ours);
          }) == "file");

    const double scale = write_tiff_pair(folder / "m.tif", channels, MapDirection::to_frame, "", Existing::keep);
    const cv::Mat x = read_picture(folder / "m-x.tif");
    double worst = 0;
    for (int row = 0; row < x.rows; row += 7)
        for (int i = 0; i < x.cols; i += 7)
            worst = std::max(worst, std::abs((x.at<std::uint16_t>(row, i) - 32768) / scale - channels.at("x")(row, i)));
    CHECK(worst <= 0.51 / scale);
    CHECK(scale >= 256);
    CHECK(is_one_sentence(
        sentence_of([&] { write_tiff_pair(folder / "m.tif", channels, MapDirection::to_frame, "", Existing::keep); })));
}

TEST_CASE("tables hold the curves in the terms of the standards", "[exchange][map]") {
    const Profile p = mapped_lens();
    const PlacedNode placed = node_at(p, {});
    const auto tables = lens_tables(p, placed);
    REQUIRE(tables.size() == 3);
    const std::string& distortion = tables.at("distortion.csv");
    CHECK(distortion.rfind("field height,radius / mm,distortion / %,sigma / %\n0.00,0.000,", 0) == 0);
    CHECK(std::count(distortion.begin(), distortion.end(), '\n') == 22);
    CHECK(tables.at("chromatic.csv").find("red displacement / px") != std::string::npos);
    CHECK(tables.at("falloff.csv").find("\n0.00,0.000,100.000,") != std::string::npos);
    Profile bare = p;
    bare.nodes[0].falloff.reset();
    bare.nodes[0].red.reset();
    bare.nodes[0].blue.reset();
    CHECK(lens_tables(bare, node_at(bare, {})).size() == 1);
}

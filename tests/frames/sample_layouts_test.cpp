// SPDX-License-Identifier: GPL-3.0-or-later
// Raw files of every layout that is read, and of those that are not.
#include <catch2/catch.hpp>

#include "base/files.h"
#include "frames/dng_writer.h"
#include "frames/picture.h"
#include "support/support.h"
#include "support/written_raw.h"

using namespace optrel;
using namespace optrel::test;

namespace {

double light(int channel, double u, double v) { return 0.1 + 0.2 * channel + 0.001 * u + 0.0015 * v; }

/// The largest error of any visible sample, as a share of the white level.
double worst(const RawPicture& raw, const WrittenRaw& written) {
    double out = 0;
    for (const SamplePlane& plane : raw.planes())
        for (int j = 0; j < plane.values.rows; ++j)
            for (int i = 0; i < plane.values.cols; ++i) {
                const double u = plane.u0 + i * plane.step, v = plane.v0 + j * plane.step;
                const int channel = written.filter.empty() ? 1 : static_cast<int>(plane.channel);
                out = std::max(out, std::abs(plane.values(j, i) - light(channel, u, v)));
            }
    return out;
}

/// Every sample belongs to one plane.
std::size_t samples_of(const RawPicture& raw) {
    std::size_t out = 0;
    for (const SamplePlane& plane : raw.planes()) out += plane.values.total();
    return out;
}

std::string refusal(const WrittenRaw& written) {
    const TemporaryFolder folder;
    written.write(folder / "a.dng", light);
    return sentence_of([&] { read_raw(folder / "a.dng"); });
}

}  // namespace

TEST_CASE("every sample of every layout is where it belongs", "[frames][layouts]") {
    const TemporaryFolder folder;
    std::vector<WrittenRaw> all;
    for (const char* filter : {"RGGB", "GRBG", "GBRG", "BGGR", six_by_six, "", "linear"})
        for (const auto& [top, left] : {std::pair(0, 0), std::pair(4, 6), std::pair(3, 5), std::pair(2, 7)}) {
            WrittenRaw raw;
            raw.filter = filter;
            raw.top = top;
            raw.left = left;
            raw.bottom = top ? 9 : 0;
            raw.right = left ? 8 : 0;
            // An odd size too.
            raw.width += left % 2;
            raw.height += top % 2;
            all.push_back(raw);
        }
    for (const WrittenRaw& written : all) {
        INFO("filter '" << written.filter << "', margins " << written.top << ", " << written.left);
        written.write(folder / "a.dng", light);
        const RawPicture raw = read_raw(folder / "a.dng");
        CHECK(raw.counts.cols == written.width);
        CHECK(raw.counts.rows == written.height);
        CHECK(samples_of(raw) == (written.interpolated() ? 3 : 1) * raw.counts.total());
        CHECK(worst(raw, written) < 1e-4);
        CHECK(raw.has_colours() == !written.filter.empty());
    }
}

TEST_CASE("bits, byte order, tables and black levels of raw files", "[frames][layouts]") {
    const TemporaryFolder folder;
    const auto error_of_file = [&](const WrittenRaw& written) {
        written.write(folder / "a.dng", light);
        return worst(read_raw(folder / "a.dng"), written);
    };
    WrittenRaw twelve;
    twelve.bits = 12;
    twelve.white = 4095;
    twelve.black = {256};
    CHECK(error_of_file(twelve) < 2e-4);
    WrittenRaw fourteen;
    fourteen.bits = 14;
    CHECK(error_of_file(fourteen) < 1e-4);
    WrittenRaw big;
    big.big_endian = true;
    CHECK(error_of_file(big) < 1e-4);
    WrittenRaw table;
    table.table = true;
    table.black = {0};
    CHECK(error_of_file(table) < 5e-4);
    WrittenRaw two;
    two.black = {500, 512, 530, 541};
    two.black_side = 2;
    CHECK(error_of_file(two) < 1e-4);
    WrittenRaw six;
    six.filter = six_by_six;
    six.black.clear();
    for (int i = 0; i < 36; ++i) six.black.push_back(static_cast<float>(500 + i));
    six.black_side = 6;
    CHECK(error_of_file(six) < 1e-4);
    WrittenRaw mixed = six;
    mixed.filter = "GRBG";
    CHECK(error_of_file(mixed) < 1e-4);
}

TEST_CASE("raw files that stay out say why", "[frames][layouts]") {
    WrittenRaw four;
    four.filter = "RGCB";
    CHECK_THAT(refusal(four), Catch::Contains("colour filter") || Catch::Contains("neither a mosaic"));
    WrittenRaw two_colours;
    two_colours.filter = "RGGR";
    CHECK_THAT(refusal(two_colours), Catch::Contains("lacks red, green or blue") || Catch::Contains("neither"));
    WrittenRaw floats;
    floats.bits = 32;
    floats.format = SAMPLEFORMAT_IEEEFP;
    CHECK_THAT(refusal(floats), Catch::Contains("it is no raw file that the decoder knows"));
    WrittenRaw odd_black;
    odd_black.black.assign(16, 512);
    odd_black.black_side = 4;
    CHECK_THAT(refusal(odd_black), Catch::Contains("black level repeats every 4 rows"));
}

TEST_CASE("noise of other layouts is refused by name", "[frames][layouts]") {
    const TemporaryFolder folder;
    WrittenRaw written;
    written.filter = six_by_six;
    written.write(folder / "a.dng", light);
    CHECK_THAT(sentence_of([&] { require_bayer(read_raw(folder / "a.dng"), "a.dng", "measure noise"); }),
               Catch::Contains("a.dng has a colour filter of 6 x 6 samples"));
    written.filter = "GBRG";
    written.write(folder / "a.dng", light);
    CHECK(error_of([&] { require_bayer(read_raw(folder / "a.dng"), "a.dng", "measure noise"); }) == "none");
}

TEST_CASE("a raw copy of every layout keeps each sample", "[frames][layouts][dng]") {
    const TemporaryFolder folder;
    for (const char* filter : {"BGGR", six_by_six, "", "linear"})
        for (const bool compressed : {true, false}) {
            INFO("filter '" << filter << "'" << (compressed ? ", compressed" : ""));
            WrittenRaw written;
            written.filter = filter;
            written.width = 601;
            written.height = 531;
            written.top = 3;
            written.left = 5;
            written.right = written.bottom = 2;
            written.write(folder / "a.dng", light);
            const RawMosaic mosaic = read_mosaic(folder / "a.dng");
            RawCopyContent content;
            content.metadata.maker = "Quenby";
            content.metadata.model = "Q1";
            content.compressed = compressed;
            content.preview = cv::Mat3b(60, 90, cv::Vec3b(9, 9, 9));
            write_raw_copy(folder / "b.dng", Existing::replace_ours, mosaic, folder / "a.dng", content, Progress());
            const RawMosaic back = read_mosaic(folder / "b.dng");
            REQUIRE(back.whole.size() == mosaic.whole.size());
            CHECK(cv::norm(back.whole, mosaic.whole, cv::NORM_INF) == 0);
            CHECK(back.picture.layout == mosaic.picture.layout);
            CHECK(back.picture.filter == mosaic.picture.filter);
            CHECK(worst(back.picture, written) < 1e-4);
        }
}

TEST_CASE("frames for measuring have dense planes where their own are sparse", "[frames][layouts]") {
    const TemporaryFolder folder;
    WrittenRaw written;
    written.filter = six_by_six;
    written.write(folder / "a.dng", light);
    const MeasuringPicture six = read_for_measuring(folder / "a.dng");
    REQUIRE(six.dense.size() == 3);
    for (const SamplePlane& plane : six.dense) {
        CHECK(plane.step == 2);
        const int j = plane.values.rows / 2, i = plane.values.cols / 2;
        const double u = plane.u0 + 2 * i, v = plane.v0 + 2 * j;
        CHECK(plane.values(j, i) == Approx(light(static_cast<int>(plane.channel), u, v)).margin(1e-3));
    }
    CHECK(six.for_search(Channel::green).size() == 1);
    written.filter = "";
    written.write(folder / "a.dng", light);
    const MeasuringPicture grey = read_for_measuring(folder / "a.dng");
    CHECK_FALSE(grey.has(Channel::red));
    CHECK(grey.for_search(Channel::green).size() == 1);
}

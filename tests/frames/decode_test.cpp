// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/decode.h"

#include <tiffio.h>
#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "base/files.h"
#include "support/pictures.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

template <class T>
cv::Mat_<cv::Vec<T, 3>> noise(int width, int height, double scale) {
    std::mt19937 random(5);
    cv::Mat_<cv::Vec<T, 3>> out(height, width);
    for (auto& pixel : out)
        for (int c = 0; c < 3; ++c) pixel[c] = static_cast<T>(scale * static_cast<double>(random()) / 4294967296.0);
    return out;
}

cv::Mat red_first(const cv::Mat& picture) {
    cv::Mat out;
    std::vector<cv::Mat> channels;
    cv::split(picture, channels);
    std::reverse(channels.begin(), channels.end());
    cv::merge(channels, out);
    return out;
}

double largest_difference(const cv::Mat& a, const cv::Mat& b) {
    REQUIRE(a.size() == b.size());
    REQUIRE(a.type() == b.type());
    return cv::norm(a, b, cv::NORM_INF);
}

/// A TIFF of three channels as other programs lay it out.
void write_tiff(const fs::path& path, const cv::Mat& rgb, std::uint16_t format, bool tiled, bool planes) {
    TIFF* tiff = TIFFOpen(path.c_str(), "w");
    REQUIRE(tiff);
    const int bytes = static_cast<int>(rgb.elemSize1());
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, rgb.cols);
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, rgb.rows);
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 8 * bytes);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 3);
    TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, format);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_RGB);
    TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, planes ? PLANARCONFIG_SEPARATE : PLANARCONFIG_CONTIG);
    TIFFSetField(tiff, TIFFTAG_COMPRESSION, COMPRESSION_LZW);
    TIFFSetField(tiff, TIFFTAG_ORIENTATION, ORIENTATION_LEFTBOT);  // which is not to matter
    constexpr int side = 32;
    if (tiled) {
        TIFFSetField(tiff, TIFFTAG_TILEWIDTH, side);
        TIFFSetField(tiff, TIFFTAG_TILELENGTH, side);
    } else {
        TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 7);
    }
    const int height = tiled ? side : 1, width = tiled ? side : rgb.cols;
    for (int plane = 0; plane < (planes ? 3 : 1); ++plane)
        for (int y = 0; y < rgb.rows; y += height)
            for (int x = 0; x < rgb.cols; x += width) {
                std::vector<unsigned char> block;
                for (int row = y; row < y + height; ++row)
                    for (int i = x; i < x + width; ++i)
                        for (int c = 0; c < 3; ++c) {
                            if (planes && c != plane) continue;
                            const unsigned char* sample =
                                rgb.ptr(std::min(row, rgb.rows - 1)) + (std::min(i, rgb.cols - 1) * 3 + c) * bytes;
                            block.insert(block.end(), sample, sample + bytes);
                        }
                if (tiled)
                    TIFFWriteTile(tiff, block.data(), x, y, 0, static_cast<std::uint16_t>(plane));
                else
                    TIFFWriteScanline(tiff, block.data(), y, static_cast<std::uint16_t>(plane));
            }
    TIFFClose(tiff);
}

}  // namespace

TEST_CASE("pictures of other programs come in as those programs read them", "[frames]") {
    const TemporaryFolder folder;
    const cv::Mat eight = noise<uchar>(97, 71, 256), sixteen = noise<std::uint16_t>(97, 71, 65536);
    for (const char* name : {"a.png", "a.tif", "a.jpg"}) {
        write_picture(folder / name, eight);
        INFO(name);
        CHECK(largest_difference(decode_picture(folder / name), red_first(read_picture(folder / name))) <=
              (std::string(name) == "a.jpg" ? 2 : 0));
    }
    for (const char* name : {"b.png", "b.tif"}) {
        write_picture(folder / name, sixteen);
        INFO(name);
        CHECK(largest_difference(decode_picture(folder / name), red_first(sixteen)) == 0);
    }
    cv::Mat grey;
    cv::extractChannel(eight, grey, 0);
    for (const char* name : {"c.png", "c.tif", "c.jpg"}) {
        write_picture(folder / name, grey);
        const cv::Mat back = decode_picture(folder / name);
        REQUIRE(back.type() == CV_8UC3);
        cv::Mat green;
        cv::extractChannel(back, green, 1);
        INFO(name);
        CHECK(largest_difference(green, read_picture(folder / name)) <= (std::string(name) == "c.jpg" ? 1 : 0));
    }
}

TEST_CASE("a TIFF is the same picture in strips, in tiles and in planes", "[frames]") {
    const TemporaryFolder folder;
    const cv::Mat eight = noise<uchar>(97, 71, 256), sixteen = noise<std::uint16_t>(97, 71, 65536);
    cv::Mat light = noise<float>(97, 71, 3);
    for (const bool tiled : {false, true})
        for (const bool planes : {false, true}) {
            INFO("tiled " << tiled << ", planes " << planes);
            write_tiff(folder / "8.tif", eight, SAMPLEFORMAT_UINT, tiled, planes);
            CHECK(largest_difference(decode_picture(folder / "8.tif"), eight) == 0);
            write_tiff(folder / "16.tif", sixteen, SAMPLEFORMAT_UINT, tiled, planes);
            CHECK(largest_difference(decode_picture(folder / "16.tif"), sixteen) == 0);
            write_tiff(folder / "f.tif", light, SAMPLEFORMAT_IEEEFP, tiled, planes);
            CHECK(largest_difference(decode_picture(folder / "f.tif"), light) == 0);
        }
}

TEST_CASE("a picture that was cut off or damaged is refused in one sentence, or is whole", "[frames]") {
    const TemporaryFolder folder;
    const cv::Mat eight = noise<uchar>(97, 71, 256);
    for (const std::string kind : {"jpg", "png", "tif"}) {
        write_picture(folder / ("whole." + kind), eight);
        const std::string whole = read_file(folder / ("whole." + kind));
        const fs::path bad = folder / ("bad." + kind);
        for (int part = 0; part < 12; ++part) {
            write_bytes(bad, whole.substr(0, whole.size() * part / 13));
            const std::string sentence = sentence_of([&] { decode_picture(bad); });
            INFO(kind << ", " << part << " of 13: " << sentence);
            CHECK(is_one_sentence(sentence));
            CHECK(sentence.find("bad." + kind) != std::string::npos);
        }
        for (unsigned seed = 0; seed < 60; ++seed) {
            std::mt19937 random(seed);
            std::string text = whole;
            for (int i = 0; i < 4; ++i)
                text[random() % std::min<std::size_t>(text.size(), 2000)] = static_cast<char>(random());
            write_bytes(bad, text);
            try {
                const cv::Mat back = decode_picture(bad);
                CHECK(back.channels() == 3);
            } catch (const Error& error) {
                CHECK(is_one_sentence(error.what()));
            }
        }
    }
    write_bytes(folder / "note.jpg", "a note, not a picture");
    CHECK(error_of([&] { decode_picture(folder / "note.jpg"); }) == "input");
    CHECK(error_of([&] { decode_picture(folder / "missing.png"); }) == "input");
}

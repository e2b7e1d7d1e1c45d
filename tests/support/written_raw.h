// SPDX-License-Identifier: GPL-3.0-or-later
// Raw files of every layout, written by libtiff from the specification of DNG, with none of Optrel's writers.
#pragma once

#include <tiffio.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace optrel::test {

struct WrittenRaw {
    int width = 190, height = 130;                 ///< visible
    int top = 0, left = 0, bottom = 0, right = 0;  ///< masked border
    /// Colours row by row, as in "RGGB"; "" for a monochrome sensor, "linear" for three samples at each pixel.
    std::string filter = "RGGB";
    int bits = 16;
    double white = 16383;
    std::vector<float> black{512};
    int black_side = 1;  ///< the black level repeats after so many rows and columns
    bool table = false;  ///< counts are square roots, undone by a linearisation table
    bool big_endian = false;
    int format = SAMPLEFORMAT_UINT;

    int side() const { return filter.size() == 36 ? 6 : 2; }
    bool interpolated() const { return filter == "linear"; }
    int channel(int row, int column) const {
        if (filter.empty()) return 1;
        const int at = row % side() * side() + column % side();
        return static_cast<int>(std::string("RGBC").find(filter[static_cast<std::size_t>(at)]));
    }
    /// Black level of a visible sample.
    double black_at(int row, int column) const {
        return black[static_cast<std::size_t>(row % black_side * black_side + column % black_side)];
    }

    /// `light(channel, column, row)`: share of the white level above black.
    void write(const std::filesystem::path& path, const std::function<double(int, double, double)>& light) const {
        TIFF* tiff = TIFFOpen(path.c_str(), big_endian ? "wb" : "wl");
        put_tags(tiff);
        put_levels(tiff);
        for (int row = 0; row < down(); ++row) {
            std::vector<std::uint8_t> bytes = packed(line_of(row, light));
            TIFFWriteScanline(tiff, bytes.data(), static_cast<std::uint32_t>(row), 0);
        }
        TIFFClose(tiff);
    }

private:
    static constexpr int last_of_table = 4095;

    int across() const { return left + width + right; }
    int down() const { return top + height + bottom; }
    int samples() const { return interpolated() ? 3 : 1; }
    static std::uint32_t number(int value) { return static_cast<std::uint32_t>(value); }

    void put_tags(TIFF* tiff) const {
        TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, number(across()));
        TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, number(down()));
        TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, bits);
        TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, format);
        TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, samples());
        TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
        TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, number(down()));
        TIFFSetField(tiff, TIFFTAG_MAKE, "Quenby");
        TIFFSetField(tiff, TIFFTAG_MODEL, "Q1");
        TIFFSetField(tiff, TIFFTAG_DNGVERSION, "\1\4\0\0");
        TIFFSetField(tiff, TIFFTAG_DNGBACKWARDVERSION, "\1\1\0\0");
        TIFFSetField(tiff, TIFFTAG_UNIQUECAMERAMODEL, "Quenby Q1");
        const bool mosaic = !filter.empty() && !interpolated();
        TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, mosaic ? PHOTOMETRIC_CFA : 34892);
        if (mosaic) {
            const std::uint16_t repeat[2] = {static_cast<std::uint16_t>(side()), static_cast<std::uint16_t>(side())};
            std::vector<std::uint8_t> pattern;
            for (int i = 0; i < side() * side(); ++i)
                pattern.push_back(static_cast<std::uint8_t>(channel(i / side(), i % side())));
            TIFFSetField(tiff, TIFFTAG_CFAREPEATPATTERNDIM, repeat);
            TIFFSetField(tiff, TIFFTAG_CFAPATTERN, static_cast<int>(pattern.size()), pattern.data());
        }
        if (!filter.empty()) {
            const float matrix[9] = {0.7f, -0.2f, -0.1f, -0.4f, 1.2f, 0.2f, -0.1f, 0.2f, 0.6f},
                        neutral[3] = {0.5f, 1, 0.625f};
            TIFFSetField(tiff, TIFFTAG_COLORMATRIX1, 9, matrix);
            TIFFSetField(tiff, TIFFTAG_ASSHOTNEUTRAL, 3, neutral);
        }
    }

    void put_levels(TIFF* tiff) const {
        const std::uint16_t repeat[2] = {static_cast<std::uint16_t>(black_side),
                                         static_cast<std::uint16_t>(black_side)};
        TIFFSetField(tiff, TIFFTAG_BLACKLEVELREPEATDIM, repeat);
        std::vector<float> blacks = black;
        if (interpolated()) blacks.assign(3, black[0]);
        TIFFSetField(tiff, TIFFTAG_BLACKLEVEL, static_cast<int>(blacks.size()), blacks.data());
        const std::vector<std::uint32_t> whites(static_cast<std::size_t>(samples()), static_cast<std::uint32_t>(white));
        TIFFSetField(tiff, TIFFTAG_WHITELEVEL, samples(), whites.data());
        if (top + left + bottom + right > 0) {
            const std::uint32_t area[4] = {number(top), number(left), number(top + height), number(left + width)};
            TIFFSetField(tiff, TIFFTAG_ACTIVEAREA, area);
        }
        constexpr int last = last_of_table;
        if (table) {
            std::vector<std::uint16_t> values;
            for (int i = 0; i <= last; ++i)
                values.push_back(static_cast<std::uint16_t>(std::lround(white * i * i / (double(last) * last))));
            TIFFSetField(tiff, TIFFTAG_LINEARIZATIONTABLE, static_cast<int>(values.size()), values.data());
        }
    }

    /// The samples of a row as they are stored.
    std::vector<int> line_of(int row, const std::function<double(int, double, double)>& light) const {
        std::vector<int> line;
        for (int i = 0; i < across(); ++i)
            for (int s = 0; s < samples(); ++s) {
                const int y = row - top, x = i - left;
                const bool visible = y >= 0 && y < height && x >= 0 && x < width;
                const double own = black_at(visible ? y : 0, visible ? x : 0);
                int of = visible ? channel(y, x) : 0;
                if (interpolated()) of = s;
                double count = visible ? own + light(of, x + 0.5, y + 0.5) * (white - own) : own;
                if (table) count = last_of_table * std::sqrt(std::max(0.0, count) / white);
                line.push_back(static_cast<int>(std::lround(count)));
            }
        return line;
    }

    /// 16 bits in the byte order of this machine, which libtiff turns; fewer bits are packed, highest bit first.
    std::vector<std::uint8_t> packed(const std::vector<int>& line) const {
        std::vector<std::uint8_t> out;
        if (bits == 32) {
            for (const int value : line) {
                const float v = static_cast<float>(value);
                const auto* b = reinterpret_cast<const std::uint8_t*>(&v);
                out.insert(out.end(), b, b + 4);
            }
        } else if (bits == 16) {
            for (const int value : line) {
                out.push_back(static_cast<std::uint8_t>(value));
                out.push_back(static_cast<std::uint8_t>(value >> 8));
            }
        } else {
            unsigned held = 0;
            int have = 0;
            for (const int value : line) {
                held = (held << bits) | static_cast<unsigned>(value);
                have += bits;
                while (have >= 8) {
                    have -= 8;
                    out.push_back(static_cast<std::uint8_t>(held >> have));
                }
            }
            if (have > 0) out.push_back(static_cast<std::uint8_t>(held << (8 - have)));
        }
        return out;
    }
};

/// A filter of 6 x 6 samples as bodies have it.
inline const char* const six_by_six = "GBGGRGRGRBGBGBGGRGGRGGBGBGBRGRGRGGBG";

}  // namespace optrel::test

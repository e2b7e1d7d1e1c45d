// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/decode.h"

#include <fmt/format.h>

#include <array>
#include <csetjmp>
#include <cstdio>
#include <cstring>
#include <memory>
#include <vector>

#include <jerror.h>
#include <jpeglib.h>
#include <png.h>
#include <tiffio.h>

#include "base/error.h"
#include "frames/libtiff_guard.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

[[noreturn]] void damaged(const fs::path& path) {
    throw input_error(fmt::format(
        "The picture {} cannot be decoded: it is truncated, damaged or of a kind that is not known; copy it again.",
        path.string()));
}

/// Checks the size before any pixel is decoded.
void check_size(const fs::path& path, double width, double height) {
    if (width * height > most_pixels)
        throw input_error(fmt::format(
            "The picture {} has {:.0f} by {:.0f} pixels, which is more than {:.0f} megapixels; choose a smaller one.",
            path.string(), width, height, most_pixels / 1e6));
}

using File = std::unique_ptr<std::FILE, int (*)(std::FILE*)>;

File opened(const fs::path& path) {
    File file(std::fopen(path.c_str(), "rb"), std::fclose);
    if (!file) damaged(path);
    return file;
}

// JPEG. The library reports errors by a long jump, so no object with a destructor may be created between setjmp and the
// call.

struct JpegErrors {
    jpeg_error_mgr base;
    std::jmp_buf leave;
    bool broken = false;
};

void leave_jpeg(j_common_ptr info) { std::longjmp(reinterpret_cast<JpegErrors*>(info->err)->leave, 1); }

/// Warnings about missing or wrong pixels count as errors; others have no visible effect.
void note_warning(j_common_ptr info, int level) {
    const int code = info->err->msg_code;
    if (level < 0 && (code == JWRN_JPEG_EOF || code == JWRN_HIT_MARKER || code == JWRN_HUFF_BAD_CODE))
        reinterpret_cast<JpegErrors*>(info->err)->broken = true;
}

/// Converts four inks to red, green and blue; programs write such files inverted.
void print_to_light(const JSAMPLE* in, JSAMPLE* out, int width) {
    for (int i = 0; i < width; ++i)
        for (int c = 0; c < 3; ++c) out[3 * i + c] = static_cast<JSAMPLE>(in[4 * i + c] * in[4 * i + 3] / 255);
}

class Jpeg {
public:
    explicit Jpeg(std::FILE* file) : Jpeg() { jpeg_stdio_src(&info_, file); }
    /// The bytes must outlive the object.
    explicit Jpeg(const std::string& bytes) : Jpeg() {
        jpeg_mem_src(&info_, reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size());
    }
    ~Jpeg() { jpeg_destroy_decompress(&info_); }
    Jpeg(const Jpeg&) = delete;
    Jpeg& operator=(const Jpeg&) = delete;

    bool read_header() {
        if (setjmp(errors_.leave)) return false;
        return jpeg_read_header(&info_, TRUE) == JPEG_HEADER_OK;
    }
    double width() const { return info_.image_width; }
    double height() const { return info_.image_height; }

    /// Chooses the smallest size with a longer side of at least `side` px.
    bool reduce_to(int side) {
        if (setjmp(errors_.leave)) return false;
        const auto longest = static_cast<int>(std::max(info_.image_width, info_.image_height));
        info_.scale_num = 1;
        info_.scale_denom = 8;
        while (info_.scale_denom > 1 && longest / static_cast<int>(info_.scale_denom) < side) info_.scale_denom /= 2;
        jpeg_calc_output_dimensions(&info_);
        return true;
    }
    /// Size in pixels after reduce_to().
    cv::Size reduced() const { return {static_cast<int>(info_.output_width), static_cast<int>(info_.output_height)}; }

    /// Reads into a picture of the size that it has, or is reduced to; `line` has room for four samples per pixel.
    bool read_into(cv::Mat3b& out, std::vector<JSAMPLE>& line) {
        if (setjmp(errors_.leave)) return false;
        const bool ink = info_.jpeg_color_space == JCS_CMYK || info_.jpeg_color_space == JCS_YCCK;
        info_.out_color_space = ink ? JCS_CMYK : JCS_RGB;
        info_.dct_method = JDCT_ISLOW;
        jpeg_start_decompress(&info_);
        while (info_.output_scanline < info_.output_height) {
            const int row = static_cast<int>(info_.output_scanline);
            JSAMPROW rows[1] = {ink ? line.data() : out.ptr<JSAMPLE>(row)};
            if (jpeg_read_scanlines(&info_, rows, 1) != 1) return false;
            if (ink) print_to_light(line.data(), out.ptr<JSAMPLE>(row), out.cols);
        }
        jpeg_finish_decompress(&info_);
        return !errors_.broken;
    }

private:
    Jpeg() {
        info_.err = jpeg_std_error(&errors_.base);
        errors_.base.error_exit = leave_jpeg;
        errors_.base.emit_message = note_warning;
        jpeg_create_decompress(&info_);
    }

    JpegErrors errors_;
    jpeg_decompress_struct info_{};
};

cv::Mat decode_jpeg(const fs::path& path) {
    const File file = opened(path);
    Jpeg jpeg(file.get());
    if (!jpeg.read_header()) damaged(path);
    check_size(path, jpeg.width(), jpeg.height());
    cv::Mat3b out(static_cast<int>(jpeg.height()), static_cast<int>(jpeg.width()));
    std::vector<JSAMPLE> line(4 * static_cast<std::size_t>(out.cols));
    if (!jpeg.read_into(out, line)) damaged(path);
    return out;
}

}  // namespace

cv::Mat3b decode_jpeg_reduced(const std::string& bytes, int side, const fs::path& path) {
    Jpeg jpeg(bytes);
    if (!jpeg.read_header()) damaged(path);
    check_size(path, jpeg.width(), jpeg.height());
    if (!jpeg.reduce_to(side)) damaged(path);
    cv::Mat3b out(jpeg.reduced());
    std::vector<JSAMPLE> line(4 * static_cast<std::size_t>(out.cols));
    if (!jpeg.read_into(out, line)) damaged(path);
    return out;
}

namespace {

// PNG, likewise.

class Png {
public:
    explicit Png(std::FILE* file) {
        read_ = png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, leave, quiet);
        info_ = png_create_info_struct(read_);
        png_init_io(read_, file);
        png_set_user_limits(read_, 1000000, 1000000);
    }
    ~Png() { png_destroy_read_struct(&read_, &info_, nullptr); }
    Png(const Png&) = delete;
    Png& operator=(const Png&) = delete;

    /// Requests three channels of 8 or 16 bits in native byte order.
    bool read_header() {
        if (setjmp(png_jmpbuf(read_))) return false;
        png_read_info(read_, info_);
        png_set_expand(read_);
        png_set_strip_alpha(read_);
        png_set_gray_to_rgb(read_);
        png_set_swap(read_);
        png_set_interlace_handling(read_);
        png_read_update_info(read_, info_);
        return png_get_channels(read_, info_) == 3;
    }
    double width() const { return png_get_image_width(read_, info_); }
    double height() const { return png_get_image_height(read_, info_); }
    bool deep() const { return png_get_bit_depth(read_, info_) == 16; }

    bool read_into(std::vector<png_bytep>& rows) {
        if (setjmp(png_jmpbuf(read_))) return false;
        png_read_image(read_, rows.data());
        png_read_end(read_, nullptr);
        return true;
    }

private:
    static void leave(png_structp read, png_const_charp) { png_longjmp(read, 1); }
    static void quiet(png_structp, png_const_charp) {}

    png_structp read_ = nullptr;
    png_infop info_ = nullptr;
};

cv::Mat decode_png(const fs::path& path) {
    const File file = opened(path);
    Png png(file.get());
    if (!png.read_header()) damaged(path);
    check_size(path, png.width(), png.height());
    cv::Mat out(static_cast<int>(png.height()), static_cast<int>(png.width()), png.deep() ? CV_16UC3 : CV_8UC3);
    std::vector<png_bytep> rows(out.rows);
    for (int row = 0; row < out.rows; ++row) rows[row] = out.ptr(row);
    if (!png.read_into(rows)) damaged(path);
    return out;
}

// TIFF.

struct TiffShape {
    std::uint32_t width = 0, height = 0;
    std::uint16_t bits = 1, samples = 1, format = SAMPLEFORMAT_UINT, planar = PLANARCONFIG_CONTIG, photometric = 0;

    /// True for samples that need no conversion: grey or RGB, integers of 8 or 16 bits or floats.
    bool plain() const {
        const bool light = photometric == PHOTOMETRIC_RGB ? samples >= 3 : photometric == PHOTOMETRIC_MINISBLACK;
        const bool whole = format == SAMPLEFORMAT_UINT && (bits == 8 || bits == 16);
        return light && (whole || (format == SAMPLEFORMAT_IEEEFP && bits == 32));
    }
    int depth() const {
        if (bits == 32) return CV_32F;
        return bits == 16 ? CV_16U : CV_8U;
    }
};

TiffShape shape_of(TIFF* tiff) {
    TiffShape s;
    TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &s.width);
    TIFFGetField(tiff, TIFFTAG_IMAGELENGTH, &s.height);
    TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &s.bits);
    TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &s.samples);
    TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLEFORMAT, &s.format);
    TIFFGetFieldDefaulted(tiff, TIFFTAG_PLANARCONFIG, &s.planar);
    TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &s.photometric);
    return s;
}

/// Copies a run of samples of a row into the picture: of all channels, or of `plane` alone.
void take_samples(const TiffShape& s, const unsigned char* in, cv::Mat& out, int row, int column, int count,
                  int plane) {
    const std::size_t bytes = s.bits / 8;
    const int step = plane < 0 ? s.samples : 1;
    for (int i = 0; i < count; ++i) {
        unsigned char* pixel = out.ptr(row) + (column + i) * 3 * bytes;
        const unsigned char* sample = in + i * step * bytes;
        for (int c = 0; c < 3; ++c) {
            if (plane >= 0 && s.samples >= 3 && c != plane) continue;
            const bool colour = plane < 0 && s.samples >= 3;
            std::memcpy(pixel + c * bytes, sample + (colour ? c * bytes : 0), bytes);
        }
    }
}

bool read_strips(TIFF* tiff, const TiffShape& s, cv::Mat& out) {
    const int planes = s.planar == PLANARCONFIG_SEPARATE ? std::min<int>(s.samples, 3) : 1;
    std::vector<unsigned char> line(TIFFScanlineSize(tiff));
    if (line.size() < static_cast<std::size_t>(s.width) * (planes > 1 ? 1 : s.samples) * (s.bits / 8)) return false;
    for (int plane = 0; plane < planes; ++plane)
        for (std::uint32_t row = 0; row < s.height; ++row) {
            if (TIFFReadScanline(tiff, line.data(), row, static_cast<std::uint16_t>(plane)) < 0) return false;
            take_samples(s, line.data(), out, static_cast<int>(row), 0, out.cols, planes > 1 ? plane : -1);
        }
    return true;
}

bool read_tiles(TIFF* tiff, const TiffShape& s, cv::Mat& out) {
    std::uint32_t across = 0, down = 0;
    TIFFGetField(tiff, TIFFTAG_TILEWIDTH, &across);
    TIFFGetField(tiff, TIFFTAG_TILELENGTH, &down);
    const int planes = s.planar == PLANARCONFIG_SEPARATE ? std::min<int>(s.samples, 3) : 1;
    const std::size_t line = static_cast<std::size_t>(across) * (planes > 1 ? 1 : s.samples) * (s.bits / 8);
    std::vector<unsigned char> tile(TIFFTileSize(tiff));
    if (across == 0 || down == 0 || tile.size() < line * down) return false;
    for (int plane = 0; plane < planes; ++plane)
        for (std::uint32_t y = 0; y < s.height; y += down)
            for (std::uint32_t x = 0; x < s.width; x += across) {
                if (TIFFReadTile(tiff, tile.data(), x, y, 0, static_cast<std::uint16_t>(plane)) < 0) return false;
                const int columns = static_cast<int>(std::min(across, s.width - x));
                for (std::uint32_t row = 0; row < std::min(down, s.height - y); ++row)
                    take_samples(s, tile.data() + row * line, out, static_cast<int>(y + row), static_cast<int>(x),
                                 columns, planes > 1 ? plane : -1);
            }
    return true;
}

/// Lets the library convert palettes, bilevel pictures, inks and other forms to 8 bits.
bool read_as_shown(TIFF* tiff, const TiffShape& s, cv::Mat& out) {
    TIFFSetField(tiff, TIFFTAG_ORIENTATION, ORIENTATION_TOPLEFT);
    std::vector<std::uint32_t> raster(static_cast<std::size_t>(s.width) * s.height);
    if (!TIFFReadRGBAImageOriented(tiff, s.width, s.height, raster.data(), ORIENTATION_TOPLEFT, 1)) return false;
    for (int row = 0; row < out.rows; ++row)
        for (int i = 0; i < out.cols; ++i) {
            const std::uint32_t v = raster[static_cast<std::size_t>(row) * s.width + i];
            out.at<cv::Vec3b>(row, i) = {static_cast<uchar>(TIFFGetR(v)), static_cast<uchar>(TIFFGetG(v)),
                                         static_cast<uchar>(TIFFGetB(v))};
        }
    return true;
}

cv::Mat decode_tiff(const fs::path& path) {
    mute_libtiff();
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(TIFFOpen(path.c_str(), "r"), TIFFClose);
    if (!tiff) damaged(path);
    const TiffShape s = shape_of(tiff.get());
    if (s.width == 0 || s.height == 0) damaged(path);
    check_size(path, s.width, s.height);
    cv::Mat out(static_cast<int>(s.height), static_cast<int>(s.width), CV_MAKETYPE(s.plain() ? s.depth() : CV_8U, 3));
    const auto read = s.plain() ? (TIFFIsTiled(tiff.get()) ? read_tiles : read_strips) : read_as_shown;
    if (!read(tiff.get(), s, out)) damaged(path);
    return out;
}

}  // namespace

cv::Mat decode_picture(const fs::path& path) {
    std::array<unsigned char, 8> head{};
    {
        const File file = opened(path);
        if (std::fread(head.data(), 1, head.size(), file.get()) != head.size()) damaged(path);
    }
    if (head[0] == 0xff && head[1] == 0xd8) return decode_jpeg(path);
    if (png_sig_cmp(head.data(), 0, head.size()) == 0) return decode_png(path);
    if (std::memcmp(head.data(), "II", 2) == 0 || std::memcmp(head.data(), "MM", 2) == 0) return decode_tiff(path);
    damaged(path);
}

}  // namespace optrel

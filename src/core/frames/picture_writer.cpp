// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/picture_writer.h"

#include <fmt/format.h>
#include <tiffio.h>
#include <zlib.h>

#include <array>
#include <csetjmp>
#include <cstdio>
#include <cstring>
#include <exiv2/exiv2.hpp>
#include <memory>
#include <vector>

#include <png.h>

#include "base/error.h"
#include "base/parallel.h"
#include "frames/exiv2_guard.h"
#include "frames/jpeg_bytes.h"
#include "frames/libtiff_guard.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr const char* software = "Optrel " OPTREL_VERSION;

[[noreturn]] void disk_full(const fs::path& wanted) {
    throw file_error(fmt::format("Cannot write {}: the disk is full or was taken away; free some space and try again.",
                                 wanted.string()));
}
[[noreturn]] void no_folder(const fs::path& wanted) {
    throw file_error(fmt::format("Cannot write {}: the folder is missing, full or read-only; choose another folder.",
                                 wanted.string()));
}

using File = std::unique_ptr<std::FILE, int (*)(std::FILE*)>;

File created(const fs::path& part, const fs::path& wanted) {
    File file(std::fopen(part.c_str(), "wb"), std::fclose);
    if (!file) no_folder(wanted);
    return file;
}
void close(File file, const fs::path& wanted) {
    if (std::fflush(file.get()) != 0) disk_full(wanted);
}

// TIFF: strips of rows, which are compressed side by side.

constexpr int strip_rows = 64;

/// A strip as it stands in the file: what is not compressed in the order of the machine.
std::vector<unsigned char> strip_of(const cv::Mat3w& rgb, int first, int end, const PictureCoding& coding) {
    const int samples = 3 * rgb.cols, bytes = coding.bits / 8;
    std::vector<unsigned char> plain(static_cast<std::size_t>(end - first) * samples * bytes);
    for (int row = first; row < end; ++row) {
        const std::uint16_t* in = reinterpret_cast<const std::uint16_t*>(rgb.ptr(row));
        unsigned char* out = plain.data() + static_cast<std::size_t>(row - first) * samples * bytes;
        if (bytes == 2)
            std::memcpy(out, in, static_cast<std::size_t>(samples) * 2);
        else
            for (int i = 0; i < samples; ++i) out[i] = to_8(in[i]);
        if (!coding.compressed) continue;
        // Differences to the pixel before (TIFF 6.0, section 14), from the end, so that each is made of the values.
        for (int i = samples - 1; i >= 3; --i) {
            if (bytes == 1) {
                out[i] = static_cast<unsigned char>(out[i] - out[i - 3]);
            } else {
                const std::uint16_t difference = static_cast<std::uint16_t>(in[i] - in[i - 3]);
                std::memcpy(out + 2 * i, &difference, 2);
            }
        }
    }
    if (!coding.compressed) return plain;
    uLongf size = compressBound(static_cast<uLong>(plain.size()));
    std::vector<unsigned char> packed(size);
    compress2(packed.data(), &size, plain.data(), static_cast<uLong>(plain.size()), 4);
    packed.resize(size);
    return packed;
}

void set_tags(TIFF* tiff, const cv::Mat3w& rgb, const PictureCoding& coding, const std::string& icc) {
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, static_cast<std::uint32_t>(rgb.cols));
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, static_cast<std::uint32_t>(rgb.rows));
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, coding.bits);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 3);
    TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_RGB);
    TIFFSetField(tiff, TIFFTAG_COMPRESSION, coding.compressed ? COMPRESSION_ADOBE_DEFLATE : COMPRESSION_NONE);
    if (coding.compressed) TIFFSetField(tiff, TIFFTAG_PREDICTOR, PREDICTOR_HORIZONTAL);
    TIFFSetField(tiff, TIFFTAG_ORIENTATION, ORIENTATION_TOPLEFT);
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, strip_rows);
    TIFFSetField(tiff, TIFFTAG_SOFTWARE, software);
    if (!icc.empty()) TIFFSetField(tiff, TIFFTAG_ICCPROFILE, static_cast<std::uint32_t>(icc.size()), icc.data());
}

void write_tiff(const fs::path& part, const cv::Mat3w& rgb, const PictureCoding& coding, const std::string& icc,
                const fs::path& wanted) {
    mute_libtiff();
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(TIFFOpen(part.c_str(), "wl"), TIFFClose);
    if (!tiff) no_folder(wanted);
    set_tags(tiff.get(), rgb, coding, icc);
    const int strips = (rgb.rows + strip_rows - 1) / strip_rows;
    constexpr int at_once = 16;
    for (int begin = 0; begin < strips; begin += at_once) {
        std::array<std::vector<unsigned char>, at_once> ready;
        const int count = std::min(at_once, strips - begin);
        parallel_for(count, [&](int i) {
            const int first = (begin + i) * strip_rows;
            ready[i] = strip_of(rgb, first, std::min(rgb.rows, first + strip_rows), coding);
        });
        for (int i = 0; i < count; ++i) {
            const tmsize_t size = static_cast<tmsize_t>(ready[i].size());
            if (TIFFWriteRawStrip(tiff.get(), static_cast<std::uint32_t>(begin + i), ready[i].data(), size) != size)
                disk_full(wanted);
        }
    }
    if (!TIFFWriteDirectory(tiff.get())) disk_full(wanted);
}

// JPEG.

void write_jpeg(const fs::path& part, const cv::Mat3w& rgb, int quality, const std::string& icc,
                const fs::path& wanted) {
    if (std::max(rgb.cols, rgb.rows) > largest_jpeg)
        throw input_error(
            fmt::format("{} would have {} by {} pixels, and a JPEG holds {} at most; export it smaller or as a TIFF.",
                        wanted.filename().string(), rgb.cols, rgb.rows, largest_jpeg));
    const std::string bytes = jpeg_bytes(rgb, quality, icc, software);
    File file = created(part, wanted);
    if (std::fwrite(bytes.data(), 1, bytes.size(), file.get()) != bytes.size()) disk_full(wanted);
    close(std::move(file), wanted);
}

// PNG. The library reports by its own means and wants to be left by a jump, so nothing that has a destructor is made
// between the jump's aim and its start.

class PngWriter {
public:
    explicit PngWriter(std::FILE* file) {
        png_ = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, leave, quiet);
        info_ = png_create_info_struct(png_);
        png_init_io(png_, file);
    }
    ~PngWriter() { png_destroy_write_struct(&png_, &info_); }
    PngWriter(const PngWriter&) = delete;
    PngWriter& operator=(const PngWriter&) = delete;

    bool write(const cv::Mat3w& rgb, int bits, const std::string& icc, std::vector<png_byte>& line) {
        if (setjmp(png_jmpbuf(png_))) return false;
        png_set_IHDR(png_, info_, static_cast<png_uint_32>(rgb.cols), static_cast<png_uint_32>(rgb.rows), bits,
                     PNG_COLOR_TYPE_RGB, PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
        png_text said{};
        said.compression = PNG_TEXT_COMPRESSION_NONE;
        said.key = const_cast<png_charp>("Software");
        said.text = const_cast<png_charp>(software);
        png_set_text(png_, info_, &said, 1);
        if (!icc.empty())
            png_set_iCCP(png_, info_, "ICC", PNG_COMPRESSION_TYPE_BASE, reinterpret_cast<png_const_bytep>(icc.data()),
                         static_cast<png_uint_32>(icc.size()));
        // Of photographs these come out as small as what takes four times as long.
        png_set_filter(png_, PNG_FILTER_TYPE_BASE, PNG_FILTER_UP);
        png_set_compression_level(png_, 3);
        png_write_info(png_, info_);
        if (bits == 16) png_set_swap(png_);
        for (int row = 0; row < rgb.rows; ++row) {
            const std::uint16_t* in = reinterpret_cast<const std::uint16_t*>(rgb.ptr(row));
            if (bits == 16)
                std::memcpy(line.data(), in, line.size());
            else
                for (std::size_t i = 0; i < line.size(); ++i) line[i] = to_8(in[i]);
            png_write_row(png_, line.data());
        }
        png_write_end(png_, info_);
        return true;
    }

private:
    static void leave(png_structp png, png_const_charp) { png_longjmp(png, 1); }
    static void quiet(png_structp, png_const_charp) {}

    png_structp png_ = nullptr;
    png_infop info_ = nullptr;
};

void write_png(const fs::path& part, const cv::Mat3w& rgb, int bits, const std::string& icc, const fs::path& wanted) {
    File file = created(part, wanted);
    std::vector<png_byte> line(3 * static_cast<std::size_t>(rgb.cols) * (bits / 8));
    if (!PngWriter(file.get()).write(rgb, bits, icc, line)) disk_full(wanted);
    close(std::move(file), wanted);
}

/// Whether the metadata of a picture that is no DNG say that Optrel wrote it.
bool ours(const fs::path& path, const std::string&) {
    prepare_exiv2();
    try {
        const auto image = Exiv2::ImageFactory::open(path.string());
        image->readMetadata();
        const Exiv2::ExifData& exif = image->exifData();
        if (exif.findKey(Exiv2::ExifKey("Exif.Image.DNGVersion")) != exif.end()) return false;
        const auto named = exif.findKey(Exiv2::ExifKey("Exif.Image.Software"));
        const std::string by = named != exif.end() ? named->toString() : image->comment();
        return by.rfind("Optrel ", 0) == 0;
    } catch (const std::exception&) {
        return false;
    }
}

}  // namespace

const OutputFormat& picture_output(PictureFormat format) {
    static const OutputFormat formats[] = {
        {"a TIFF", {".tif", ".tiff"}, ours}, {"a JPEG", {".jpg", ".jpeg"}, ours}, {"a PNG", {".png"}, ours}};
    return formats[static_cast<int>(format)];
}

void write_picture(const fs::path& path, Existing existing, const cv::Mat3w& rgb, const PictureCoding& coding,
                   const std::string& icc, const std::function<void(const fs::path&)>& finish) {
    write_output_with(path, picture_output(coding.format), existing, [&](const fs::path& part) {
        switch (coding.format) {
            case PictureFormat::tiff: write_tiff(part, rgb, coding, icc, path); break;
            case PictureFormat::jpeg: write_jpeg(part, rgb, coding.quality, icc, path); break;
            case PictureFormat::png: write_png(part, rgb, coding.bits, icc, path); break;
        }
        if (finish) finish(part);
    });
}

}  // namespace optrel

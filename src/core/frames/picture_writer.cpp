// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/picture_writer.h"

#include <fmt/format.h>
#include <zlib.h>

#include <array>
#include <cmath>
#include <csetjmp>
#include <cstdio>
#include <cstring>
#include <exiv2/exiv2.hpp>
#include <memory>
#include <vector>

#include <png.h>

#include "base/error.h"
#include "base/parallel.h"
#include "frames/exif_directories.h"
#include "frames/exiv2_guard.h"
#include "frames/jpeg_bytes.h"
#include "frames/picture_metadata.h"
#include "frames/tiff_tags.h"
#include "frames/write_failures.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr const char* program = "Optrel " OPTREL_VERSION;

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
std::string strip_of(const cv::Mat3w& rgb, int first, int end, const PictureCoding& coding) {
    const int samples = 3 * rgb.cols, bytes = coding.bits / 8;
    std::string plain(static_cast<std::size_t>(end - first) * samples * bytes, '\0');
    for (int row = first; row < end; ++row) {
        const std::uint16_t* in = reinterpret_cast<const std::uint16_t*>(rgb.ptr(row));
        unsigned char* out =
            reinterpret_cast<unsigned char*>(plain.data()) + static_cast<std::size_t>(row - first) * samples * bytes;
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
                std::memcpy(out + std::size_t{2} * static_cast<std::size_t>(i), &difference, 2);
            }
        }
    }
    if (!coding.compressed) return plain;
    uLongf size = compressBound(static_cast<uLong>(plain.size()));
    std::string packed(size, '\0');
    compress2(reinterpret_cast<Bytef*>(packed.data()), &size, reinterpret_cast<const Bytef*>(plain.data()),
              static_cast<uLong>(plain.size()), 1);
    packed.resize(size);
    return packed;
}

void put_strips(TiffFile& file, Ifd& ifd, const cv::Mat3w& rgb, const PictureCoding& coding) {
    const int strips = (rgb.rows + strip_rows - 1) / strip_rows;
    std::vector<std::uint32_t> places, sizes;
    const auto put = [&](std::string_view strip) {
        places.push_back(file.block(strip));
        sizes.push_back(static_cast<std::uint32_t>(strip.size()));
    };
    // What is written as it stands in memory needs no copy.
    const bool as_it_is = !coding.compressed && coding.bits == 16 && rgb.isContinuous();
    constexpr int at_once = 16;
    for (int first = 0; as_it_is && first < rgb.rows; first += strip_rows)
        put({reinterpret_cast<const char*>(rgb.ptr(first)),
             static_cast<std::size_t>(std::min(strip_rows, rgb.rows - first)) * rgb.step[0]});
    for (int begin = 0; !as_it_is && begin < strips; begin += at_once) {
        std::array<std::string, at_once> ready;
        const int count = std::min(at_once, strips - begin);
        parallel_for(count, [&](int i) {
            const int first = (begin + i) * strip_rows;
            ready[i] = strip_of(rgb, first, std::min(rgb.rows, first + strip_rows), coding);
        });
        for (int i = 0; i < count; ++i) put(ready[i]);
    }
    ifd.u32(tag::strip_offsets, places);
    ifd.u32(tag::strip_byte_counts, sizes);
    ifd.u32(tag::rows_per_strip, {strip_rows});
}

void write_tiff(const fs::path& part, const cv::Mat3w& rgb, const PictureCoding& coding, const std::string& icc,
                const ExportFacts& facts, const fs::path& wanted) {
    constexpr int none = 1, deflate = 8, differences = 2, red_green_blue = 2, top_left = 1, chunky = 1;
    TiffFile file(part, wanted);
    Ifd main;
    main.u32(tag::image_width, {static_cast<std::uint32_t>(rgb.cols)});
    main.u32(tag::image_length, {static_cast<std::uint32_t>(rgb.rows)});
    main.u16(tag::bits_per_sample, {coding.bits, coding.bits, coding.bits});
    main.u16(tag::compression, {coding.compressed ? deflate : none});
    if (coding.compressed) main.u16(tag::predictor, {differences});
    main.u16(tag::photometric, {red_green_blue});
    main.u16(tag::orientation, {top_left});
    main.u16(tag::samples_per_pixel, {3});
    main.u16(tag::planar_configuration, {chunky});
    main.text(tag::software, program);
    if (!icc.empty()) main.bytes(tag::icc_profile, TiffType::undefined, static_cast<std::uint32_t>(icc.size()), icc);
    {
        const std::lock_guard<std::mutex> lock(exiv2_mutex());
        put_metadata(file, main, picture_metadata(facts, coding, rgb.size()), facts.correction, false);
    }
    put_strips(file, main, rgb, coding);
    file.finish(main);
}

// JPEG.

void write_jpeg(const fs::path& part, const cv::Mat3w& rgb, const PictureCoding& coding, const std::string& icc,
                const ExportFacts& facts, const fs::path& wanted) {
    if (std::max(rgb.cols, rgb.rows) > largest_jpeg)
        throw input_error(
            fmt::format("{} would have {} by {} pixels, and a JPEG holds {} at most; export it smaller or as a TIFF.",
                        wanted.filename().string(), rgb.cols, rgb.rows, largest_jpeg));
    const std::string bytes = jpeg_bytes(rgb, coding.quality, icc, program, coding.resolution);
    File file = created(part, wanted);
    if (std::fwrite(bytes.data(), 1, bytes.size(), file.get()) != bytes.size()) disk_full(wanted);
    close(std::move(file), wanted);
    const std::lock_guard<std::mutex> lock(exiv2_mutex());
    put_into_jpeg(part, picture_metadata(facts, coding, rgb.size()), facts);
}

// PNG. The library reports by its own means and wants to be left by a jump, so nothing that has a destructor is made
// between the jump's aim and its start.

struct PngMetadata {
    std::string exif, xmp;
};

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

    bool write(const cv::Mat3w& rgb, const PictureCoding& coding, const std::string& icc, PngMetadata& metadata,
               std::vector<png_byte>& line) {
        const int bits = coding.bits;
        if (setjmp(png_jmpbuf(png_))) return false;
        png_set_IHDR(png_, info_, static_cast<png_uint_32>(rgb.cols), static_cast<png_uint_32>(rgb.rows), bits,
                     PNG_COLOR_TYPE_RGB, PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
        png_text said[2]{};
        said[0].compression = PNG_TEXT_COMPRESSION_NONE;
        said[0].key = const_cast<png_charp>("Software");
        said[0].text = const_cast<png_charp>(program);
        // XMP specification, part 3: a PNG carries the packet in an iTXt chunk with this keyword.
        said[1].compression = PNG_ITXT_COMPRESSION_NONE;
        said[1].key = const_cast<png_charp>("XML:com.adobe.xmp");
        said[1].text = metadata.xmp.data();
        said[1].itxt_length = metadata.xmp.size();
        png_set_text(png_, info_, said, metadata.xmp.empty() ? 1 : 2);
        if (!metadata.exif.empty())
            png_set_eXIf_1(png_, info_, static_cast<png_uint_32>(metadata.exif.size()),
                           reinterpret_cast<png_bytep>(metadata.exif.data()));
        const png_uint_32 per_metre = static_cast<png_uint_32>(std::lround(coding.resolution.per_metre()));
        png_set_pHYs(png_, info_, per_metre, per_metre, PNG_RESOLUTION_METER);
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
        // Without the chunks, which the library would write once more behind the picture.
        png_write_end(png_, nullptr);
        return true;
    }

private:
    static void leave(png_structp png, png_const_charp) { png_longjmp(png, 1); }
    static void quiet(png_structp, png_const_charp) {}

    png_structp png_ = nullptr;
    png_infop info_ = nullptr;
};

/// A PNG has no place for IPTC records; what they say goes into the XMP.
PngMetadata png_metadata(const ExportFacts& facts, const PictureCoding& coding, const cv::Size& size) {
    const std::lock_guard<std::mutex> lock(exiv2_mutex());
    ChosenMetadata chosen = picture_metadata(facts, coding, size);
    if (!chosen.iptc.empty()) {
        Exiv2::XmpData both;
        Exiv2::copyIptcToXmp(chosen.iptc, both);
        for (const Exiv2::Xmpdatum& own : chosen.xmp) {
            const auto there = both.findKey(Exiv2::XmpKey(own.key()));
            if (there != both.end()) both.erase(there);
            both.add(own);
        }
        chosen.xmp = both;
    }
    return {exif_block(chosen), xmp_packet(chosen, facts.correction)};
}

void write_png(const fs::path& part, const cv::Mat3w& rgb, const PictureCoding& coding, const std::string& icc,
               const ExportFacts& facts, const fs::path& wanted) {
    PngMetadata metadata = png_metadata(facts, coding, rgb.size());
    File file = created(part, wanted);
    std::vector<png_byte> line(3 * static_cast<std::size_t>(rgb.cols) * (coding.bits / 8));
    if (!PngWriter(file.get()).write(rgb, coding, icc, metadata, line)) disk_full(wanted);
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
                   const std::string& icc, const ExportFacts& facts, const std::function<void()>& finish) {
    write_output_with(path, picture_output(coding.format), existing, [&](const fs::path& part) {
        switch (coding.format) {
            case PictureFormat::tiff: write_tiff(part, rgb, coding, icc, facts, path); break;
            case PictureFormat::jpeg: write_jpeg(part, rgb, coding, icc, facts, path); break;
            case PictureFormat::png: write_png(part, rgb, coding, icc, facts, path); break;
        }
        if (finish) finish();
    });
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/dng_writer.h"

#include <fmt/format.h>
#include <openssl/evp.h>
#include <tiffio.h>
#include <zlib.h>

#include <algorithm>
#include <cstring>
#include <fstream>
#include <memory>

#include "base/error.h"
#include "base/files.h"
#include "base/parallel.h"
#include "frames/chosen_metadata.h"
#include "frames/colour_profile.h"
#include "frames/exif_directories.h"
#include "frames/exiv2_guard.h"
#include "frames/ifd_writer.h"
#include "frames/jpeg_bytes.h"
#include "frames/libtiff_guard.h"
#include "frames/lossless_jpeg.h"
#include "frames/tiff_tags.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr int jpeg_compression = 7, no_compression = 1;

std::string md5(const std::string& bytes) {
    std::string out(16, '\0');
    EVP_Digest(bytes.data(), bytes.size(), reinterpret_cast<unsigned char*>(out.data()), nullptr, EVP_md5(), nullptr);
    return out;
}

// The mosaic.

/// Side of a tile: a multiple of 16, as TIFF 6.0 requires, and not larger than the mosaic, because some readers do not
/// skip the part of a tile outside a narrower mosaic.
int tile_side(int samples) { return std::clamp(samples / 16 * 16, 16, 512); }

/// A tile whose part outside the mosaic repeats its last columns and rows of the same colour.
cv::Mat tile_of(const cv::Mat& mosaic, const cv::Rect& tile) {
    cv::Mat out(tile.size(), mosaic.type());
    const auto inside = [](int at, int size) { return at < size ? at : size - 2 + (at - size) % 2; };
    const std::size_t pixel = mosaic.elemSize();
    for (int row = 0; row < tile.height; ++row) {
        const std::uint8_t* in = mosaic.ptr(inside(tile.y + row, mosaic.rows));
        std::uint8_t* to = out.ptr(row);
        const int whole = std::min(tile.width, mosaic.cols - tile.x);
        std::memcpy(to, in + tile.x * pixel, whole * pixel);
        for (int i = whole; i < tile.width; ++i)
            std::memcpy(to + i * pixel, in + inside(tile.x + i, mosaic.cols) * pixel, pixel);
    }
    return out;
}

void put_tiles(TiffFile& file, Ifd& ifd, const cv::Mat& mosaic, int components, const Progress& progress) {
    const int width = tile_side(mosaic.cols), height = tile_side(mosaic.rows);
    const int across = (mosaic.cols + width - 1) / width, down = (mosaic.rows + height - 1) / height;
    std::vector<std::uint32_t> places, sizes;
    for (int j = 0; j < down; ++j) {
        progress.check();
        std::vector<std::string> coded(across);
        parallel_for(across, [&](int i) {
            coded[i] =
                encode_lossless_jpeg(tile_of(mosaic, {i * width, j * height, width, height}).reshape(1), components);
        });
        for (const std::string& bytes : coded) {
            places.push_back(file.block(bytes));
            sizes.push_back(static_cast<std::uint32_t>(bytes.size()));
        }
    }
    ifd.u16(tag::compression, {jpeg_compression});
    ifd.u32(tag::tile_width, {static_cast<std::uint32_t>(width)});
    ifd.u32(tag::tile_length, {static_cast<std::uint32_t>(height)});
    ifd.u32(tag::tile_offsets, places);
    ifd.u32(tag::tile_byte_counts, sizes);
}

void put_strip(TiffFile& file, Ifd& ifd, const cv::Mat& mosaic, const Progress& progress) {
    std::uint32_t place = 0;
    constexpr int rows = 256;
    for (int top = 0; top < mosaic.rows; top += rows) {
        progress.check();
        std::string bytes;
        for (int row = top; row < std::min(mosaic.rows, top + rows); ++row)
            bytes.append(reinterpret_cast<const char*>(mosaic.ptr(row)),
                         static_cast<std::size_t>(mosaic.cols) * mosaic.elemSize());
        // An even number of bytes, so that parts follow without a gap.
        const std::uint32_t at = file.block(bytes);
        if (top == 0) place = at;
    }
    ifd.u16(tag::compression, {no_compression});
    ifd.u32(tag::rows_per_strip, {static_cast<std::uint32_t>(mosaic.rows)});
    ifd.u32(tag::strip_offsets, {place});
    ifd.u32(tag::strip_byte_counts, {static_cast<std::uint32_t>(mosaic.total() * mosaic.elemSize())});
}

void put_filter(Ifd& ifd, const RawPicture& raw) {
    const int period = raw.filter.period();
    ifd.u16(tag::cfa_repeat_pattern_dim, {period, period});
    ifd.u8(tag::cfa_pattern, raw.filter.values());
    ifd.u8(tag::cfa_plane_color, {0, 1, 2});
    ifd.u16(tag::cfa_layout, {1});
}

void put_black(Ifd& ifd, const RawPicture& raw) {
    const int period = raw.black.period();  // 1 for an interpolated frame, which has a level for each sample instead
    ifd.u16(tag::black_level_repeat_dim, {period, period});
    if (raw.layout == SampleLayout::interpolated)
        ifd.rationals(tag::black_level, {raw.interpolated_black.begin(), raw.interpolated_black.end()});
    else
        ifd.rationals(tag::black_level, raw.black.values());
}

/// Writes the samples; adds their tags to `ifd`.
void put_mosaic(TiffFile& file, Ifd& ifd, const RawMosaic& mosaic, const RawCopyContent& c, const Progress& progress) {
    const RawPicture& raw = mosaic.picture;
    const VisiblePart& part = mosaic.visible;
    ifd.u32(tag::new_subfile_type, {0});
    ifd.u32(tag::image_width, {static_cast<std::uint32_t>(mosaic.whole.cols)});
    ifd.u32(tag::image_length, {static_cast<std::uint32_t>(mosaic.whole.rows)});
    const bool mosaicked = raw.layout == SampleLayout::bayer || raw.layout == SampleLayout::six_by_six;
    const bool interpolated = raw.layout == SampleLayout::interpolated;
    constexpr std::uint16_t colour_filter = 32803, linear_raw = 34892;
    if (interpolated)
        ifd.u16(tag::bits_per_sample, {16, 16, 16});
    else
        ifd.u16(tag::bits_per_sample, {16});
    ifd.u16(tag::photometric, {mosaicked ? colour_filter : linear_raw});
    ifd.u16(tag::samples_per_pixel, {static_cast<std::uint16_t>(interpolated ? 3 : 1)});
    ifd.u16(tag::planar_configuration, {1});
    // Readers take two components for two columns of a mosaic only.
    const int components = mosaicked ? 2 : mosaic.whole.channels();
    if (c.compressed)
        put_tiles(file, ifd, mosaic.whole, components, progress);
    else
        put_strip(file, ifd, mosaic.whole, progress);
    if (mosaicked) put_filter(ifd, raw);
    put_black(ifd, raw);
    ifd.u32(tag::white_level, std::vector<std::uint32_t>(interpolated ? 3 : 1, static_cast<std::uint32_t>(raw.white)));
    ifd.rationals(tag::default_scale, {1, 1});
    const cv::Rect crop = c.crop.empty() ? cv::Rect(0, 0, part.width, part.height) : c.crop;
    ifd.u32(tag::default_crop_origin, {static_cast<std::uint32_t>(crop.x), static_cast<std::uint32_t>(crop.y)});
    ifd.u32(tag::default_crop_size, {static_cast<std::uint32_t>(crop.width), static_cast<std::uint32_t>(crop.height)});
    ifd.u32(tag::active_area,
            {static_cast<std::uint32_t>(part.top), static_cast<std::uint32_t>(part.left),
             static_cast<std::uint32_t>(part.top + part.height), static_cast<std::uint32_t>(part.left + part.width)});
    if (!c.noise.empty()) ifd.doubles(tag::noise_profile, c.noise);
    constexpr std::uint16_t lists[] = {tag::opcode_list_1, tag::opcode_list_2, tag::opcode_list_3};
    for (int i = 0; i < 3; ++i)
        if (!c.opcodes[i].empty())
            ifd.bytes(lists[i], TiffType::undefined, static_cast<std::uint32_t>(c.opcodes[i].size()), c.opcodes[i]);
}

// The original.

void put_32_big(std::string& out, std::uint32_t v) {
    for (int shift = 24; shift >= 0; shift -= 8) out += static_cast<char>(v >> shift);
}

/// As the specification requires: one fork in blocks of 64 KB, each compressed by itself; the other parts, for another
/// operating system, are empty.
std::string packed_original(const fs::path& path, const Progress& progress) {
    constexpr std::size_t block = 65536;
    const std::string bytes = read_file(path, 0xffffffffu);
    const int blocks = static_cast<int>((bytes.size() + block - 1) / block);
    std::vector<std::string> packed(blocks);
    parallel_for(blocks, [&](int i) {
        if (progress.cancelled()) return;
        const std::size_t from = i * block, count = std::min(block, bytes.size() - from);
        uLongf size = compressBound(static_cast<uLong>(count));
        packed[i].resize(size);
        compress2(reinterpret_cast<Bytef*>(packed[i].data()), &size,
                  reinterpret_cast<const Bytef*>(bytes.data() + from), static_cast<uLong>(count), 6);
        packed[i].resize(size);
    });
    progress.check();
    std::string out;
    put_32_big(out, static_cast<std::uint32_t>(bytes.size()));
    std::uint32_t at = static_cast<std::uint32_t>(4 + 4 * (blocks + 1));
    for (const std::string& p : packed) {
        put_32_big(out, at);
        at += static_cast<std::uint32_t>(p.size());
    }
    put_32_big(out, at);
    for (const std::string& p : packed) out += p;
    return out;
}

// The main directory: the preview, and tags for the whole file.

void put_preview(TiffFile& file, Ifd& main, const cv::Mat3b& preview) {
    const std::string jpeg = jpeg_bytes(preview, 88);
    main.u32(tag::new_subfile_type, {1});
    main.u32(tag::image_width, {static_cast<std::uint32_t>(preview.cols)});
    main.u32(tag::image_length, {static_cast<std::uint32_t>(preview.rows)});
    main.u16(tag::bits_per_sample, {8, 8, 8});
    main.u16(tag::compression, {jpeg_compression});
    main.u16(tag::photometric, {6});
    main.u16(tag::samples_per_pixel, {3});
    main.u16(tag::planar_configuration, {1});
    main.u16(tag::ycbcr_subsampling, {2, 2});
    main.u16(tag::ycbcr_positioning, {1});
    main.u32(tag::rows_per_strip, {static_cast<std::uint32_t>(preview.rows)});
    main.u32(tag::strip_byte_counts, {static_cast<std::uint32_t>(jpeg.size())});
    main.u32(tag::strip_offsets, {file.block(jpeg)});
    main.text(tag::preview_application_name, "Optrel");
    main.text(tag::preview_application_version, OPTREL_VERSION);
    main.u32(tag::preview_color_space, {2});  // sRGB
}

void put_camera(Ifd& main, const RawPicture& raw, const RawCopyContent& c) {
    main.u8(tag::dng_version, {1, 4, 0, 0});
    main.u8(tag::dng_backward_version, c.needs_opcodes ? std::vector<int>{1, 3, 0, 0} : std::vector<int>{1, 1, 0, 0});
    // A colour profile applies to the camera name in its frame.
    const bool own_name = raw.carried && !raw.carried->own_tags.empty() && !raw.carried->camera.empty();
    const std::string model = own_name ? raw.carried->camera : camera_name(c.metadata);
    main.text(tag::unique_camera_model, model.empty() ? "unknown camera" : model);
    main.u16(tag::orientation, {c.metadata.orientation});
    main.text(tag::software, "Optrel " OPTREL_VERSION);
    if (raw.carried && !raw.carried->own_tags.empty()) {
        for (const PlainTag& t : raw.carried->own_tags)
            main.bytes(t.tag, static_cast<TiffType>(t.type), t.count, t.value);
    } else if (raw.has_colours()) {
        main.signed_rationals(tag::color_matrix_1, {raw.xyz_to_camera.val, raw.xyz_to_camera.val + 9});
        main.u16(tag::calibration_illuminant_1, {21});  // D65
    }
    if (raw.has_colours())
        main.rationals(tag::as_shot_neutral, {raw.as_shot_neutral[0], raw.as_shot_neutral[1], raw.as_shot_neutral[2]});
    if (c.baseline_exposure != 0) main.signed_rationals(tag::baseline_exposure_tag, {c.baseline_exposure});
    main.rationals(tag::baseline_noise, {1});
    main.rationals(tag::baseline_sharpness, {1});
    main.rationals(tag::linear_response_limit, {1});
}

/// The additional colour profiles of the frame, each with the layout of a separate file.
void put_further_colours(TiffFile& file, Ifd& main, const RawPicture& raw) {
    if (!raw.carried) return;
    std::vector<std::uint32_t> places;
    for (std::size_t i = raw.carried->own_tags.empty() ? 0 : 1; i < raw.carried->profiles.size(); ++i)
        places.push_back(file.block(raw.carried->profiles[i].bytes));
    if (!places.empty()) main.u32(tag::extra_camera_profiles, places);
}

/// True when the first directory of a file identifies a DNG written by Optrel.
bool written_by_us(const fs::path& path, const std::string&) {
    mute_libtiff();
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(TIFFOpen(path.c_str(), "r"), TIFFClose);
    if (!tiff) return false;
    const char* software = nullptr;
    const unsigned char* version = nullptr;
    const bool ours = TIFFGetField(tiff.get(), TIFFTAG_SOFTWARE, &software) == 1 && software &&
                      std::strncmp(software, "Optrel ", 7) == 0;
    return ours && TIFFGetField(tiff.get(), TIFFTAG_DNGVERSION, &version) == 1;
}

}  // namespace

const OutputFormat& dng_output() {
    static const OutputFormat format{"a DNG", {".dng"}, written_by_us};
    return format;
}

void write_dng(const fs::path& path, const RawPicture& raw, const Metadata& metadata, Existing existing) {
    RawMosaic mosaic;
    mosaic.whole = raw.counts;
    mosaic.visible = {0, 0, raw.counts.rows, raw.counts.cols};
    mosaic.picture = raw;
    RawCopyContent content;
    content.metadata = metadata;
    content.compressed = false;
    content.baseline_exposure = metadata.baseline_exposure;
    write_output_with(path, dng_output(), existing, [&](const fs::path& part) {
        TiffFile file(part, path);
        Ifd main;
        put_camera(main, raw, content);
        {
            const std::lock_guard<std::mutex> lock(exiv2_mutex());
            put_metadata(file, main, stated_metadata(metadata), {}, false);
        }
        main.text(tag::camera_serial_number, metadata.body_serial);
        put_mosaic(file, main, mosaic, content, Progress());
        file.finish(main);
    });
}

void write_raw_copy(const fs::path& path, Existing existing, const RawMosaic& mosaic, const fs::path& frame,
                    const RawCopyContent& content, const Progress& progress, const std::function<void()>& finish) {
    if (mosaic.whole.cols < 2 || mosaic.whole.rows < 2 || mosaic.whole.cols > 100000 || mosaic.whole.rows > 100000)
        throw input_error(
            fmt::format("{} cannot be copied as a DNG: a mosaic of {} by {} samples does not fit into one.",
                        frame.string(), mosaic.whole.cols, mosaic.whole.rows));
    write_output_with(path, dng_output(), existing, [&](const fs::path& part) {
        TiffFile file(part, path);
        Ifd main;
        put_camera(main, mosaic.picture, content);
        {
            const std::lock_guard<std::mutex> lock(exiv2_mutex());
            const ChosenMetadata chosen = chosen_metadata(frame, content.metadata, content.keep, 1);
            put_metadata(file, main, chosen, content.properties, content.keep.serials && content.keep.exposure);
        }
        if (content.keep.serials) main.text(tag::camera_serial_number, content.metadata.body_serial);
        put_further_colours(file, main, mosaic.picture);
        put_preview(file, main, content.preview);
        main.text(tag::original_raw_file_name, frame.filename().string());
        if (!content.original.empty()) {
            const std::string packed = packed_original(content.original, progress);
            main.bytes(tag::original_raw_file_digest, TiffType::byte, 16, md5(packed));
            main.bytes(tag::original_raw_file_data, TiffType::undefined, static_cast<std::uint32_t>(packed.size()),
                       packed);
        }
        Ifd samples;
        put_mosaic(file, samples, mosaic, content, progress);
        main.u32(tag::sub_ifds, {file.directory(samples)});
        file.finish(main);
        if (finish) finish();
    });
}

}  // namespace optrel

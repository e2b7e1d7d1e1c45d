// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/tiff_writer.h"

#include <fmt/format.h>
#include <tiffio.h>

#include <array>
#include <cstring>
#include <memory>
#include <vector>

#include "base/error.h"
#include "base/files.h"
#include "frames/libtiff_guard.h"
#include "frames/write_failures.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

using Tiff = std::unique_ptr<TIFF, decltype(&TIFFClose)>;

Tiff create(const fs::path& part, const fs::path& wanted) {
    mute_libtiff();
    Tiff tiff(TIFFOpen(part.c_str(), "wl"), TIFFClose);
    if (!tiff) no_folder(wanted);
    return tiff;
}

/// Sets a text tag unless the text is empty.
void set_text(TIFF* tiff, std::uint32_t tag, const std::string& text) {
    if (!text.empty()) TIFFSetField(tiff, tag, text.c_str());
}

/// Writes the Exif directory after the main one, and the pointer to it.
void write_exif(TIFF* tiff, const Metadata& m, const fs::path& wanted) {
    if (!TIFFWriteDirectory(tiff)) disk_full(wanted);
    if (TIFFCreateEXIFDirectory(tiff) != 0) disk_full(wanted);
    TIFFSetField(tiff, EXIFTAG_EXIFVERSION, "0232");  // a directory without any entry cannot be written
    if (m.focal_mm > 0) TIFFSetField(tiff, EXIFTAG_FOCALLENGTH, m.focal_mm);
    if (m.aperture > 0) TIFFSetField(tiff, EXIFTAG_FNUMBER, m.aperture);
    if (m.distance_m > 0) TIFFSetField(tiff, EXIFTAG_SUBJECTDISTANCE, m.distance_m);
    if (m.exposure_s > 0) TIFFSetField(tiff, EXIFTAG_EXPOSURETIME, m.exposure_s);
    if (m.iso > 0 && m.iso < 65536) {
        const std::uint16_t iso = static_cast<std::uint16_t>(m.iso);
        TIFFSetField(tiff, EXIFTAG_ISOSPEEDRATINGS, 1, &iso);
    }
    if (m.pitch_um > 0) {
        TIFFSetField(tiff, EXIFTAG_FOCALPLANEXRESOLUTION, 1e4 / m.pitch_um);
        TIFFSetField(tiff, EXIFTAG_FOCALPLANEYRESOLUTION, 1e4 / m.pitch_um);
        TIFFSetField(tiff, EXIFTAG_FOCALPLANERESOLUTIONUNIT, 3);  // centimetre
    }
    set_text(tiff, EXIFTAG_DATETIMEORIGINAL, m.time);
    set_text(tiff, EXIFTAG_BODYSERIALNUMBER, m.body_serial);
    set_text(tiff, EXIFTAG_LENSMODEL, m.lens);
    set_text(tiff, EXIFTAG_LENSSERIALNUMBER, m.lens_serial);
    const auto level = [&](std::uint32_t tag, int value) {
        if (value >= 0) TIFFSetField(tiff, tag, static_cast<std::uint16_t>(value));
    };
    level(EXIFTAG_CONTRAST, m.recorded_contrast);
    level(EXIFTAG_SATURATION, m.recorded_saturation);
    level(EXIFTAG_SHARPNESS, m.recorded_sharpness);
    std::uint64_t offset = 0;
    if (!TIFFWriteCustomDirectory(tiff, &offset)) disk_full(wanted);
    if (!TIFFSetDirectory(tiff, 0)) disk_full(wanted);
    TIFFSetField(tiff, TIFFTAG_EXIFIFD, offset);
    if (!TIFFRewriteDirectory(tiff)) disk_full(wanted);
}

void set_common(TIFF* tiff, int width, int height, int samples, const Metadata& m) {
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, static_cast<std::uint32_t>(width));
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, static_cast<std::uint32_t>(height));
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 16);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, samples);
    TIFFSetField(tiff, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
    TIFFSetField(tiff, TIFFTAG_COMPRESSION, COMPRESSION_NONE);
    TIFFSetField(tiff, TIFFTAG_ORIENTATION, static_cast<std::uint16_t>(m.orientation));
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, static_cast<std::uint32_t>(height));
    TIFFSetField(tiff, TIFFTAG_SOFTWARE, "Optrel " OPTREL_VERSION);
    set_text(tiff, TIFFTAG_MAKE, m.maker);
    set_text(tiff, TIFFTAG_MODEL, m.model);
}

void write_pixels(TIFF* tiff, const cv::Mat& pixels, const fs::path& wanted) {
    const cv::Mat whole = pixels.isContinuous() ? pixels : pixels.clone();
    const tmsize_t bytes = static_cast<tmsize_t>(whole.total() * whole.elemSize());
    if (TIFFWriteEncodedStrip(tiff, 0, whole.data, bytes) != bytes) disk_full(wanted);
}

}  // namespace

namespace {

/// True when the first directory of a file identifies a DNG written by Optrel.
bool written_by_us(const fs::path& path, const std::string&) {
    mute_libtiff();
    const Tiff tiff(TIFFOpen(path.c_str(), "r"), TIFFClose);
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
    write_output_with(path, dng_output(), existing, [&](const fs::path& part) {
        const Tiff tiff = create(part, path);
        set_common(tiff.get(), raw.counts.cols, raw.counts.rows, 1, metadata);
        constexpr std::uint16_t linear_raw = 34892;
        const bool mosaicked = raw.has_colours();
        TIFFSetField(tiff.get(), TIFFTAG_PHOTOMETRIC, mosaicked ? PHOTOMETRIC_CFA : linear_raw);
        TIFFSetField(tiff.get(), TIFFTAG_SUBFILETYPE, 0);
        const auto sides = [](int period) {
            const auto side = static_cast<std::uint16_t>(period);
            return std::array<std::uint16_t, 2>{side, side};
        };
        if (mosaicked) {
            const std::vector<int> filter = raw.filter.values();
            const std::vector<std::uint8_t> pattern(filter.begin(), filter.end());
            TIFFSetField(tiff.get(), TIFFTAG_CFAREPEATPATTERNDIM, sides(raw.filter.period()).data());
            TIFFSetField(tiff.get(), TIFFTAG_CFAPATTERN, static_cast<int>(pattern.size()), pattern.data());
        }
        const std::vector<double> levels = raw.black.values();
        const std::vector<float> black(levels.begin(), levels.end());
        TIFFSetField(tiff.get(), TIFFTAG_DNGVERSION, "\1\4\0\0");
        TIFFSetField(tiff.get(), TIFFTAG_DNGBACKWARDVERSION, "\1\1\0\0");
        TIFFSetField(tiff.get(), TIFFTAG_UNIQUECAMERAMODEL, camera_name(metadata).c_str());
        TIFFSetField(tiff.get(), TIFFTAG_BLACKLEVELREPEATDIM, sides(raw.black.period()).data());
        TIFFSetField(tiff.get(), TIFFTAG_BLACKLEVEL, static_cast<int>(black.size()), black.data());
        const std::uint32_t white = static_cast<std::uint32_t>(raw.white);
        TIFFSetField(tiff.get(), TIFFTAG_WHITELEVEL, 1, &white);
        float matrix[9], neutral[3];
        for (int i = 0; i < 9; ++i) matrix[i] = static_cast<float>(raw.xyz_to_camera.val[i]);
        for (int i = 0; i < 3; ++i) neutral[i] = static_cast<float>(raw.as_shot_neutral[i]);
        if (mosaicked) {
            TIFFSetField(tiff.get(), TIFFTAG_COLORMATRIX1, 9, matrix);
            TIFFSetField(tiff.get(), TIFFTAG_ASSHOTNEUTRAL, 3, neutral);
            TIFFSetField(tiff.get(), TIFFTAG_CALIBRATIONILLUMINANT1, 21);  // D65
        }
        if (metadata.baseline_exposure != 0)
            TIFFSetField(tiff.get(), TIFFTAG_BASELINEEXPOSURE, metadata.baseline_exposure);
        set_text(tiff.get(), TIFFTAG_CAMERASERIALNUMBER, metadata.body_serial);
        write_pixels(tiff.get(), raw.counts, path);
        write_exif(tiff.get(), metadata, path);
    });
}

}  // namespace optrel

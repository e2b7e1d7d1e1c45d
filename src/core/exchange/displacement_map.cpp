// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/displacement_map.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfInputFile.h>
#include <ImfOutputFile.h>
#include <ImfStringAttribute.h>
#include <fmt/format.h>
#include <tiffio.h>

#include <array>
#include <cmath>
#include <limits>
#include <memory>

#include "base/error.h"
#include "base/parallel.h"
#include "base/words.h"
#include "frames/libtiff_guard.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

constexpr int deflate = 8;  // compression number in TIFF
constexpr float nothing = std::numeric_limits<float>::quiet_NaN();
constexpr const char* conventions =
    "displacement in pixels, source minus own place; x right, y down; the middle of pixel (i, j) is (i + 0.5, j + "
    "0.5); "
    "NaN where the lens model does not reach";

bool wrote_exr(const fs::path& path, const std::string&) {
    try {
        const Imf::InputFile in(path.string().c_str());
        const auto* by = in.header().findTypedAttribute<Imf::StringAttribute>("writtenBy");
        return by && by->value().rfind("Optrel", 0) == 0;
    } catch (const std::exception&) {
        return false;
    }
}

bool wrote_map_tiff(const fs::path& path, const std::string&) {
    mute_libtiff();
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(TIFFOpen(path.string().c_str(), "r"), TIFFClose);
    char* program = nullptr;
    return tiff && TIFFGetField(tiff.get(), TIFFTAG_SOFTWARE, &program) && std::string(program).rfind("Optrel", 0) == 0;
}

const OutputFormat& map_tiff_output() {
    static const OutputFormat format{"a 16-bit TIFF of a map", {".tif", ".tiff"}, wrote_map_tiff};
    return format;
}

/// Values of one pixel, in the order of the channel names.
struct Pixel {
    Vec2 green, red, blue;
    std::array<double, 3> gain;
};

std::optional<Pixel> pixel_at(const FrameMap& lens, MapDirection direction, const Vec2& at) {
    if (direction == MapDirection::to_frame) {
        if (!lens.reaches(at)) return std::nullopt;
        // The gain of each colour is taken at the place where its light fell.
        const Vec2 green = lens.green(at), red = lens.fringe(Channel::red, green),
                   blue = lens.fringe(Channel::blue, green);
        return Pixel{green - at,
                     red - at,
                     blue - at,
                     {lens.gain(Channel::red, red), lens.gain(Channel::green, green), lens.gain(Channel::blue, blue)}};
    }
    // Position in the ideal picture whose red or blue light falls on a pixel of the frame.
    const auto ideal_of = [&](Channel channel) -> std::optional<Vec2> {
        Vec2 green = at;
        for (int i = 0; channel != Channel::green && i < 6; ++i) green += at - lens.fringe(channel, green);
        return lens.ideal(green);
    };
    const auto g = ideal_of(Channel::green), r = ideal_of(Channel::red), b = ideal_of(Channel::blue);
    if (!g || !r || !b) return std::nullopt;
    return Pixel{*g - at,
                 *r - at,
                 *b - at,
                 {lens.gain(Channel::red, at), lens.gain(Channel::green, at), lens.gain(Channel::blue, at)}};
}

}  // namespace

std::string to_string(MapDirection direction) { return direction == MapDirection::to_frame ? "to-frame" : "to-ideal"; }

MapDirection map_direction_from(const std::string& text) {
    for (const MapDirection d : {MapDirection::to_frame, MapDirection::to_ideal})
        if (to_string(d) == text) return d;
    throw input_error(fmt::format("'{}' is no direction of a map; choose to-frame or to-ideal.", printable(text)));
}

MapChannels displacement_map(const FrameMap& lens, const MapRequest& wish,
                             const std::function<std::vector<double>(const std::vector<Vec2>&)>& sigma,
                             const Progress& progress) {
    if (wish.sigma && wish.direction == MapDirection::to_ideal)
        throw input_error("The uncertainty is that of places in the frame; ask for it with the direction to-frame.");
    const int width = lens.geometry().width, height = lens.geometry().height;
    MapChannels out;
    const auto plane = [&](const std::string& name) { return out[name] = cv::Mat1f(height, width, nothing); };
    cv::Mat1f x = plane("x"), y = plane("y");
    std::array<cv::Mat1f, 4> coloured;
    if (wish.planes) coloured = {plane("red.x"), plane("red.y"), plane("blue.x"), plane("blue.y")};
    std::array<cv::Mat1f, 3> gain;
    if (wish.gain) gain = {plane("gain.R"), plane("gain.G"), plane("gain.B")};
    parallel_for(height, [&](int row) {
        if (progress.cancelled()) return;
        for (int i = 0; i < width; ++i) {
            const auto p = pixel_at(lens, wish.direction, Vec2(i + 0.5, row + 0.5));
            if (!p) continue;
            const auto put = [&](cv::Mat1f& to, double v) { to(row, i) = static_cast<float>(v); };
            put(x, p->green.x());
            put(y, p->green.y());
            if (wish.planes)
                for (int k = 0; k < 4; ++k)
                    put(coloured[static_cast<std::size_t>(k)], (k < 2 ? p->red : p->blue)(k % 2));
            if (wish.gain)
                for (std::size_t c = 0; c < 3; ++c) put(gain[c], p->gain[c]);
        }
    });
    progress.check();
    if (wish.sigma) {
        // Sigma is smooth, so it is computed on a grid and interpolated bilinearly.
        const int across = std::min(width, 61), down = std::min(height, 41);
        const std::vector<double> at = sigma(picture_grid(lens.geometry(), across, down));
        cv::Mat1f grid(down, across);
        for (int k = 0; k < across * down; ++k) grid(k / across, k % across) = static_cast<float>(at[k]);
        cv::Mat1f& s = out["sigma"] = cv::Mat1f(height, width, nothing);
        for (int row = 0; row < height; ++row)
            for (int i = 0; i < width; ++i) {
                const double u = (i + 0.5) / width * (across - 1), v = (row + 0.5) / height * (down - 1);
                const int l = std::min(across - 2, static_cast<int>(u)), t = std::min(down - 2, static_cast<int>(v));
                const double a = u - l, b = v - t;
                s(row, i) = static_cast<float>((1 - b) * ((1 - a) * grid(t, l) + a * grid(t, l + 1)) +
                                               b * ((1 - a) * grid(t + 1, l) + a * grid(t + 1, l + 1)));
            }
    }
    return out;
}

const OutputFormat& exr_output() {
    static const OutputFormat format{"an OpenEXR map", {".exr"}, wrote_exr};
    return format;
}

void write_exr(const fs::path& path, const MapChannels& channels, MapDirection direction, const std::string& note,
               Existing existing) {
    const cv::Mat1f& first = channels.begin()->second;
    Imf::Header header(first.cols, first.rows);
    header.compression() = Imf::ZIP_COMPRESSION;
    header.insert("writtenBy", Imf::StringAttribute("Optrel " OPTREL_VERSION));
    header.insert("direction", Imf::StringAttribute(to_string(direction)));
    header.insert("conventions", Imf::StringAttribute(conventions));
    header.insert("note", Imf::StringAttribute(note));
    Imf::FrameBuffer buffer;
    for (const auto& [name, plane] : channels) {
        header.channels().insert(name, Imf::Channel(Imf::FLOAT));
        buffer.insert(name, Imf::Slice(Imf::FLOAT, const_cast<char*>(reinterpret_cast<const char*>(plane.data)),
                                       sizeof(float), plane.step));
    }
    write_output_with(path, exr_output(), existing, [&](const fs::path& part) {
        try {
            Imf::OutputFile out(part.string().c_str(), header);
            out.setFrameBuffer(buffer);
            out.writePixels(first.rows);
        } catch (const std::exception& error) {
            throw file_error(fmt::format("{} cannot be written ({}); check the space on the disk.", path.string(),
                                         without_stop(error.what())));
        }
    });
}

namespace {

void write_map_tiff(const fs::path& path, const cv::Mat1f& plane, double scale, const std::string& text,
                    Existing existing) {
    mute_libtiff();
    write_output_with(path, map_tiff_output(), existing, [&](const fs::path& part) {
        const std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff(TIFFOpen(part.string().c_str(), "w"), TIFFClose);
        bool sound = tiff != nullptr;
        const auto set = [&](ttag_t tag, auto value) { sound = sound && TIFFSetField(tiff.get(), tag, value); };
        set(TIFFTAG_IMAGEWIDTH, static_cast<std::uint32_t>(plane.cols));
        set(TIFFTAG_IMAGELENGTH, static_cast<std::uint32_t>(plane.rows));
        set(TIFFTAG_BITSPERSAMPLE, 16);
        set(TIFFTAG_SAMPLESPERPIXEL, 1);
        set(TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK);
        set(TIFFTAG_COMPRESSION, deflate);
        set(TIFFTAG_PREDICTOR, PREDICTOR_HORIZONTAL);
        set(TIFFTAG_ROWSPERSTRIP, 64u);
        set(TIFFTAG_SOFTWARE, "Optrel " OPTREL_VERSION);
        set(TIFFTAG_IMAGEDESCRIPTION, text.c_str());
        std::vector<std::uint16_t> line(static_cast<std::size_t>(plane.cols));
        for (int row = 0; sound && row < plane.rows; ++row) {
            for (int i = 0; i < plane.cols; ++i) {
                const float v = plane(row, i);
                line[static_cast<std::size_t>(i)] =
                    std::isfinite(v) ? static_cast<std::uint16_t>(std::lround(32768 + v * scale)) : std::uint16_t(0);
            }
            sound = TIFFWriteScanline(tiff.get(), line.data(), static_cast<std::uint32_t>(row), 0) >= 0;
        }
        if (!sound || !TIFFFlush(tiff.get()))
            throw file_error(fmt::format("{} cannot be written; check the space on the disk.", path.string()));
    });
}

}  // namespace

double write_tiff_pair(const fs::path& path, const MapChannels& channels, MapDirection direction,
                       const std::string& note, Existing existing) {
    double largest = 0;
    for (const char* name : {"x", "y"})
        for (const float v : channels.at(name))
            if (std::isfinite(v)) largest = std::max(largest, double(std::abs(v)));
    double scale = 4096;
    while (largest * scale > 32767 && scale > 1e-3) scale /= 2;
    const auto named = [&](const char* axis) {
        fs::path out = path;
        return out.replace_filename(path.stem().string() + "-" + axis + path.extension().string());
    };
    for (const char* axis : {"x", "y"}) check_output(named(axis), map_tiff_output(), existing);
    for (const char* axis : {"x", "y"})
        write_map_tiff(named(axis), channels.at(axis), scale,
                       fmt::format("{} {}: pixels = (value - 32768) / {:g}, 0: none; {}; {}", axis,
                                   to_string(direction), scale, conventions, note),
                       existing);
    return scale;
}

}  // namespace optrel

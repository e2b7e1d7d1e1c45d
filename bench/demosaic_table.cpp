// SPDX-License-Identifier: GPL-3.0-or-later
// How well mosaics are interpolated, as the table of docs/demosaicing.md: the rig photographs a specimen sheet and a
// board through a lens without and with lateral colour; the truth is what sensors of one colour each see through the
// lens without. Beside Optrel the methods that the raw library offers, each followed by the same alignment of red and
// blue.
#include <fmt/format.h>
#include <libraw/libraw.h>

#include <chrono>
#include <filesystem>
#include <functional>
#include <opencv2/imgproc.hpp>

#include "calibration/lateral_chromatic.h"
#include "frames/dng_writer.h"
#include "render/colour.h"
#include "render/demosaic.h"
#include "render/resample.h"
#include "rig/camera.h"

namespace optrel::bench {
namespace {

namespace fs = std::filesystem;

rig::Body body() {
    rig::Body b;
    b.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
    return b;
}

rig::Lens lens(bool lateral_colour) {
    rig::Lens l;
    l.focal_mm = 35.4;
    l.cosine_power = 0;
    // 1.3 px in the corner, red outwards and blue inwards.
    if (lateral_colour) {
        l.stretch[0] = {2.2e-4, 6.6e-4};
        l.stretch[2] = {-2.2e-4, -6.0e-4};
    }
    return l;
}

/// The fringe that a profile of the lens would hold.
ProfileNode node_of(const rig::Lens& l, const PictureGeometry& g) {
    ProfileNode n;
    n.focal_mm = l.focal_mm;
    for (const Channel channel : {Channel::red, Channel::blue}) {
        std::vector<ChromaticPoint> points;
        for (const Vec2& at : picture_grid(g, 25, 17)) {
            const cv::Vec2d xy((at - g.middle()).x() * g.pitch_mm() / l.focal_mm,
                               (at - g.middle()).y() * g.pitch_mm() / l.focal_mm);
            const cv::Vec2d green = l.find(1, xy), other = l.find(static_cast<int>(channel), xy);
            points.push_back({{green[0], green[1]}, {other[0] - green[0], other[1] - green[1]}, 1e-3 * g.pitch_mm()});
        }
        (channel == Channel::red ? n.red : n.blue) = fit_lateral_chromatic(points, Vec2::Zero(), g);
    }
    return n;
}

RawPicture photograph(const rig::Scene& scene, const rig::Lens& l, rig::Body b, double distance_mm) {
    rig::Exposure exposure;
    exposure.level = 0.8;
    exposure.seed = 5;
    rig::Placement placement;
    placement.rotation_degrees = {0, 0, 4};
    placement.translation_mm = {0, 0, distance_mm};
    return rig::photograph(b, l, exposure, scene, placement, Progress());
}

/// What a sensor of one colour for each plane would see, without noise.
Planes truth_of(const rig::Scene& scene, double distance_mm) {
    Planes out;
    rig::Body b = body();
    b.full_well = 1e12;
    b.read_noise = 0;
    const auto multiplier = white_balance_multipliers(b.neutral);
    for (int c = 0; c < 3; ++c) {
        b.filter = {{{c, c}, {c, c}}};
        const RawPicture raw = photograph(scene, lens(false), b, distance_mm);
        raw.counts.convertTo(out.channel[c], CV_32F, multiplier[c] / (b.white - b.black),
                             -multiplier[c] * b.black / (b.white - b.black));
    }
    return out;
}

struct Method {
    std::string name;
    std::function<Planes(const RawPicture&, const FrameMap&)> run;
    double seconds = 0;
};

Planes by_optrel(const RawPicture& raw, const FrameMap& map) {
    return demosaic(linear_mosaic(raw, raw.counts, white_balance_multipliers(raw.as_shot_neutral), nullptr), raw.filter,
                    &map);
}

/// The raw library's interpolation, then alignment by resampling; `seconds` of its own processing without reading.
Planes by_library(int quality, const RawPicture& raw, const FrameMap& map, const fs::path& folder, double& seconds) {
    const fs::path path = folder / "mosaic.dng";
    Metadata m;
    m.maker = "Brimholt";
    m.model = "B2";
    write_dng(path, raw, m, Existing::replace_ours);
    const auto library = std::make_unique<LibRaw>();
    auto& how = library->imgdata.params;
    how.user_qual = quality;
    how.output_color = 0;
    how.output_bps = 16;
    how.gamm[0] = how.gamm[1] = 1;
    how.no_auto_bright = 1;
    how.use_camera_wb = 1;
    how.user_flip = 0;
    if (library->open_file(path.c_str()) != 0 || library->unpack() != 0)
        throw input_error("The raw library cannot read the rig's mosaic.");
    const auto began = std::chrono::steady_clock::now();
    library->dcraw_process();
    seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    int status = 0;
    libraw_processed_image_t* image = library->dcraw_make_mem_image(&status);
    const cv::Mat3w rgb(image->height, image->width, reinterpret_cast<cv::Vec3w*>(image->data));
    Planes planes;
    for (int c = 0; c < 3; ++c) {
        cv::Mat counts;
        cv::extractChannel(rgb, counts, c);
        counts.convertTo(planes.channel[c], CV_32F, 1 / 65535.0);
    }
    LibRaw::dcraw_clear_mem(image);
    // To the same scale as the mosaic: the library normalises by its own multipliers.
    const Planes own = by_optrel(raw, map);
    const double scale = cv::mean(own.channel[1])[0] / cv::mean(planes.channel[1])[0];
    for (cv::Mat1f& c : planes.channel) c *= scale;
    return resample(planes, PictureView(map), ColourPlanes::as_recorded, Progress());
}

cv::Mat1b where_of(const cv::Size& size, bool corners_only) {
    cv::Mat1b out(size, 0);
    for (int row = 24; row < size.height - 24; ++row)
        for (int i = 24; i < size.width - 24; ++i)
            out(row, i) = !corners_only || std::hypot(i - size.width / 2.0, row - size.height / 2.0) >
                                               0.35 * std::hypot(size.width, size.height);
    return out;
}

double psnr(const Planes& a, const Planes& b, const cv::Mat1b& where) {
    double sum = 0;
    for (int c = 0; c < 3; ++c) {
        const double d = cv::norm(a.channel[c], b.channel[c], cv::NORM_L2, where);
        sum += d * d;
    }
    return 10 * std::log10(3.0 * cv::countNonZero(where) / sum);
}

/// RMS error of red and blue against green, in percent of white.
double colour_error(const Planes& a, const Planes& truth, const cv::Mat1b& where) {
    double sum = 0;
    for (const int c : {0, 2}) {
        const double d = cv::norm(a.channel[c] - a.channel[1], truth.channel[c] - truth.channel[1], cv::NORM_L2, where);
        sum += d * d;
    }
    return 100 * std::sqrt(sum / (2.0 * cv::countNonZero(where)));
}

/// Of the edges of a grey board: how much of their contrast is colour, 95th percentile over the pixels at edges.
double colour_at_edges(const Planes& a, const cv::Mat1b& where) {
    cv::Mat1f low, high;
    const cv::Mat kernel = cv::getStructuringElement(cv::MORPH_RECT, {7, 7});
    cv::erode(a.channel[1], low, kernel);
    cv::dilate(a.channel[1], high, kernel);
    std::vector<float> shares;
    for (int row = 0; row < where.rows; ++row)
        for (int i = 0; i < where.cols; ++i) {
            const float contrast = high(row, i) - low(row, i);
            if (!where(row, i) || contrast < 0.3f) continue;
            const float g = a.channel[1](row, i);
            shares.push_back(std::max(std::abs(a.channel[0](row, i) - g), std::abs(a.channel[2](row, i) - g)) /
                             contrast);
        }
    const auto at = shares.begin() + static_cast<std::ptrdiff_t>(0.95 * (shares.size() - 1));
    std::nth_element(shares.begin(), at, shares.end());
    return 100 * *at;
}

int run() {
    const fs::path folder = fs::temp_directory_path() / "optrel-demosaic-table";
    fs::create_directories(folder);
    const PictureGeometry g{body().width, body().height, body().pitch_um};
    rig::Board board;
    board.squares_x = 60;
    board.squares_y = 40;
    board.square_mm = 12;
    const rig::BoardScene edges(board);
    const rig::SpecimenScene specimen(7);
    constexpr double near_mm = 900;
    const Planes truth = truth_of(specimen, near_mm);
    const cv::Mat1b everywhere = where_of(truth.size(), false), corners = where_of(truth.size(), true);

    std::vector<Method> methods;
    methods.push_back({"Optrel", by_optrel});
    for (const auto& [name, quality] :
         {std::pair("bilinear", 0), {"VNG", 1}, {"PPG", 2}, {"AHD", 3}, {"DCB", 4}, {"DHT", 11}})
        methods.push_back({fmt::format("the raw library's {}", name),
                           [=, quality = quality](const RawPicture& raw, const FrameMap& map) {
                               double seconds = 0;
                               return by_library(quality, raw, map, folder, seconds);
                           }});
    fmt::print(
        "| method | PSNR, no lateral colour | PSNR, 1.3 px | colour error, none | colour error, 1.3 px | colour at "
        "edges, none | colour at edges, 1.3 px | time |\n|---|---|---|---|---|---|---|---|\n");
    double own_seconds = 0;
    for (std::size_t k = 0; k < methods.size(); ++k) {
        double fidelity[2], colour[2], edge[2], seconds = 0;
        for (const int lateral : {0, 1}) {
            const rig::Lens l = lens(lateral == 1);
            const FrameMap map(node_of(l, g), g, g);
            const RawPicture sheet = photograph(specimen, l, body(), near_mm),
                             grey = photograph(edges, l, body(), near_mm);
            const Planes a = methods[k].run(sheet, map);
            fidelity[lateral] = psnr(a, truth, corners);
            colour[lateral] = colour_error(a, truth, corners);
            edge[lateral] = colour_at_edges(methods[k].run(grey, map), corners);
            const auto began = std::chrono::steady_clock::now();
            double library = 0;
            if (k == 0)
                by_optrel(sheet, map);
            else
                by_library(std::array{0, 1, 2, 3, 4, 11}[k - 1], sheet, map, folder, library);
            seconds +=
                k == 0 ? std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count() : library;
        }
        if (k == 0) own_seconds = seconds;
        fmt::print("| {} | {:.1f} dB | {:.1f} dB | {:.2f} % | {:.2f} % | {:.1f} % | {:.1f} % | {:.1f} |\n",
                   methods[k].name, fidelity[0], fidelity[1], colour[0], colour[1], edge[0], edge[1],
                   seconds / own_seconds);
    }
    fs::remove_all(folder);
    return 0;
}

}  // namespace
}  // namespace optrel::bench

int main() { return optrel::bench::run(); }

// SPDX-License-Identifier: GPL-3.0-or-later
// A film of 1920 x 1080 that is corrected, beside the same film that is only decoded and coded once more; in turns, in
// the same run, for each coding. And the most memory it took.
//
//   optrel-bench-film [PICTURES]
#include <fmt/format.h>
#include <sys/resource.h>

#include <algorithm>
#include <chrono>
#include <filesystem>

#include "films/correct_film.h"
#include "rig/film.h"
#include "rig/scenario.h"
#include "sample_lens.h"

namespace {

using namespace optrel;
namespace fs = std::filesystem;

constexpr double area_mm = 23.16;

double seconds(const FilmOrder& order, const fs::path& out, FilmCodec codec) {
    Progress progress;
    const auto from = std::chrono::steady_clock::now();
    correct_film(order, out, codec, Existing::replace_ours, progress);
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

}  // namespace

int main(int argc, char** argv) {
    const int pictures = argc > 1 ? std::max(10, std::atoi(argv[1])) : 100;
    const fs::path folder = fs::temp_directory_path() / "optrel-bench-film";
    fs::create_directories(folder);
    Progress progress;
    rig::make_film(rig::scenario_lens(rig::demo_scenario()), {cv::Size(1920, 1080), pictures, area_mm},
                   folder / "rig.mkv", Existing::replace_ours, progress);
    const FilmSource taken{35, area_mm};
    seconds({folder / "rig.mkv", taken, neutral_start(), std::nullopt}, folder / "shot.mp4", FilmCodec::h264);
    const FilmOrder plain{folder / "shot.mp4", taken, neutral_start(), std::nullopt};
    FilmOrder corrected = plain;
    corrected.profile = AppliedProfile{bench::sample_node(), bench::geometry_24mp()};
    fmt::print("H.264, {} pictures of 1920 x 1080, to:\n", pictures);
    for (const FilmCodec codec : {FilmCodec::h264_intra, FilmCodec::vc3, FilmCodec::ffv1, FilmCodec::h264}) {
        double with = 1e9, without = 1e9;
        for (int i = 0; i < 2; ++i) {
            without = std::min(without, seconds(plain, folder / "plain.mkv", codec));
            with = std::min(with, seconds(corrected, folder / "corrected.mkv", codec));
        }
        fmt::print("{:12} {:5.1f} a second corrected, {:5.1f} coded alone: {:.2f} of its time\n", to_string(codec),
                   pictures / with, pictures / without, with / without);
    }
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    fmt::print("most memory: {:.0f} MB\n", static_cast<double>(usage.ru_maxrss) / 1024);
    fs::remove_all(folder);
}

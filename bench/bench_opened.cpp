// SPDX-License-Identifier: GPL-3.0-or-later
// What developing a frame asks of its file besides the samples: of a file that is opened once, beside opening it anew
// for each question.
#include <benchmark/benchmark.h>

#include <filesystem>

#include "frames/colour_profile.h"
#include "frames/dng_writer.h"
#include "frames/metadata.h"

namespace optrel::bench {
namespace {

namespace fs = std::filesystem;

const fs::path& frame_file() {
    static const fs::path file = [] {
        RawPicture raw;
        raw.counts = cv::Mat1w(1200, 1600, std::uint16_t{9000});
        raw.filter = {{{0, 1}, {1, 2}}};
        raw.black = {{{2048, 2048}, {2048, 2048}}};
        raw.white = 63000;
        Metadata m;
        m.maker = "Brimholt";
        m.model = "Brimholt B2";
        m.body_serial = "77";
        m.lens = "Lumenfold 35mm f/2.8";
        m.iso = 400;
        m.focal_mm = 35;
        const fs::path out = fs::temp_directory_path() / "optrel-bench-opened.dng";
        fs::remove(out);
        write_dng(out, raw, m);
        return out;
    }();
    return file;
}

template <class Asked>
void ask_everything(const Asked& asked) {
    benchmark::DoNotOptimize(sniff_kind(asked));
    benchmark::DoNotOptimize(read_metadata(asked));
    benchmark::DoNotOptimize(stated_visible_part(asked));
    benchmark::DoNotOptimize(read_rendering(asked));
    benchmark::DoNotOptimize(embedded_colours(asked));
}

void opened_for_each_question(benchmark::State& state) {
    for (auto _ : state) ask_everything(frame_file());
}
void opened_once(benchmark::State& state) {
    for (auto _ : state) ask_everything(OpenedFrame(frame_file()));
}
BENCHMARK(opened_for_each_question)->Unit(benchmark::kMicrosecond);
BENCHMARK(opened_once)->Unit(benchmark::kMicrosecond);

}  // namespace
}  // namespace optrel::bench

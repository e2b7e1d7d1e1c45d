// SPDX-License-Identifier: GPL-3.0-or-later
// The resampling step on 24 megapixels: ours against OpenCV's remap with cubic interpolation, its maps made in the same
// run, one for each colour.
#include <benchmark/benchmark.h>

#include <opencv2/imgproc.hpp>

#include "base/parallel.h"
#include "render/resample.h"
#include "sample_lens.h"

namespace optrel::bench {
namespace {

const Planes& picture() {
    static const Planes planes = [] {
        Planes p(cv::Size(geometry_24mp().width, geometry_24mp().height));
        cv::RNG random(7);
        for (cv::Mat1f& c : p.channel) random.fill(c, cv::RNG::UNIFORM, 0.f, 1.f);
        return p;
    }();
    return planes;
}

void resample_optrel(benchmark::State& state) {
    const FrameMap map(sample_node(), geometry_24mp(), geometry_24mp());
    const Planes& in = picture();
    for (auto _ : state)
        benchmark::DoNotOptimize(resample(in, PictureView(map).at_scale(1.01), ColourPlanes::as_recorded, Progress()));
}

void resample_remap(benchmark::State& state) {
    const ProfileNode node = sample_node();
    const FrameMap map(node, geometry_24mp(), geometry_24mp());
    const Planes& in = picture();
    const int width = geometry_24mp().width, height = geometry_24mp().height;
    for (auto _ : state) {
        Planes out(in.size());
        for (int c = 0; c < 3; ++c) {
            cv::Mat1f x(height, width), y(height, width);
            parallel_for(
                height,
                [&](int row) {
                    for (int i = 0; i < width; ++i) {
                        const Vec2 middle = geometry_24mp().middle(), at(i + 0.5, row + 0.5);
                        const Vec2 green = map.green(middle + (at - middle) / 1.01);
                        const Vec2 p = c == 1 ? green : map.fringe(static_cast<Channel>(c), green);
                        x(row, i) = static_cast<float>(p.x() - 0.5);
                        y(row, i) = static_cast<float>(p.y() - 0.5);
                    }
                },
                16);
            cv::remap(in.channel[c], out.channel[c], x, y, cv::INTER_CUBIC, cv::BORDER_CONSTANT);
        }
        benchmark::DoNotOptimize(out);
    }
}

BENCHMARK(resample_optrel)->Name("resample_24mp/optrel")->Iterations(5)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(resample_remap)
    ->Name("resample_24mp/remap_with_its_maps")
    ->Iterations(3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace optrel::bench

// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/resample.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/cubic.h"
#include "render/strips.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "render/resample.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace optrel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

constexpr int block = 8;

/// Keys' weights of the taps at -1, 0, 1, 2 for fractions f in [0, 1), a = -1/2.
template <class D, class V>
HWY_INLINE void weights(D d, V f, V& w0, V& w1, V& w2, V& w3) {
    const V f2 = hn::Mul(f, f), half = hn::Set(d, 0.5f);
    // w0 = -f/2 + f^2 - f^3/2;  w1 = 1 - 5/2 f^2 + 3/2 f^3;  w2 = f/2 + 2 f^2 - 3/2 f^3;  w3 = -f^2/2 + f^3/2
    w3 = hn::Mul(half, hn::Mul(f2, hn::Sub(f, hn::Set(d, 1.0f))));
    w0 = hn::Sub(hn::Sub(hn::Mul(half, f2), hn::Mul(half, f)), w3);
    w1 = hn::Add(hn::Sub(hn::Set(d, 1.0f), f2), hn::Mul(hn::Set(d, 3.0f), w3));
    w2 = hn::Sub(hn::Sub(hn::Sub(hn::Set(d, 1.0f), w0), w1), w3);
}

float careful(const float* in, std::ptrdiff_t stride, int width, int height, float x, float y, float empty) {
    // Positions are in samples (centre of sample i at i); the frame reaches half a sample beyond the outer centres.
    if (!(x >= -0.5f && y >= -0.5f && x <= width - 0.5f && y <= height - 0.5f)) return empty;
    const int ix = static_cast<int>(std::floor(x)), iy = static_cast<int>(std::floor(y));
    float wx[4], wy[4];
    cubic_weights(x - ix, wx);
    cubic_weights(y - iy, wy);
    float sum = 0;
    for (int j = 0; j < 4; ++j) {
        const float* row = in + std::clamp(iy - 1 + j, 0, height - 1) * stride;
        float line = 0;
        for (int i = 0; i < 4; ++i) line += wx[i] * row[std::clamp(ix - 1 + i, 0, width - 1)];
        sum += wy[j] * line;
    }
    return sum;
}

/// One row: positions are given at every 8th output pixel and are linear between. `out` has `count` pixels.
void resample_row(const float* in, std::ptrdiff_t stride, int width, int height, const float* node_x,
                  const float* node_y, float* out, int count, float empty) {
    const hn::CappedTag<float, block> d;
    const hn::CappedTag<float, 4> d4;
    const hn::Rebind<int32_t, decltype(d)> di;
    const int lanes = static_cast<int>(hn::Lanes(d));
    HWY_ALIGN float x[block], y[block], wx[block * 4], wy[block * 4];
    HWY_ALIGN int32_t ix[block], iy[block];
    for (int i = 0; i < count; i += block, ++node_x, ++node_y) {
        const float step_x = (node_x[1] - node_x[0]) / block, step_y = (node_y[1] - node_y[0]) / block;
        for (int k = 0; k < block; ++k) {
            x[k] = node_x[0] + k * step_x;
            y[k] = node_y[0] + k * step_y;
        }
        const int n = std::min(block, count - i);
        const float low_x = std::min(x[0], x[block - 1]), high_x = std::max(x[0], x[block - 1]);
        const float low_y = std::min(y[0], y[block - 1]), high_y = std::max(y[0], y[block - 1]);
        if (!(low_x >= 1 && low_y >= 1 && high_x < width - 3 && high_y < height - 3)) {
            for (int k = 0; k < n; ++k) out[i + k] = careful(in, stride, width, height, x[k], y[k], empty);
            continue;
        }
        for (int k = 0; k < block; k += lanes) {
            const auto vx = hn::Load(d, x + k), vy = hn::Load(d, y + k);
            const auto jx = hn::ConvertTo(di, vx), jy = hn::ConvertTo(di, vy);  // positive, so truncation is floor
            hn::Store(jx, di, ix + k);
            hn::Store(jy, di, iy + k);
            auto w0 = vx, w1 = vx, w2 = vx, w3 = vx;
            weights(d, hn::Sub(vx, hn::ConvertTo(d, jx)), w0, w1, w2, w3);
            hn::StoreInterleaved4(w0, w1, w2, w3, d, wx + 4 * k);
            weights(d, hn::Sub(vy, hn::ConvertTo(d, jy)), w0, w1, w2, w3);
            hn::StoreInterleaved4(w0, w1, w2, w3, d, wy + 4 * k);
        }
        for (int k = 0; k < n; ++k) {
            const float* p = in + (iy[k] - 1) * stride + ix[k] - 1;
            const float* w = wy + 4 * k;
            auto column = hn::Mul(hn::LoadU(d4, p), hn::Set(d4, w[0]));
            column = hn::MulAdd(hn::LoadU(d4, p + stride), hn::Set(d4, w[1]), column);
            column = hn::MulAdd(hn::LoadU(d4, p + 2 * stride), hn::Set(d4, w[2]), column);
            column = hn::MulAdd(hn::LoadU(d4, p + 3 * stride), hn::Set(d4, w[3]), column);
            out[i + k] = hn::GetLane(hn::SumOfLanes(d4, hn::Mul(column, hn::Load(d4, wx + 4 * k))));
        }
    }
}

}  // namespace HWY_NAMESPACE
}  // namespace optrel
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace optrel {
HWY_EXPORT(resample_row);

namespace {

constexpr int mesh = 8;

/// Sample positions (sample centres at integers) along one line of the mesh, for each colour.
struct MeshLine {
    std::vector<float> x[3], y[3];

    void compute(const PictureView& view, const Sampling& from, const Sampling& to, double row, Fringes fringes) {
        const int nodes = (to.size.width + mesh - 1) / mesh + 1;
        for (int c = 0; c < 3; ++c) {
            x[c].resize(nodes);
            y[c].resize(nodes);
        }
        for (int i = 0; i < nodes; ++i) {
            const Vec2 place(to.left + (i * mesh + 0.5) * to.step, to.top + (row + 0.5) * to.step);
            const std::optional<Vec2> green = view.green(place);
            for (int c = 0; c < 3; ++c) {
                if (!green) {
                    x[c][i] = y[c][i] = -1e6f;
                    continue;
                }
                const Vec2 p = c == 1 || fringes == Fringes::aligned
                                   ? *green
                                   : view.lens().fringe(static_cast<Channel>(c), *green);
                x[c][i] = static_cast<float>((p.x() - from.left) / from.step - 0.5);
                y[c][i] = static_cast<float>((p.y() - from.top) / from.step - 0.5);
            }
        }
    }
};

}  // namespace

Planes resample(const Planes& in, const Sampling& from, const PictureView& view, const Sampling& to, Fringes fringes,
                const Progress& progress, float empty) {
    Planes out(to.size);
    const int bands = (to.size.height + mesh - 1) / mesh;
    parallel_for(
        bands,
        [&](int band) {
            if (progress.cancelled()) return;
            const int first = band * mesh, end = std::min(to.size.height, first + mesh);
            MeshLine above, below;
            above.compute(view, from, to, first, fringes);
            below.compute(view, from, to, first + mesh, fringes);
            const std::size_t nodes = above.x[0].size();
            std::vector<float> row_x(nodes), row_y(nodes);
            for (int row = first; row < end; ++row) {
                const float t = static_cast<float>(row - first) / mesh;
                for (int c = 0; c < 3; ++c) {
                    for (std::size_t i = 0; i < nodes; ++i) {
                        row_x[i] = above.x[c][i] + t * (below.x[c][i] - above.x[c][i]);
                        row_y[i] = above.y[c][i] + t * (below.y[c][i] - above.y[c][i]);
                    }
                    const cv::Mat1f& source = in.channel[c];
                    HWY_DYNAMIC_DISPATCH(resample_row)
                    (source.ptr<float>(), static_cast<std::ptrdiff_t>(source.step1()), source.cols, source.rows,
                     row_x.data(), row_y.data(), out.channel[c].ptr<float>(row), to.size.width, empty);
                }
            }
        },
        4);
    progress.check();
    return out;
}

}  // namespace optrel
#endif

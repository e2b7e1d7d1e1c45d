// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/row_sampling.h"

#include <algorithm>
#include <cmath>

#include "base/cubic.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "render/row_sampling.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace optrel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

constexpr int block = row_nodes_apart;

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

/// One place near an edge or beyond it.
float careful(const PlaneSamples& in, float x, float y, bool goes_on, float beyond) {
    if (!goes_on && !(x >= -0.5f && y >= -0.5f && x <= in.width - 0.5f && y <= in.height - 0.5f)) return beyond;
    const int ix = static_cast<int>(std::floor(x)), iy = static_cast<int>(std::floor(y));
    float wx[4], wy[4];
    cubic_weights(x - ix, wx);
    cubic_weights(y - iy, wy);
    float sum = 0;
    for (int j = 0; j < 4; ++j) {
        const float* row = in.first + std::clamp(iy - 1 + j, 0, in.height - 1) * in.stride;
        float line = 0;
        for (int i = 0; i < 4; ++i) line += wx[i] * row[std::clamp(ix - 1 + i, 0, in.width - 1)];
        sum += wy[j] * line;
    }
    return sum;
}

/// The places between two nodes, and whether all that lies `before` to `after` samples about them is in the plane.
struct Block {
    HWY_ALIGN float x[block], y[block];

    void between(const float* node_x, const float* node_y) {
        const float step_x = (node_x[1] - node_x[0]) / block, step_y = (node_y[1] - node_y[0]) / block;
        for (int k = 0; k < block; ++k) {
            x[k] = node_x[0] + k * step_x;
            y[k] = node_y[0] + k * step_y;
        }
    }
    bool inside(const PlaneSamples& in, int before, int after) const {
        const auto [low_x, high_x] = std::minmax(x[0], x[block - 1]);
        const auto [low_y, high_y] = std::minmax(y[0], y[block - 1]);
        return low_x >= before && low_y >= before && high_x < in.width - after && high_y < in.height - after;
    }
};

/// `planes` planes of one size, at the same places.
template <int planes>
HWY_INLINE void cubic(const PlaneSamples* in, const float* node_x, const float* node_y, int count, bool goes_on,
                      float beyond, float* const* out) {
    const hn::CappedTag<float, block> d;
    const hn::CappedTag<float, 4> d4;
    const hn::Rebind<int32_t, decltype(d)> di;
    const int lanes = static_cast<int>(hn::Lanes(d));
    Block at;
    HWY_ALIGN float wx[block * 4], wy[block * 4];
    HWY_ALIGN int32_t ix[block], iy[block];
    for (int i = 0; i < count; i += block, ++node_x, ++node_y) {
        at.between(node_x, node_y);
        const int n = std::min(block, count - i);
        if (!at.inside(in[0], 1, 3)) {
            for (int p = 0; p < planes; ++p)
                for (int k = 0; k < n; ++k) out[p][i + k] = careful(in[p], at.x[k], at.y[k], goes_on, beyond);
            continue;
        }
        for (int k = 0; k < block; k += lanes) {
            const auto vx = hn::Load(d, at.x + k), vy = hn::Load(d, at.y + k);
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
            const std::ptrdiff_t first = (iy[k] - 1) * in[0].stride + ix[k] - 1;
            const auto w0 = hn::Set(d4, wy[4 * k]), w1 = hn::Set(d4, wy[4 * k + 1]), w2 = hn::Set(d4, wy[4 * k + 2]),
                       w3 = hn::Set(d4, wy[4 * k + 3]), across = hn::Load(d4, wx + 4 * k);
            for (int p = 0; p < planes; ++p) {
                const float* s = in[p].first + first;
                const std::ptrdiff_t stride = in[p].stride;
                auto column = hn::Mul(hn::LoadU(d4, s), w0);
                column = hn::MulAdd(hn::LoadU(d4, s + stride), w1, column);
                column = hn::MulAdd(hn::LoadU(d4, s + 2 * stride), w2, column);
                column = hn::MulAdd(hn::LoadU(d4, s + 3 * stride), w3, column);
                out[p][i + k] = hn::GetLane(hn::SumOfLanes(d4, hn::Mul(column, across)));
            }
        }
    }
}

void cubic_one(const PlaneSamples* in, const float* node_x, const float* node_y, int count, bool goes_on, float beyond,
               float* const* out) {
    cubic<1>(in, node_x, node_y, count, goes_on, beyond, out);
}
void cubic_three(const PlaneSamples* in, const float* node_x, const float* node_y, int count, bool goes_on,
                 float beyond, float* const* out) {
    cubic<3>(in, node_x, node_y, count, goes_on, beyond, out);
}

float linear_at(const PlaneSamples& in, float x, float y) {
    x = std::clamp(x, 0.f, in.width - 1.001f);
    y = std::clamp(y, 0.f, in.height - 1.001f);
    const int ix = static_cast<int>(x), iy = static_cast<int>(y);
    const float fx = x - ix, fy = y - iy;
    const float* p = in.first + iy * in.stride + ix;
    const float* q = p + in.stride;
    const float top = p[0] + fx * (p[1] - p[0]), low = q[0] + fx * (q[1] - q[0]);
    return top + fy * (low - top);
}

void linear(const PlaneSamples& in, const float* node_x, const float* node_y, int count, const float* base,
            float* out) {
    const hn::CappedTag<float, block> d;
    const hn::Rebind<int32_t, decltype(d)> di;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto stride = hn::Set(di, static_cast<int32_t>(in.stride));
    Block at;
    for (int i = 0; i < count; i += block, ++node_x, ++node_y) {
        at.between(node_x, node_y);
        const int n = std::min(block, count - i);
        if (n < block || !at.inside(in, 0, 2)) {
            for (int k = 0; k < n; ++k) out[i + k] = base[i + k] + linear_at(in, at.x[k], at.y[k]);
            continue;
        }
        for (int k = 0; k < block; k += lanes) {
            const auto x = hn::Load(d, at.x + k), y = hn::Load(d, at.y + k);
            const auto ix = hn::ConvertTo(di, x), iy = hn::ConvertTo(di, y);
            const auto fx = hn::Sub(x, hn::ConvertTo(d, ix)), fy = hn::Sub(y, hn::ConvertTo(d, iy));
            const auto index = hn::Add(hn::Mul(iy, stride), ix);
            const auto a = hn::GatherIndex(d, in.first, index), b = hn::GatherIndex(d, in.first + 1, index),
                       p = hn::GatherIndex(d, in.first + in.stride, index),
                       q = hn::GatherIndex(d, in.first + in.stride + 1, index);
            const auto top = hn::MulAdd(fx, hn::Sub(b, a), a), low = hn::MulAdd(fx, hn::Sub(q, p), p);
            hn::StoreU(hn::Add(hn::LoadU(d, base + i + k), hn::MulAdd(fy, hn::Sub(low, top), top)), d, out + i + k);
        }
    }
}

}  // namespace HWY_NAMESPACE
}  // namespace optrel
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace optrel {
HWY_EXPORT(cubic_one);
HWY_EXPORT(cubic_three);
HWY_EXPORT(linear);

namespace {

PlaneSamples samples_of(const cv::Mat1f& plane) {
    return {plane.ptr<float>(), static_cast<std::ptrdiff_t>(plane.step1()), plane.cols, plane.rows};
}

}  // namespace

void cubic_row(const cv::Mat1f& plane, const RowPlaces& places, std::optional<float> beyond, float* out) {
    const PlaneSamples in = samples_of(plane);
    HWY_DYNAMIC_DISPATCH(cubic_one)(&in, places.x, places.y, places.count, !beyond, beyond.value_or(0), &out);
}

void cubic_rows(const std::array<cv::Mat1f, 3>& planes, const RowPlaces& places, std::optional<float> beyond,
                const std::array<float*, 3>& out) {
    const PlaneSamples in[] = {samples_of(planes[0]), samples_of(planes[1]), samples_of(planes[2])};
    HWY_DYNAMIC_DISPATCH(cubic_three)(in, places.x, places.y, places.count, !beyond, beyond.value_or(0), out.data());
}

void linear_row(const cv::Mat1f& plane, const RowPlaces& places, const float* base, float* out) {
    HWY_DYNAMIC_DISPATCH(linear)(samples_of(plane), places.x, places.y, places.count, base, out);
}

}  // namespace optrel
#endif

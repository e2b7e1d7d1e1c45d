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

/// One place near an edge or outside, in scalar code.
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

/// The places between two nodes.
struct Block {
    float x0, y0, step_x, step_y;

    Block(const float* node_x, const float* node_y)
        : x0(node_x[0]),
          y0(node_y[0]),
          step_x((node_x[1] - node_x[0]) * (1.f / block)),
          step_y((node_y[1] - node_y[0]) * (1.f / block)) {}
    float x(int k) const { return x0 + static_cast<float>(k) * step_x; }
    float y(int k) const { return y0 + static_cast<float>(k) * step_y; }

    /// True when all samples from `before` to `after` around the places are in the plane.
    bool inside(const PlaneSamples& in, int before, int after) const {
        const float end_x = x(block - 1), end_y = y(block - 1);
        return std::min(x0, end_x) >= static_cast<float>(before) && std::min(y0, end_y) >= static_cast<float>(before) &&
               std::max(x0, end_x) < static_cast<float>(in.width - after) &&
               std::max(y0, end_y) < static_cast<float>(in.height - after);
    }
};

/// First samples of places that are computed together: consecutive ones differ by `step`, or by one more. Places are
/// positive here.
struct Samples {
    int column, row;  ///< of the first place
    bool even;        ///< the samples are spaced as described
    bool level;       ///< all in one row
    bool aligned;     ///< and all exactly `step` apart

    /// For places on a line whose last one is `apart` places after the first.
    Samples(float x, float y, float last_x, float last_y, int apart, int step)
        : column(static_cast<int>(x)), row(static_cast<int>(y)) {
        const int drift_x = static_cast<int>(last_x) - column - step * apart, drift_y = static_cast<int>(last_y) - row;
        column += std::min(0, drift_x);
        row += std::min(0, drift_y);
        even = std::abs(drift_x) <= 1 && std::abs(drift_y) <= 1;
        level = drift_y == 0;
        aligned = level && drift_x == 0;
    }
};

/// Weights of the five taps, starting at the first sample that any of the places needs. For places whose samples begin
/// one later the first weight is zero, for the others the last.
template <class V>
struct FiveWeights {
    V w[5];

    template <class D, class M>
    HWY_INLINE FiveWeights(D d, V fraction, M later) {
        V a = fraction, b = fraction, c = fraction, e = fraction;
        weights(d, fraction, a, b, c, e);
        w[0] = hn::IfThenZeroElse(later, a);
        w[1] = hn::IfThenElse(later, a, b);
        w[2] = hn::IfThenElse(later, b, c);
        w[3] = hn::IfThenElse(later, c, e);
        w[4] = hn::IfThenElseZero(later, e);
    }
};

/// The four taps of places that all begin at the same sample.
template <class V>
struct FourWeights {
    V w[4];

    template <class D>
    HWY_INLINE FourWeights(D d, V fraction) {
        weights(d, fraction, w[0], w[1], w[2], w[3]);
    }
};

/// Interpolation along a row, at places that are `step` samples apart.
template <int step, class D, class V>
HWY_INLINE V across(D d, const float* s, const FiveWeights<V>& x) {
    if (step == 1) {
        V sum = hn::Mul(hn::LoadU(d, s), x.w[0]);
        for (int i = 1; i < 5; ++i) sum = hn::MulAdd(hn::LoadU(d, s + i), x.w[i], sum);
        return sum;
    }
    V a = hn::Zero(d), b = a, c = a, e = a, f = a, unused = a;
    hn::LoadInterleaved2(d, s, a, b);
    hn::LoadInterleaved2(d, s + 2, c, e);
    hn::LoadInterleaved2(d, s + 4, f, unused);
    V sum = hn::Mul(a, x.w[0]);
    sum = hn::MulAdd(b, x.w[1], sum);
    sum = hn::MulAdd(c, x.w[2], sum);
    sum = hn::MulAdd(e, x.w[3], sum);
    return hn::MulAdd(f, x.w[4], sum);
}
template <int step, class D, class V>
HWY_INLINE V across(D d, const float* s, const FourWeights<V>& x) {
    V a = hn::Zero(d), b = a, c = a, e = a;
    if (step == 1) {
        a = hn::LoadU(d, s);
        b = hn::LoadU(d, s + 1);
        c = hn::LoadU(d, s + 2);
        e = hn::LoadU(d, s + 3);
    } else {
        hn::LoadInterleaved2(d, s, a, b);
        hn::LoadInterleaved2(d, s + 2, c, e);
    }
    return hn::MulAdd(e, x.w[3], hn::MulAdd(c, x.w[2], hn::MulAdd(b, x.w[1], hn::Mul(a, x.w[0]))));
}
/// Interpolation across `taps` rows, of each plane.
template <int planes, int step, int taps, class D, class W>
HWY_INLINE void sum_rows(D d, const PlaneSamples* in, std::ptrdiff_t row, std::ptrdiff_t column, const W& wx,
                         const W& wy, int k, float* const* out) {
    for (int p = 0; p < planes; ++p) {
        const std::ptrdiff_t stride = in[p].stride;
        const float* s = in[p].first + (row - 1) * stride + column - 1;
        auto sum = hn::Mul(across<step>(d, s, wx), wy.w[0]);
        for (int j = 1; j < taps; ++j) sum = hn::MulAdd(across<step>(d, s + j * stride, wx), wy.w[j], sum);
        hn::StoreU(sum, d, out[p] + k);
    }
}

/// The places of a vector whose samples are spaced as described.
template <int planes, int step, class D, class V>
HWY_INLINE void cubic_vector(D d, const PlaneSamples* in, const Samples& at, V x, V y, int k, float* const* out) {
    const auto one = hn::Set(d, 1.f);
    const V columns = hn::MulAdd(hn::Iota(d, 0), hn::Set(d, static_cast<float>(step)),
                                 hn::Set(d, static_cast<float>(at.column))),
            rows = hn::Set(d, static_cast<float>(at.row));
    // A place on a sample may be rounded to either side; its weights are nearly equal then.
    if (at.aligned) {
        const FourWeights<V> wx(d, hn::Sub(x, columns)), wy(d, hn::Sub(y, rows));
        sum_rows<planes, step, 4>(d, in, at.row, at.column, wx, wy, k, out);
        return;
    }
    const auto later_x = hn::Ge(x, hn::Add(columns, one)), later_y = hn::Ge(y, hn::Add(rows, one));
    const FiveWeights<V> wx(d, hn::Sub(hn::Sub(x, columns), hn::IfThenElseZero(later_x, one)), later_x),
        wy(d, hn::Sub(hn::Sub(y, rows), hn::IfThenElseZero(later_y, one)), later_y);
    if (at.level)
        sum_rows<planes, step, 4>(d, in, at.row, at.column, wx, wy, k, out);
    else
        sum_rows<planes, step, 5>(d, in, at.row, at.column, wx, wy, k, out);
}

/// Computes a vector of consecutive places at once; false when they are not regular enough.
template <int planes, int step>
HWY_INLINE bool cubic_together(const PlaneSamples* in, const Block& at, float* const* out) {
    const hn::CappedTag<float, block> d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    for (int k = 0; k < block; k += lanes) {
        const int last = k + lanes - 1;
        const Samples samples(at.x(k), at.y(k), at.x(last), at.y(last), lanes - 1, step);
        // Loads must end within the row.
        if (!samples.even || samples.column + step * lanes + 4 > in[0].width) return false;
        const auto count = hn::Iota(d, static_cast<float>(k));
        cubic_vector<planes, step>(d, in, samples, hn::MulAdd(count, hn::Set(d, at.step_x), hn::Set(d, at.x0)),
                                   hn::MulAdd(count, hn::Set(d, at.step_y), hn::Set(d, at.y0)), k, out);
    }
    return true;
}

/// Places in arbitrary positions, one at a time.
template <int planes>
HWY_INLINE void cubic_singly(const PlaneSamples* in, const Block& at, float* const* out) {
    const hn::CappedTag<float, 4> d4;
    for (int k = 0; k < block; ++k) {
        const float x = at.x(k), y = at.y(k);
        const int ix = static_cast<int>(x), iy = static_cast<int>(y);
        HWY_ALIGN float wx[4], wy[4];
        cubic_weights(x - static_cast<float>(ix), wx);
        cubic_weights(y - static_cast<float>(iy), wy);
        const auto across = hn::Load(d4, wx);
        for (int p = 0; p < planes; ++p) {
            const std::ptrdiff_t stride = in[p].stride;
            const float* s = in[p].first + (iy - 1) * stride + ix - 1;
            auto column = hn::Mul(hn::LoadU(d4, s), hn::Set(d4, wy[0]));
            for (int j = 1; j < 4; ++j) column = hn::MulAdd(hn::LoadU(d4, s + j * stride), hn::Set(d4, wy[j]), column);
            out[p][k] = hn::GetLane(hn::SumOfLanes(d4, hn::Mul(column, across)));
        }
    }
}

/// `planes` planes of one size, at the same places.
template <int planes>
HWY_INLINE void cubic(const PlaneSamples* in, const float* node_x, const float* node_y, int count, bool goes_on,
                      float beyond, float* const* out) {
    HWY_ALIGN float last[planes][block];
    for (int i = 0; i < count; i += block, ++node_x, ++node_y) {
        const Block at(node_x, node_y);
        const int n = std::min(block, count - i);
        if (!at.inside(in[0], 1, 3)) {
            for (int p = 0; p < planes; ++p)
                for (int k = 0; k < n; ++k) out[p][i + k] = careful(in[p], at.x(k), at.y(k), goes_on, beyond);
            continue;
        }
        float* to[planes];
        for (int p = 0; p < planes; ++p) to[p] = n == block ? out[p] + i : last[p];
        const bool apart = at.step_x > 1.5f;
        if (!(apart ? cubic_together<planes, 2>(in, at, to) : cubic_together<planes, 1>(in, at, to)))
            cubic_singly<planes>(in, at, to);
        if (n < block)
            for (int p = 0; p < planes; ++p) std::copy(last[p], last[p] + n, out[p] + i);
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

/// Places less than a sample apart whose samples fit into a vector; false otherwise.
HWY_INLINE bool linear_together(const PlaneSamples& in, const Block& at, const float* base, float* out) {
    const hn::CappedTag<float, block> d;
    const hn::Rebind<int32_t, decltype(d)> di;
    const int lanes = static_cast<int>(hn::Lanes(d));
    for (int k = 0; k < block; k += lanes) {
        const float x_begin = at.x(k), x_end = at.x(k + lanes - 1), y_begin = at.y(k), y_end = at.y(k + lanes - 1);
        const int first = static_cast<int>(std::min(x_begin, x_end)), row = static_cast<int>(std::min(y_begin, y_end));
        if (static_cast<int>(std::max(x_begin, x_end)) + 1 - first >= lanes || first + lanes > in.width ||
            static_cast<int>(std::max(y_begin, y_end)) != row)
            return false;
        const auto count = hn::Iota(d, static_cast<float>(k));
        // Stays within the loaded samples despite rounding.
        const auto x = hn::Min(hn::Max(hn::MulAdd(count, hn::Set(d, at.step_x), hn::Set(d, at.x0)),
                                       hn::Set(d, static_cast<float>(first))),
                               hn::Set(d, static_cast<float>(first + lanes) - 1.001f)),
                   y = hn::MulAdd(count, hn::Set(d, at.step_y), hn::Set(d, at.y0));
        const auto floor = hn::Floor(x);
        const auto ix = hn::ConvertTo(di, floor);
        const auto fx = hn::Sub(x, floor), fy = hn::Sub(y, hn::Set(d, static_cast<float>(row)));
        const auto here = hn::Sub(ix, hn::Set(di, first));
        const auto left = hn::IndicesFromVec(d, here), right = hn::IndicesFromVec(d, hn::Add(here, hn::Set(di, 1)));
        const float* s = in.first + row * in.stride + first;
        const auto upper = hn::LoadU(d, s), lower = hn::LoadU(d, s + in.stride);
        const auto a = hn::TableLookupLanes(upper, left), b = hn::TableLookupLanes(upper, right),
                   p = hn::TableLookupLanes(lower, left), q = hn::TableLookupLanes(lower, right);
        const auto top = hn::MulAdd(fx, hn::Sub(b, a), a), low = hn::MulAdd(fx, hn::Sub(q, p), p);
        hn::StoreU(hn::Add(hn::LoadU(d, base + k), hn::MulAdd(fy, hn::Sub(low, top), top)), d, out + k);
    }
    return true;
}

void linear(const PlaneSamples& in, const float* node_x, const float* node_y, int count, const float* base,
            float* out) {
    for (int i = 0; i < count; i += block, ++node_x, ++node_y) {
        const Block at(node_x, node_y);
        const int n = std::min(block, count - i);
        if (n == block && at.inside(in, 0, 2) && linear_together(in, at, base + i, out + i)) continue;
        for (int k = 0; k < n; ++k) out[i + k] = base[i + k] + linear_at(in, at.x(k), at.y(k));
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

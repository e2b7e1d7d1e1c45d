// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/mosaic_rows.h"

#include <algorithm>
#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "render/mosaic_rows.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace optrel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

/// Scalar code for the remainder; `from` and `count` are even or the end of the row.
void mosaic_singly(const std::uint16_t* in, const MosaicRow& row, int from, int count, float* out) {
    for (int i = from; i < count; ++i) {
        const int parity = i & 1;
        float light = std::min(1.f, (static_cast<float>(in[i]) - row.black[parity]) * row.scale[parity]);
        if (row.gain[0]) {
            const float* g = row.gain[parity] + i / gain_nodes_apart;
            light *= g[0] + static_cast<float>(i % gain_nodes_apart) * (g[1] - g[0]) / gain_nodes_apart;
        }
        out[i] = light;
    }
}

void mosaic(const std::uint16_t* in, const MosaicRow& row, int count, float* out) {
    const hn::CappedTag<float, gain_nodes_apart> d;
    const hn::Rebind<int32_t, decltype(d)> di;
    const hn::Rebind<std::uint16_t, decltype(d)> du;
    const int lanes = static_cast<int>(hn::Lanes(d));
    if (lanes < 2) return mosaic_singly(in, row, 0, count, out);
    const auto both = [&](const float* v) { return hn::OddEven(hn::Set(d, v[1]), hn::Set(d, v[0])); };
    const auto black = both(row.black), scale = both(row.scale), one = hn::Set(d, 1.f);
    const auto part = hn::Mul(hn::Iota(d, 0), hn::Set(d, 1.f / gain_nodes_apart));
    int i = 0;
    for (; i + lanes <= count; i += lanes) {
        const auto value = hn::ConvertTo(d, hn::PromoteTo(di, hn::LoadU(du, in + i)));
        auto light = hn::Min(one, hn::Mul(hn::Sub(value, black), scale));
        if (row.gain[0]) {
            const float *even = row.gain[0] + i / gain_nodes_apart, *odd = row.gain[1] + i / gain_nodes_apart;
            const float ends[2] = {even[0], odd[0]}, rises[2] = {even[1] - even[0], odd[1] - odd[0]};
            const auto at = hn::Add(part, hn::Set(d, static_cast<float>(i % gain_nodes_apart) / gain_nodes_apart));
            light = hn::Mul(light, hn::MulAdd(at, both(rises), both(ends)));
        }
        hn::StoreU(light, d, out + i);
    }
    mosaic_singly(in, row, i, count, out);
}

/// Green at a site of red or blue.
template <class D>
HWY_INLINE hn::VFromD<D> green_at(D d, const float* p, std::ptrdiff_t s) {
    const auto at = [&](std::ptrdiff_t offset) { return hn::LoadU(d, p + offset); };
    const auto half = hn::Set(d, 0.5f), quarter = hn::Set(d, 0.25f);
    const auto bend = [&](auto before, auto here, auto after) {
        return hn::Sub(hn::Sub(hn::Add(here, here), before), after);
    };
    const auto here = at(0);
    const auto across = hn::MulAdd(quarter, bend(at(-2), here, at(2)), hn::Mul(half, hn::Add(at(-1), at(1)))),
               down = hn::MulAdd(quarter, bend(at(-2 * s), here, at(2 * s)), hn::Mul(half, hn::Add(at(-s), at(s))));
    // Change of the picture in each direction, over three lines to reduce the influence of noise.
    auto change_across = hn::Set(d, 1e-5f), change_down = change_across;
    for (int k = -1; k <= 1; ++k) {
        const std::ptrdiff_t r = 2 * k * s, c = std::ptrdiff_t{2} * k;
        change_across = hn::Add(
            change_across, hn::Add(hn::Abs(hn::Sub(at(r - 1), at(r + 1))), hn::Abs(bend(at(r - 2), at(r), at(r + 2)))));
        change_down = hn::Add(change_down, hn::Add(hn::Abs(hn::Sub(at(c - s), at(c + s))),
                                                   hn::Abs(bend(at(c - 2 * s), at(c), at(c + 2 * s)))));
    }
    const auto a = hn::Mul(change_down, change_down), b = hn::Mul(change_across, change_across);
    return hn::Div(hn::MulAdd(a, across, hn::Mul(b, down)), hn::Add(a, b));
}

void green(const float* in, std::ptrdiff_t stride, bool green_is_odd, int count, float* out) {
    const hn::ScalableTag<float> d;
    const hn::CappedTag<float, 1> single;
    const int lanes = static_cast<int>(hn::Lanes(d));
    int i = 0;
    if (lanes > 1)
        for (; i + lanes <= count; i += lanes) {
            const auto found = green_at(d, in + i, stride), own = hn::LoadU(d, in + i);
            hn::StoreU(green_is_odd ? hn::OddEven(own, found) : hn::OddEven(found, own), d, out + i);
        }
    for (; i < count; ++i)
        out[i] = ((i & 1) == 1) == green_is_odd ? in[i] : hn::GetLane(green_at(single, in + i, stride));
}

}  // namespace HWY_NAMESPACE
}  // namespace optrel
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace optrel {
HWY_EXPORT(mosaic);
HWY_EXPORT(green);

void mosaic_row(const std::uint16_t* counts, const MosaicRow& row, int count, float* out) {
    HWY_DYNAMIC_DISPATCH(mosaic)(counts, row, count, out);
}

void green_row(const float* in, std::ptrdiff_t stride, bool green_is_odd, int count, float* out) {
    HWY_DYNAMIC_DISPATCH(green)(in, stride, green_is_odd, count, out);
}

}  // namespace optrel
#endif

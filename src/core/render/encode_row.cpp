// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/encode_row.h"

#include <algorithm>
#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "render/encode_row.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace optrel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

void encode(const float* const* in, const float* table, int entries, int count, std::uint16_t* out) {
    const hn::CappedTag<float, 8> d;
    const hn::Rebind<int32_t, decltype(d)> di;
    const hn::Rebind<std::uint16_t, decltype(d)> du;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), steps = hn::Set(d, static_cast<float>(entries)),
               half = hn::Set(d, 0.5f);
    const auto encoded = [&](const float* from) {
        const auto light = hn::Min(hn::Max(hn::LoadU(d, from), zero), one);
        const auto at = hn::Mul(hn::Sqrt(light), steps);
        // Within the table whatever the light is, also where it is no number.
        const auto index = hn::Min(hn::Max(hn::ConvertTo(di, at), hn::Zero(di)), hn::Set(di, entries));
        const auto low = hn::GatherIndex(d, table, index), high = hn::GatherIndex(d, table + 1, index);
        const auto value = hn::MulAdd(hn::Sub(at, hn::ConvertTo(d, index)), hn::Sub(high, low), low);
        return hn::DemoteTo(du, hn::ConvertTo(di, hn::Add(value, half)));
    };
    int i = 0;
    for (; i + lanes <= count; i += lanes)
        hn::StoreInterleaved3(encoded(in[0] + i), encoded(in[1] + i), encoded(in[2] + i), du, out + 3 * i);
    for (; i < count; ++i)
        for (int c = 0; c < 3; ++c) {
            const float at = std::sqrt(std::min(1.f, std::max(0.f, in[c][i]))) * static_cast<float>(entries);
            const int k = static_cast<int>(at);
            out[3 * i + c] = static_cast<std::uint16_t>(table[k] + (at - k) * (table[k + 1] - table[k]) + 0.5f);
        }
}

}  // namespace HWY_NAMESPACE
}  // namespace optrel
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace optrel {
HWY_EXPORT(encode);

void encode_row(const float* red, const float* green, const float* blue, const EncodingTable& table, int count,
                std::uint16_t* out) {
    const float* const in[] = {red, green, blue};
    HWY_DYNAMIC_DISPATCH(encode)(in, table.values, table.entries, count, out);
}

}  // namespace optrel
#endif

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

/// Scalar table look-ups, because gather instructions are slower on many processors.
void encode(const float* const* in, const float* const* tables, int entries, int count, std::uint16_t* out) {
    const hn::CappedTag<float, 8> d;
    const hn::Rebind<int32_t, decltype(d)> di;
    const int lanes = static_cast<int>(hn::Lanes(d));
    constexpr int block = 64;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), steps = hn::Set(d, static_cast<float>(entries));
    HWY_ALIGN float place[block], light[block];
    HWY_ALIGN int32_t index[block];
    for (int i = 0; i < count; i += block) {
        const int n = std::min(block, count - i);
        for (int c = 0; c < 3; ++c) {
            const float* from = in[c] + i;
            if (n < block) {
                std::fill(light, light + block, 0.f);
                std::copy(from, from + n, light);
                from = light;
            }
            for (int k = 0; k < block; k += lanes) {
                const auto at = hn::Mul(hn::Sqrt(hn::Min(hn::Max(hn::LoadU(d, from + k), zero), one)), steps);
                // The index stays within the table for any input, also for NaN.
                const auto entry = hn::Min(hn::Max(hn::ConvertTo(di, at), hn::Zero(di)), hn::Set(di, entries));
                hn::Store(entry, di, index + k);
                hn::Store(hn::Sub(at, hn::ConvertTo(d, entry)), d, place + k);
            }
            std::uint16_t* to = out + 3 * i + c;
            for (int k = 0; k < n; ++k) {
                const float* t = tables[c] + index[k];
                to[3 * k] = static_cast<std::uint16_t>(static_cast<int>(t[0] + place[k] * (t[1] - t[0]) + 0.5f));
            }
        }
    }
}

}  // namespace HWY_NAMESPACE
}  // namespace optrel
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace optrel {
HWY_EXPORT(encode);

void encode_row(const float* red, const float* green, const float* blue, const EncodingTables& tables, int count,
                std::uint16_t* out) {
    const float* const in[] = {red, green, blue};
    HWY_DYNAMIC_DISPATCH(encode)(in, tables.values, tables.entries, count, out);
}

}  // namespace optrel
#endif

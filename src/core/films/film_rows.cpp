// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/film_rows.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "films/film_rows.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace optrel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Tag = hn::CappedTag<float, 16>;
using Vector = hn::VFromD<Tag>;
using Whole = hn::Rebind<std::int32_t, Tag>;

HWY_INLINE Vector numbers_at(const YuvRow& row, int i) {
    const Tag d;
    const Whole di;
    if (row.bytes) {
        const hn::Rebind<std::uint8_t, Tag> d8;
        return hn::ConvertTo(d, hn::PromoteTo(di, hn::LoadU(d8, static_cast<const std::uint8_t*>(row.first) + i)));
    }
    const hn::Rebind<std::uint16_t, Tag> d16;
    return hn::ConvertTo(d, hn::PromoteTo(di, hn::LoadU(d16, static_cast<const std::uint16_t*>(row.first) + i)));
}

HWY_INLINE void store_numbers(Vector v, const YuvRowOut& row, int i) {
    const Tag d;
    const Whole di;
    const auto within = hn::Min(hn::Max(v, hn::Zero(d)), hn::Set(d, row.most));
    const auto whole = hn::ConvertTo(di, hn::Add(within, hn::Set(d, 0.5f)));
    if (row.bytes) {
        const hn::Rebind<std::uint8_t, Tag> d8;
        hn::StoreU(hn::DemoteTo(d8, whole), d8, static_cast<std::uint8_t*>(row.first) + i);
    } else {
        const hn::Rebind<std::uint16_t, Tag> d16;
        hn::StoreU(hn::DemoteTo(d16, whole), d16, static_cast<std::uint16_t*>(row.first) + i);
    }
}

HWY_INLINE float number_at(const YuvRow& row, int i) {
    return row.bytes ? static_cast<float>(static_cast<const std::uint8_t*>(row.first)[i])
                     : static_cast<float>(static_cast<const std::uint16_t*>(row.first)[i]);
}

HWY_INLINE void store_number(float v, const YuvRowOut& row, int i) {
    float within = v < 0 ? 0 : v;
    if (within > row.most) within = row.most;
    const auto whole = static_cast<std::uint16_t>(within + 0.5f);
    if (row.bytes)
        static_cast<std::uint8_t*>(row.first)[i] = static_cast<std::uint8_t>(whole);
    else
        static_cast<std::uint16_t*>(row.first)[i] = whole;
}

void blend(const YuvRow* rows, const float* weight, int count, int n, YuvScale by, float* out) {
    const Tag d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto scale = hn::Set(d, by.scale), offset = hn::Set(d, by.offset);
    int i = 0;
    for (; i + lanes <= n; i += lanes) {
        auto sum = hn::Mul(numbers_at(rows[0], i), hn::Set(d, weight[0]));
        for (int r = 1; r < count; ++r) sum = hn::MulAdd(numbers_at(rows[r], i), hn::Set(d, weight[r]), sum);
        hn::StoreU(hn::MulAdd(sum, scale, offset), d, out + i);
    }
    for (; i < n; ++i) {
        float sum = 0;
        for (int r = 0; r < count; ++r) sum += number_at(rows[r], i) * weight[r];
        out[i] = sum * by.scale + by.offset;
    }
}

void spread(const float* in, int n, const float* even, const float* odd, float* out) {
    const Tag d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    for (int i = 0; i < n; i += lanes) {
        auto a = hn::Zero(d), b = hn::Zero(d);
        for (int t = 0; t < 5; ++t) {
            const auto s = hn::LoadU(d, in + i + t - 2);
            a = hn::MulAdd(s, hn::Set(d, even[t]), a);
            b = hn::MulAdd(s, hn::Set(d, odd[t]), b);
        }
        hn::StoreInterleaved2(a, b, d, out + 2 * i);
    }
}

void halve(const float* in, int n, const float* weight, float* out) {
    const Tag d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    for (int i = 0; i < n; i += lanes) {
        auto before = hn::Zero(d), here = before, next = before, after = before;
        hn::LoadInterleaved2(d, in + 2 * i - 1, before, here);
        hn::LoadInterleaved2(d, in + 2 * i + 1, next, after);
        auto sum = hn::Mul(before, hn::Set(d, weight[0]));
        sum = hn::MulAdd(here, hn::Set(d, weight[1]), sum);
        sum = hn::MulAdd(next, hn::Set(d, weight[2]), sum);
        hn::StoreU(hn::MulAdd(after, hn::Set(d, weight[3]), sum), d, out + i);
    }
}

void pack(const float* const* rows, const float* weight, int count, int n, YuvScale by, YuvRowOut out) {
    const Tag d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    int i = 0;
    for (; i + lanes <= n; i += lanes) {
        auto sum = hn::Mul(hn::LoadU(d, rows[0] + i), hn::Set(d, weight[0]));
        for (int r = 1; r < count; ++r) sum = hn::MulAdd(hn::LoadU(d, rows[r] + i), hn::Set(d, weight[r]), sum);
        store_numbers(hn::MulAdd(sum, hn::Set(d, by.scale), hn::Set(d, by.offset)), out, i);
    }
    for (; i < n; ++i) {
        float sum = 0;
        for (int r = 0; r < count; ++r) sum += rows[r][i] * weight[r];
        store_number(sum * by.scale + by.offset, out, i);
    }
}

HWY_INLINE void light_of_values(Vector values, const float* table, const float* gain, float* out) {
    const Tag d;
    const Whole di;
    const auto within = hn::Min(hn::Max(values, hn::Zero(d)), hn::Set(d, 65535.f));
    auto light = hn::GatherIndex(d, table, hn::ConvertTo(di, hn::Add(within, hn::Set(d, 0.5f))));
    if (gain) light = hn::Mul(light, hn::LoadU(d, gain));
    hn::StoreU(light, d, out);
}

void to_light(const YuvToLight& row) {
    const Tag d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto scale = hn::Set(d, row.by.scale), offset = hn::Set(d, row.by.offset);
    const auto rv = hn::Set(d, row.matrix.red_of_v), gu = hn::Set(d, row.matrix.green_of_u),
               gv = hn::Set(d, row.matrix.green_of_v), bu = hn::Set(d, row.matrix.blue_of_u);
    for (int at = 0; at < row.n; at += lanes) {
        // The last vector overlaps the one before instead of exceeding the row.
        const int i = at + lanes <= row.n ? at : row.n - lanes;
        const auto y = hn::MulAdd(numbers_at(row.luma, i), scale, offset), u = hn::LoadU(d, row.u + i),
                   v = hn::LoadU(d, row.v + i);
        const float* const* g = row.gain;
        light_of_values(hn::MulAdd(v, rv, y), row.table, g ? g[0] + i : nullptr, row.out[0] + i);
        light_of_values(hn::MulAdd(u, gu, hn::MulAdd(v, gv, y)), row.table, g ? g[1] + i : nullptr, row.out[1] + i);
        light_of_values(hn::MulAdd(u, bu, y), row.table, g ? g[2] + i : nullptr, row.out[2] + i);
    }
}

HWY_INLINE Vector values_of_light(const float* light, const CurveTable& table) {
    const Tag d;
    const Whole di;
    const auto lowest = hn::Set(di, static_cast<std::int32_t>(table.lowest));
    // In this order of operations NaN becomes black.
    const auto within = hn::Min(hn::Max(hn::LoadU(d, light), hn::BitCast(d, lowest)), hn::Set(d, 1.f));
    const auto at = hn::Sub(hn::BitCast(di, within), lowest);
    const auto place = hn::ShiftRightSame(at, table.dropped);
    const auto behind = hn::And(at, hn::Set(di, (1 << table.dropped) - 1));
    const auto part = hn::Mul(hn::ConvertTo(d, behind), hn::Set(d, 1.f / static_cast<float>(1 << table.dropped)));
    const auto entry = hn::GatherIndex(di, reinterpret_cast<const std::int32_t*>(table.entries), place);
    constexpr std::int32_t steps = (1 << curve_table_step_bits) - 1;
    const auto value = hn::ConvertTo(d, hn::BitCast(di, hn::ShiftRight<curve_table_step_bits>(
                                                            hn::BitCast(hn::RebindToUnsigned<Whole>(), entry)))),
               further = hn::ConvertTo(d, hn::And(entry, hn::Set(di, steps)));
    return hn::Mul(hn::MulAdd(part, further, value), hn::Set(d, 1.f / curve_table_parts));
}

void values(const float* light, const CurveTable& table, int n, std::uint16_t* out) {
    const int lanes = static_cast<int>(hn::Lanes(Tag()));
    for (int at = 0; at < n; at += lanes) {
        const int i = at + lanes <= n ? at : n - lanes;
        store_numbers(values_of_light(light + i, table), {out, false, 65535}, i);
    }
}

void of_light(const YuvOfLight& row) {
    const Tag d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const YuvMatrix& m = row.matrix;
    for (int at = 0; at < row.n; at += lanes) {
        const int i = at + lanes <= row.n ? at : row.n - lanes;
        const auto r = values_of_light(row.light[0] + i, row.table), g = values_of_light(row.light[1] + i, row.table),
                   b = values_of_light(row.light[2] + i, row.table);
        const auto y = hn::MulAdd(r, hn::Set(d, m.kr), hn::MulAdd(g, hn::Set(d, m.kg), hn::Mul(b, hn::Set(d, m.kb))));
        hn::StoreU(hn::Mul(hn::Sub(b, y), hn::Set(d, m.u_of_blue)), d, row.u + i);
        hn::StoreU(hn::Mul(hn::Sub(r, y), hn::Set(d, m.v_of_red)), d, row.v + i);
        if (row.luma.first)
            store_numbers(hn::MulAdd(y, hn::Set(d, row.by.scale), hn::Set(d, row.by.offset)), row.luma, i);
    }
}

}  // namespace HWY_NAMESPACE
}  // namespace optrel
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace optrel {
HWY_EXPORT(blend);
HWY_EXPORT(spread);
HWY_EXPORT(halve);
HWY_EXPORT(pack);
HWY_EXPORT(to_light);
HWY_EXPORT(values);
HWY_EXPORT(of_light);

void yuv_blend(const YuvRow* rows, const float* weight, int count, int n, YuvScale by, float* out) {
    HWY_DYNAMIC_DISPATCH(blend)(rows, weight, count, n, by, out);
}
void yuv_spread(const float* in, int n, const float* even, const float* odd, float* out) {
    HWY_DYNAMIC_DISPATCH(spread)(in, n, even, odd, out);
}
void yuv_halve(const float* in, int n, const float* weight, float* out) {
    HWY_DYNAMIC_DISPATCH(halve)(in, n, weight, out);
}
void yuv_pack(const float* const* rows, const float* weight, int count, int n, YuvScale by, YuvRowOut out) {
    HWY_DYNAMIC_DISPATCH(pack)(rows, weight, count, n, by, out);
}
void yuv_to_light(const YuvToLight& row) { HWY_DYNAMIC_DISPATCH(to_light)(row); }
void film_values(const float* light, const CurveTable& table, int n, std::uint16_t* out) {
    HWY_DYNAMIC_DISPATCH(values)(light, table, n, out);
}
void yuv_of_light(const YuvOfLight& row) { HWY_DYNAMIC_DISPATCH(of_light)(row); }

}  // namespace optrel
#endif

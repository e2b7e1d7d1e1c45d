// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/yuv_light.h"

#include <algorithm>
#include <cmath>

#include "base/cubic.h"
#include "render/strips.h"

namespace optrel {
namespace {

constexpr float top_value = 65535;

/// Interpolation weights for a place within (-1, 1), as weights of the five samples around 0.
std::array<float, 5> five_weights(double place) {
    const int base = static_cast<int>(std::floor(place));
    std::array<float, 4> four{};
    cubic_weights(static_cast<float>(place - base), four.data());
    std::array<float, 5> out{};
    for (int i = 0; i < 4; ++i) out[static_cast<std::size_t>(base + 1 + i)] = four[static_cast<std::size_t>(i)];
    return out;
}

/// A row with padding before and after it.
class Roomy {
public:
    explicit Roomy(int width) : values_(static_cast<std::size_t>(width + 3 * yuv_room)) {}
    float* begin() { return values_.data() + yuv_room; }
    /// Repeats the edges in the padding.
    void go_on(int width) {
        float* row = begin();
        for (int i = 1; i <= 2; ++i) {
            row[-i] = row[0];
            row[width - 1 + i] = row[width - 1];
        }
    }

private:
    std::vector<float> values_;
};

}  // namespace

YuvLight::YuvLight(const YuvForm& form, const FilmLight& light, cv::Size size)
    : form_(form),
      light_(light),
      size_(size),
      colours_(form.wide ? (size.width + 1) / 2 : size.width, form.tall ? (size.height + 1) / 2 : size.height) {
    const double kg = 1 - form.kr - form.kb, steps = std::ldexp(1.0, form.depth - 8);
    const double black = form.full_range ? 0 : 16 * steps;
    const double span = form.full_range ? std::ldexp(1.0, form.depth) - 1 : 219 * steps;
    const double half = std::ldexp(1.0, form.depth - 1);
    const double reach = form.full_range ? span : 224 * steps;
    luma_ = {static_cast<float>(top_value / span), static_cast<float>(-black * top_value / span)};
    luma_back_ = {static_cast<float>(span / top_value), static_cast<float>(black)};
    difference_ = {static_cast<float>(top_value / reach), static_cast<float>(-half * top_value / reach)};
    difference_back_ = {static_cast<float>(reach / top_value), static_cast<float>(half)};
    const double of_blue = 2 * (1 - form.kb), of_red = 2 * (1 - form.kr);
    matrix_ = {static_cast<float>(of_red),
               static_cast<float>(-of_blue * form.kb / kg),
               static_cast<float>(-of_red * form.kr / kg),
               static_cast<float>(of_blue),
               static_cast<float>(form.kr),
               static_cast<float>(kg),
               static_cast<float>(form.kb),
               static_cast<float>(1 / of_blue),
               static_cast<float>(1 / of_red)};
    even_ = five_weights(-form.right / 2);
    odd_ = five_weights((1 - form.right) / 2);
    halve_ = form.right > 0 ? std::array{0.f, 0.5f, 0.5f, 0.f} : std::array{0.25f, 0.5f, 0.25f, 0.f};
}

void YuvLight::light_of_rows(const YuvPlanes<const std::uint8_t>& in, const Planes& gain, Planes& out, int first,
                             int end) const {
    const bool bytes = form_.depth == 8;
    std::array<Roomy, 2> narrow{Roomy(colours_.width), Roomy(colours_.width)};
    std::array<Roomy, 2> full{Roomy(2 * colours_.width), Roomy(2 * colours_.width)};
    for (int row = first; row < end; ++row) {
        const double place = form_.tall ? (row - form_.down) / 2 : row;
        const int base = static_cast<int>(std::floor(place));
        std::array<float, 4> weight{0, 1, 0, 0};
        if (form_.tall) cubic_weights(static_cast<float>(place - base), weight.data());
        for (std::size_t c = 0; c < 2; ++c) {
            std::array<YuvRow, 4> rows{};
            for (int j = 0; j < 4; ++j) {
                const int of = std::clamp(base - 1 + j, 0, colours_.height - 1);
                rows[static_cast<std::size_t>(j)] = {in.first[c + 1] + of * in.stride[c + 1], bytes};
            }
            const bool whole = weight[1] == 1;
            float* to = form_.wide ? narrow[c].begin() : full[c].begin();
            yuv_blend(whole ? rows.data() + 1 : rows.data(), whole ? weight.data() + 1 : weight.data(), whole ? 1 : 4,
                      colours_.width, difference_, to);
            if (form_.wide) {
                narrow[c].go_on(colours_.width);
                yuv_spread(to, colours_.width, even_.data(), odd_.data(), full[c].begin());
            }
        }
        std::array<const float*, 3> gains{};
        std::array<float*, 3> to{};
        for (std::size_t c = 0; c < 3; ++c) {
            if (!gain.channel[c].empty()) gains[c] = gain.channel[c].ptr<float>(row);
            to[c] = out.channel[c].ptr<float>(row);
        }
        yuv_to_light({{in.first[0] + row * in.stride[0], bytes},
                      luma_,
                      full[0].begin(),
                      full[1].begin(),
                      matrix_,
                      light_.of_values().data(),
                      gain.channel[0].empty() ? nullptr : gains.data(),
                      to.data(),
                      size_.width});
    }
}

void YuvLight::to_light(const YuvPlanes<const std::uint8_t>& in, const Planes& gain, Planes& out) const {
    for_strips(size_.height, [&](int first, int end) { light_of_rows(in, gain, out, first, end); });
}

void YuvLight::numbers_of_rows(const Planes& in, const YuvPlanes<std::uint8_t>& out, int first, int end) const {
    const bool bytes = form_.depth == 8;
    const auto most = static_cast<float>(std::ldexp(1.0, form_.depth) - 1);
    const int width = size_.width;
    // Colour differences of the two or three rows that share one stored row.
    const bool between = form_.down > 0;
    const int count = form_.tall ? 3 - static_cast<int>(between) : 1;
    std::array<std::array<Roomy, 3>, 2> halved{std::array{Roomy(width), Roomy(width), Roomy(width)},
                                               std::array{Roomy(width), Roomy(width), Roomy(width)}};
    std::array<Roomy, 2> full{Roomy(width), Roomy(width)};
    const auto one_row = [&](int row, bool with_luma, std::size_t into) {
        std::array<const float*, 3> light{};
        for (std::size_t c = 0; c < 3; ++c) light[c] = in.channel[c].ptr<float>(row);
        std::array<float*, 2> to{};
        for (std::size_t c = 0; c < 2; ++c) to[c] = form_.wide ? full[c].begin() : halved[c][into].begin();
        std::uint8_t* luma = with_luma ? out.first[0] + row * out.stride[0] : nullptr;
        yuv_of_light({light.data(), light_.table(), matrix_, luma_back_, {luma, bytes, most}, to[0], to[1], width});
        for (std::size_t c = 0; c < 2 && form_.wide; ++c) {
            full[c].go_on(width);
            yuv_halve(to[c], colours_.width, halve_.data(), halved[c][into].begin());
        }
    };
    static constexpr std::array<std::array<float, 3>, 3> weights{{{1, 0, 0}, {0.5f, 0.5f, 0}, {0.5f, 0.25f, 0.25f}}};
    const std::array<float, 3>& weight = weights[static_cast<std::size_t>(count - 1)];
    const int step = form_.tall ? 2 : 1;
    for (int row = first; row < end; row += step) {
        one_row(row, true, 0);
        const int next = std::min(row + 1, size_.height - 1);
        if (count > 1) one_row(next, next > row, 1);
        if (count > 2) one_row(std::max(0, row - 1), false, 2);
        for (std::size_t c = 0; c < 2; ++c) {
            std::array<const float*, 3> rows{};
            for (std::size_t j = 0; j < 3; ++j) rows[j] = halved[c][j].begin();
            std::uint8_t* to = out.first[c + 1] + (row / step) * out.stride[c + 1];
            yuv_pack(rows.data(), weight.data(), count, colours_.width, difference_back_, {to, bytes, most});
        }
    }
}

void YuvLight::to_numbers(const Planes& in, const YuvPlanes<std::uint8_t>& out) const {
    for_strips(size_.height, [&](int first, int end) { numbers_of_rows(in, out, first, end); });
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/patch_chart.h"

#include <fmt/format.h>

#include <cmath>
#include <functional>
#include <string_view>

#include "base/error.h"
#include "base/words.h"
#include "rig/random.h"

namespace optrel::rig {
namespace {

Curve curve_from(const std::function<double(double)>& value) {
    Curve out;
    for (int nm = curve_first_nm; nm <= curve_last_nm; nm += curve_step_nm) out.push_back(value(nm));
    return out;
}

double bell(double nm, double centre, double width) {
    const double z = (nm - centre) / width;
    return std::exp(-0.5 * z * z);
}

/// Black body radiation (Planck), 1 at 560 nm.
double black_body(double nm, double kelvin) {
    const auto power = [&](double at) { return std::pow(at, -5) / (std::exp(1.4387769e7 / (at * kelvin)) - 1); };
    return power(nm) / power(560);
}

/// What the eye of the standard observer sees (the sums of lobes of Wyman, Sloan and Shirley, 2013), for the PDF alone.
cv::Vec3d eye(double nm) {
    const auto lobe = [nm](double centre, double left, double right) {
        return bell(nm, centre, nm < centre ? left : right);
    };
    return {1.056 * lobe(599.8, 37.9, 31.0) + 0.362 * lobe(442.0, 16.0, 26.7) - 0.065 * lobe(501.1, 20.4, 26.2),
            0.821 * lobe(568.8, 46.9, 40.5) + 0.286 * lobe(530.9, 16.3, 31.1),
            1.217 * lobe(437.0, 11.8, 36.0) + 0.681 * lobe(459.0, 26.0, 13.8)};
}

/// sRGB in daylight, 0 to 1.
cv::Vec3d screen_colour(const Curve& surface) {
    const Curve light = light_named("daylight");
    cv::Vec3d seen, white;
    for (std::size_t i = 0; i < surface.size(); ++i) {
        const cv::Vec3d e = eye(curve_first_nm + curve_step_nm * static_cast<double>(i));
        seen += e * (surface[i] * light[i]);
        white += e * light[i];
    }
    // Balanced in XYZ to the white of D65.
    const cv::Vec3d xyz(0.9505 * seen[0] / white[0], seen[1] / white[1], 1.0891 * seen[2] / white[2]);
    const cv::Matx33d to_rgb(3.2406, -1.5372, -0.4986, -0.9689, 1.8758, 0.0415, 0.0557, -0.2040, 1.0570);
    cv::Vec3d rgb = to_rgb * xyz;
    for (double& v : rgb.val) {
        v = std::min(1.0, std::max(0.0, v));
        v = v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
    }
    return rgb;
}

std::string place_name(int column, int row) { return fmt::format("{}{}", static_cast<char>('A' + column), row + 1); }

}  // namespace

std::array<Curve, 3> Sensitivity::curves() const {
    std::array<Curve, 3> out;
    for (std::size_t c = 0; c < 3; ++c)
        out[c] = curve_from([&](double nm) {
            // The filter before the sensor ends at about 690 nm, unless it was taken out.
            const double filter = 1 / (1 + std::exp((nm - 690) / 6)), beyond = infrared * bell(nm, 760, 70);
            return std::exp2(gain_ev) *
                   ((bell(nm, centre_nm[c], width_nm[c]) + leak * bell(nm, 536, 70)) * filter + beyond * (1 - filter));
        });
    return out;
}

Curve light_named(const std::string& name) {
    if (name == "lamp") return curve_from([](double nm) { return black_body(nm, 3200); });
    if (name == "daylight")
        return curve_from([](double nm) { return black_body(nm, 5500) * (1 - 0.25 * bell(nm, 380, 30)); });
    throw input_error(fmt::format("There is no light '{}'; choose daylight or lamp.", printable(name)));
}

std::array<double, 3> response(const Sensitivity& sensor, const Curve& light, const Curve& surface) {
    static const Sensitivity unchanged;
    const Curve green = unchanged.curves()[1];
    double white = 0;
    for (std::size_t i = 0; i < light.size(); ++i) white += light[i] * green[i];
    std::array<double, 3> out{};
    const std::array<Curve, 3> curves = sensor.curves();
    for (std::size_t c = 0; c < 3; ++c) {
        for (std::size_t i = 0; i < light.size(); ++i) out[c] += light[i] * surface[i] * curves[c][i];
        out[c] /= white;
    }
    return out;
}

std::array<double, 3> response_to_white(const Sensitivity& sensor, const Curve& light) {
    return response(sensor, light, Curve(light.size(), 1.0));
}

const std::vector<Curve>& patch_surfaces() {
    static const std::vector<Curve> all = [] {
        std::vector<Curve> out;
        for (std::uint64_t i = 0; i < patch_columns * (patch_rows - 1); ++i) {
            const auto chance = [i](std::uint64_t k) { return uniform(mix(i * 16 + k + 77)); };
            // A pigment: an edge, a band or a gap on a base; hues go round the chart.
            const double base = 0.03 + 0.1 * chance(1), height = 0.25 + 0.6 * chance(2),
                         centre = 425 + 235 * std::fmod(0.137 * static_cast<double>(i) + 0.1 * chance(3), 1.0),
                         width = 26 + 46 * chance(4), kind = chance(5);
            out.push_back(curve_from([&](double nm) {
                const double edge = 1 / (1 + std::exp(-(nm - centre) / (0.4 * width)));
                const double band = bell(nm, centre, width);
                const double shape = kind < 0.4 ? edge : (kind < 0.7 ? band : 1 - band);
                // Most pigments are light beyond the red.
                const double infrared = 0.35 * (1 - shape) / (1 + std::exp(-(nm - 745) / 15));
                return base + height * (0.92 - base) * (shape + infrared);
            }));
        }
        for (int i = 0; i < patch_columns; ++i) {
            const double grey = 0.88 * std::pow(0.62, i);
            out.push_back(curve_from([&](double nm) { return grey * (1 - 0.012 * bell(nm, 400, 30)); }));
        }
        return out;
    }();
    return all;
}

std::string patch_chart_text() {
    constexpr int first = 380, last = 780, step = 10;
    std::string fields, data;
    for (int nm = first; nm <= last; nm += step) fields += fmt::format(" SPECTRAL_NM{}", nm);
    for (int row = 0; row < patch_rows; ++row)
        for (int column = 0; column < patch_columns; ++column) {
            const Curve& surface = patch_surfaces()[static_cast<std::size_t>(row * patch_columns + column)];
            data += fmt::format("{} {}", row * patch_columns + column + 1, place_name(column, row));
            for (int nm = first; nm <= last; nm += step)
                data +=
                    fmt::format(" {:.5f}", surface[static_cast<std::size_t>((nm - curve_first_nm) / curve_step_nm)]);
            data += "\n";
        }
    return fmt::format(
        "CGATS.17\n"
        "DESCRIPTOR \"Patch chart of the simulated studio\"\n"
        "CHART_COLUMNS {}\nCHART_ROWS {}\nPATCH_PITCH_MM {:g}\nPATCH_SIZE_MM {:g}\nILLUMINANT D50\n"
        "NUMBER_OF_FIELDS {}\nBEGIN_DATA_FORMAT\nSAMPLE_ID SAMPLE_LOC{}\nEND_DATA_FORMAT\n"
        "NUMBER_OF_SETS {}\nBEGIN_DATA\n{}END_DATA\n",
        patch_columns, patch_rows, patch_pitch_mm, patch_side_mm, 2 + (last - first) / step + 1, fields,
        patch_columns * patch_rows, data);
}

std::string patch_chart_pdf() {
    // A4 across: 842 x 595 points; the chart stands in the middle, in its own size.
    constexpr double point = 72 / 25.4;
    const double left = 421 - patch_columns / 2.0 * patch_pitch_mm * point,
                 top = 297.5 + patch_rows / 2.0 * patch_pitch_mm * point;
    std::string page;
    const auto box = [&](const cv::Vec3d& colour, double x_mm, double y_mm, double width_mm, double height_mm) {
        page +=
            fmt::format("{:.4f} {:.4f} {:.4f} rg {:.2f} {:.2f} {:.2f} {:.2f} re f\n", colour[0], colour[1], colour[2],
                        left + x_mm * point, top - (y_mm + height_mm) * point, width_mm * point, height_mm * point);
    };
    const double rim = 0.6 * patch_pitch_mm, gap = (patch_pitch_mm - patch_side_mm) / 2;
    box({0.2, 0.2, 0.2}, -rim, -rim, patch_columns * patch_pitch_mm + 2 * rim, patch_rows * patch_pitch_mm + 2 * rim);
    for (int row = 0; row < patch_rows; ++row)
        for (int column = 0; column < patch_columns; ++column)
            box(screen_colour(patch_surfaces()[static_cast<std::size_t>(row * patch_columns + column)]),
                column * patch_pitch_mm + gap, row * patch_pitch_mm + gap, patch_side_mm, patch_side_mm);
    const std::vector<std::string> objects{
        "<< /Type /Catalog /Pages 2 0 R >>", "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 842 595] /Contents 4 0 R /Resources << >> >>",
        fmt::format("<< /Length {} >>\nstream\n{}endstream", page.size(), page)};
    std::string out = "%PDF-1.4\n", table = fmt::format("xref\n0 {}\n0000000000 65535 f \n", objects.size() + 1);
    for (std::size_t i = 0; i < objects.size(); ++i) {
        table += fmt::format("{:010} 00000 n \n", out.size());
        out += fmt::format("{} 0 obj\n{}\nendobj\n", i + 1, objects[i]);
    }
    const std::size_t at = out.size();
    return out + table +
           fmt::format("trailer\n<< /Size {} /Root 1 0 R >>\nstartxref\n{}\n%%EOF\n", objects.size() + 1, at);
}

PatchScene::PatchScene(const Sensitivity& sensor, const Curve& light) {
    const auto seen = [&](const Curve& surface) {
        const std::array<double, 3> v = response(sensor, light, surface);
        return std::array<float, 3>{static_cast<float>(v[0]), static_cast<float>(v[1]), static_cast<float>(v[2])};
    };
    for (const Curve& surface : patch_surfaces()) patches_.push_back(seen(surface));
    frame_ = seen(Curve(light.size(), 0.035));
    wall_ = seen(Curve(light.size(), 0.55));
}

Surface PatchScene::at(double x_mm, double y_mm) const {
    const double x = x_mm / patch_pitch_mm + patch_columns / 2.0, y = y_mm / patch_pitch_mm + patch_rows / 2.0;
    if (x < -0.6 || y < -0.6 || x > patch_columns + 0.6 || y > patch_rows + 0.6) return {wall_, 1};
    const int column = static_cast<int>(std::floor(x)), row = static_cast<int>(std::floor(y));
    constexpr double half = patch_side_mm / patch_pitch_mm / 2;
    if (column < 0 || row < 0 || column >= patch_columns || row >= patch_rows || std::abs(x - column - 0.5) > half ||
        std::abs(y - row - 0.5) > half)
        return {frame_, 2};
    const int patch = row * patch_columns + column;
    return {patches_[static_cast<std::size_t>(patch)], 3 + patch};
}

}  // namespace optrel::rig

// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "base/angle.h"
#include "base/choose.h"
#include "rig/random.h"
#include "rig/scene.h"

namespace optrel::rig {
namespace {

constexpr double sheet_width_mm = 420, sheet_height_mm = 280, px_per_mm = 11;
constexpr int sub = 4;  // fractional bits of OpenCV's drawing

cv::Point at(double x_mm, double y_mm) {
    return {static_cast<int>(std::lround((x_mm + sheet_width_mm / 2) * px_per_mm * (1 << sub))),
            static_cast<int>(std::lround((y_mm + sheet_height_mm / 2) * px_per_mm * (1 << sub)))};
}

void stroke(cv::Mat3b& m, double x0, double y0, double x1, double y1, const cv::Scalar& colour, double width_mm) {
    cv::line(m, at(x0, y0), at(x1, y1), colour, std::max(1, static_cast<int>(std::lround(width_mm * px_per_mm))),
             cv::LINE_AA, sub);
}

void box(cv::Mat3b& m, double x0, double y0, double x1, double y1, const cv::Scalar& colour) {
    const std::vector<cv::Point> corners{at(x0, y0), at(x1, y0), at(x1, y1), at(x0, y1)};
    cv::fillConvexPoly(m, corners, colour, cv::LINE_AA, sub);
}

void label(cv::Mat3b& m, const std::string& text, double x, double y, double size_mm) {
    const cv::Point p = at(x, y);
    cv::putText(m, text, {p.x >> sub, p.y >> sub}, cv::FONT_HERSHEY_SIMPLEX, size_mm * px_per_mm / 22.0, {46, 42, 40},
                2, cv::LINE_AA);
}

void leaf(cv::Mat3b& m, Stream& random, double x, double y, double angle, double length, const cv::Scalar& colour) {
    const double width = length * random.between(0.16, 0.26), curl = random.between(-0.25, 0.25);
    std::vector<cv::Point> outline;
    const auto place = [&](double t, double side) {
        const double across = side * width * std::sin(pi * std::pow(t, 0.8)) + curl * length * t * t;
        const double along = t * length;
        return at(x + along * std::cos(angle) - across * std::sin(angle),
                  y + along * std::sin(angle) + across * std::cos(angle));
    };
    for (int i = 0; i <= 24; ++i) outline.push_back(place(i / 24.0, 1));
    for (int i = 24; i >= 0; --i) outline.push_back(place(i / 24.0, -1));
    cv::fillPoly(m, std::vector<std::vector<cv::Point>>{outline}, colour, cv::LINE_AA, sub);
    for (int i = 0; i < 8; ++i) {
        const double t = 0.1 + 0.1 * i;
        for (const double side : {-0.8, 0.8})
            cv::line(m, place(t, 0), place(std::min(1.0, t + 0.1), side), colour * 0.7, 2, cv::LINE_AA, sub);
    }
    std::vector<cv::Point> rib;
    for (int i = 0; i <= 24; ++i) rib.push_back(place(i / 24.0, 0));
    cv::polylines(m, rib, false, colour * 0.6, 3, cv::LINE_AA, sub);
}

void plant(cv::Mat3b& m, Stream& random) {
    const cv::Scalar green(90 + 30 * random.next(), 105 + 20 * random.next(), 58 + 20 * random.next());
    const double base_x = random.between(-15, 15);
    std::vector<cv::Point> stem;
    double x = base_x, lean = random.between(-0.2, 0.2);
    double px = x, py = 105;
    for (int i = 0; i <= 40; ++i) {
        const double t = i / 40.0;
        px = x + 60 * lean * t * t;
        py = 105 - 195 * t;
        stem.push_back(at(px, py));
        if (i > 4 && i % 4 == 0) {
            const double size = (1 - 0.55 * t) * random.between(38, 62);
            leaf(m, random, px, py, -1.57 + random.between(0.7, 1.15), size, green * random.between(0.85, 1.15));
            leaf(m, random, px, py, -1.57 - random.between(0.7, 1.15), size * random.between(0.85, 1.1),
                 green * random.between(0.85, 1.15));
        }
    }
    cv::polylines(m, stem, false, cv::Scalar(96, 82, 52), 16, cv::LINE_AA, sub);
    const cv::Scalar petal(150 + 40 * random.next(), 90 + 60 * random.next(), 120 + 60 * random.next());
    for (int i = 0; i < 11; ++i)
        leaf(m, random, px, py, i * 0.571, random.between(13, 18), petal * random.between(0.9, 1.05));
    cv::circle(m, at(px, py), static_cast<int>(5 * px_per_mm * (1 << sub)), cv::Scalar(170, 140, 60), cv::FILLED,
               cv::LINE_AA, sub);
}

void ruler(cv::Mat3b& m) {
    box(m, -150, 118, 150, 132, {236, 234, 226});
    for (int mm = 0; mm <= 280; ++mm) {
        const double length = first_of<double>({{mm % 10 == 0, 6.5}, {mm % 5 == 0, 4.5}}, 3);
        stroke(m, -140 + mm, 118, -140 + mm, 118 + length, {38, 36, 34}, 0.18);
        if (mm % 20 == 0) label(m, fmt::format("{}", mm / 10), -139 + mm, 129.5, 3);
    }
}

void patches(cv::Mat3b& m) {
    const cv::Scalar colours[] = {{142, 66, 48},   {196, 132, 60},  {206, 190, 84}, {88, 128, 62},   {52, 110, 96},
                                  {62, 92, 140},   {96, 70, 128},   {158, 82, 112}, {240, 240, 238}, {196, 196, 196},
                                  {154, 154, 154}, {114, 114, 114}, {76, 76, 76},   {44, 44, 44}};
    for (int i = 0; i < 14; ++i) box(m, -140 + 20 * i, -132, -122 + 20 * i, -116, colours[i]);
}

/// Thin branches and dots, which show lateral colour and loss of sharpness first.
void fine_detail(cv::Mat3b& m, Stream& random) {
    for (const double sx : {-1.0, 1.0})
        for (const double sy : {-1.0, 1.0}) {
            const double cx = sx * 182, cy = sy * 112;
            for (int i = 0; i < 40; ++i) {
                const double a = random.between(0, 6.283), length = random.between(6, 20);
                stroke(m, cx, cy, cx + length * std::cos(a), cy + length * std::sin(a), {34, 30, 28},
                       random.between(0.12, 0.35));
            }
            for (int i = 0; i < 60; ++i)
                cv::circle(m, at(cx + random.between(-22, 22), cy + random.between(-20, 20)),
                           static_cast<int>(random.between(0.15, 0.5) * px_per_mm * (1 << sub)), {40, 36, 30},
                           cv::FILLED, cv::LINE_AA, sub);
            for (int i = 0; i < 9; ++i)
                stroke(m, cx - sx * 34 + i * 0.8, cy - 8, cx - sx * 34 + i * 0.8, cy + 8, {30, 30, 30}, 0.3);
        }
}

}  // namespace

SpecimenScene::SpecimenScene(std::uint64_t seed)
    : sheet_(static_cast<int>(sheet_height_mm * px_per_mm), static_cast<int>(sheet_width_mm * px_per_mm)) {
    Stream random(seed);
    sheet_.setTo(cv::Scalar(226, 221, 206));
    // Straight rulers near the edges make distortion visible.
    for (const double d : {205.0, 168.0}) {
        stroke(sheet_, -d, -136, -d, 136, {70, 66, 60}, 0.3);
        stroke(sheet_, d, -136, d, 136, {70, 66, 60}, 0.3);
    }
    for (const double d : {136.0, 110.0}) {
        stroke(sheet_, -205, -d, 205, -d, {70, 66, 60}, 0.3);
        stroke(sheet_, -205, d, 205, d, {70, 66, 60}, 0.3);
    }
    ruler(sheet_);
    patches(sheet_);
    plant(sheet_, random);
    fine_detail(sheet_, random);
    box(sheet_, 72, 62, 158, 100, {240, 236, 224});
    label(sheet_, "Saltmere Herbarium", 76, 71, 4);
    label(sheet_, fmt::format("Sheet {:05d}", 10000 + static_cast<int>(random.next() * 80000)), 76, 80, 4);
    label(sheet_, "shore path, gravel", 76, 89, 3.4);
    for (int i = 0; i < 256; ++i) {
        const double v = i / 255.0;
        decode_[i] = static_cast<float>(v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4));
    }
}

Surface SpecimenScene::at(double x_mm, double y_mm) const {
    const double u = (x_mm + sheet_width_mm / 2) * px_per_mm - 0.5, v = (y_mm + sheet_height_mm / 2) * px_per_mm - 0.5;
    if (u < 0 || v < 0 || u >= sheet_.cols - 1 || v >= sheet_.rows - 1) return {{0.10f, 0.10f, 0.11f}, 0};
    const int i = static_cast<int>(u), j = static_cast<int>(v);
    const float fx = static_cast<float>(u - i), fy = static_cast<float>(v - j);
    const cv::Vec3b *a = sheet_.ptr<cv::Vec3b>(j) + i, *b = sheet_.ptr<cv::Vec3b>(j + 1) + i;
    Surface out{{}, 0};
    for (int c = 0; c < 3; ++c)
        out.reflectance[c] = (1 - fy) * ((1 - fx) * decode_[a[0][c]] + fx * decode_[a[1][c]]) +
                             fy * ((1 - fx) * decode_[b[0][c]] + fx * decode_[b[1][c]]);
    return out;
}

}  // namespace optrel::rig

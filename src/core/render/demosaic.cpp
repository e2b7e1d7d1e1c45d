// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/demosaic.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>

#include "render/mosaic_rows.h"
#include "render/row_sampling.h"
#include "render/strips.h"

namespace optrel {

GainTable::GainTable(const FrameMap& map) {
    const PictureGeometry& g = map.geometry();
    const Vec2 centre = map.falloff_centre();
    centre_u_ = static_cast<float>(centre.x());
    centre_v_ = static_cast<float>(centre.y());
    const double reach_u = std::max(centre.x(), g.width - centre.x()),
                 reach_v = std::max(centre.y(), g.height - centre.y());
    const double farthest = reach_u * reach_u + reach_v * reach_v;
    scale_ = static_cast<float>((entries - 2) / farthest);
    for (int c = 0; c < 3; ++c) {
        table_[c].resize(entries + 1);
        for (int i = 0; i <= entries; ++i)
            table_[c][i] = static_cast<float>(
                map.gain(static_cast<Channel>(c), centre + Vec2(std::sqrt(i * farthest / (entries - 2)), 0)));
    }
}

void GainTable::along(int channel, float u, float v, float step, int count, std::vector<float>& out) const {
    out.resize(static_cast<std::size_t>((count + gain_nodes_apart - 1) / gain_nodes_apart + 1));
    for (std::size_t k = 0; k < out.size(); ++k)
        out[k] = at(channel, u + static_cast<float>(k) * gain_nodes_apart * step, v);
}

namespace {

/// Converts counts in columns of one parity to linear light.
struct RowScale {
    int channel;
    float black, scale;
    float operator()(std::uint16_t count) const { return std::min(1.f, (count - black) * scale); }
};

RowScale scale_of(const RawPicture& raw, const std::array<double, 3>& multiplier, int row, int parity) {
    const int c = raw.filter.at(row, parity);
    const double black = raw.black.at(row, parity);
    return {c, static_cast<float>(black), static_cast<float>(multiplier[c] / (raw.white - black))};
}

}  // namespace

namespace {

/// For patterns of more than two rows and columns.
cv::Mat1f linear_by_sites(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                          const GainTable* gains, const cv::Rect& part) {
    cv::Mat1f out(part.size());
    for_strips(out.rows, [&](int first, int end) {
        std::array<std::vector<float>, 3> gain;
        for (int row = first; row < end; ++row) {
            const int y = row + part.y;
            std::array<RowScale, SitePattern<int>::largest> sites;
            for (int i = 0; i < SitePattern<int>::largest; ++i)
                sites[static_cast<std::size_t>(i)] = scale_of(raw, multiplier, y, part.x + i);
            for (int c = 0; gains && c < 3; ++c)
                gains->along(c, part.x + 0.5f, y + 0.5f, 1, out.cols, gain[static_cast<std::size_t>(c)]);
            const std::uint16_t* in = counts.ptr<std::uint16_t>(y) + part.x;
            float* to = out.ptr<float>(row);
            for (int i = 0; i < out.cols; ++i) {
                const RowScale& site = sites[static_cast<std::size_t>(i % SitePattern<int>::largest)];
                to[i] = site(in[i]);
                if (!gains) continue;
                const float* g = gain[static_cast<std::size_t>(site.channel)].data() + i / gain_nodes_apart;
                to[i] *= g[0] + static_cast<float>(i % gain_nodes_apart) * (g[1] - g[0]) / gain_nodes_apart;
            }
        }
    });
    return out;
}

}  // namespace

cv::Mat1f linear_mosaic(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                        const GainTable* gains, const cv::Rect& wanted) {
    const cv::Rect part = wanted.empty() ? cv::Rect({0, 0}, counts.size()) : wanted;
    if (raw.period() > 2) return linear_by_sites(raw, counts, multiplier, gains, part);
    cv::Mat1f out(part.size());
    for_strips(out.rows, [&](int first, int end) {
        std::vector<float> gain[2];
        for (int row = first; row < end; ++row) {
            MosaicRow to{};
            for (int parity = 0; parity < 2; ++parity) {
                const RowScale light = scale_of(raw, multiplier, row, parity);
                to.black[parity] = light.black;
                to.scale[parity] = light.scale;
                if (!gains) continue;
                gains->along(light.channel, part.x + 0.5f, row + part.y + 0.5f, 1, out.cols, gain[parity]);
                to.gain[parity] = gain[parity].data();
            }
            mosaic_row(counts.ptr<std::uint16_t>(row + part.y) + part.x, to, out.cols, out.ptr<float>(row));
        }
    });
    return out;
}

Planes in_cells(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier, int cell) {
    Planes out(cv::Size(counts.cols / cell, counts.rows / cell));
    std::array<int, 3> sites{};
    for (int row = 0; row < 2; ++row)
        for (int column = 0; column < 2; ++column) ++sites[raw.filter.at(row, column)];
    const int width = out.size().width;
    parallel_for(out.size().height, [&](int j) {
        std::array<std::vector<float>, 3> sum;
        for (std::vector<float>& s : sum) s.assign(width, 0);
        for (int row = j * cell; row < (j + 1) * cell; ++row) {
            const std::uint16_t* in = counts.ptr<std::uint16_t>(row);
            for (int parity = 0; parity < 2; ++parity) {
                const RowScale light = scale_of(raw, multiplier, row, parity);
                float* to = sum[light.channel].data();
                for (int i = 0; i < width; ++i)
                    for (int k = parity; k < cell; k += 2) to[i] += light(in[i * cell + k]);
            }
        }
        for (int c = 0; c < 3; ++c) {
            const float share = 4.f / static_cast<float>(sites[c] * cell * cell);
            for (int i = 0; i < width; ++i) out.channel[c](j, i) = sum[c][i] * share;
        }
    });
    return out;
}

void undo_falloff(Planes& planes, const Sampling& at, const FrameMap& map) {
    if (map.has_falloff()) undo_falloff(planes, at, GainTable(map));
}

void undo_falloff(Planes& planes, const Sampling& at, const GainTable& gains) {
    constexpr int apart = gain_nodes_apart;
    const int width = planes.size().width;
    for_strips(planes.size().height, [&](int first, int end) {
        std::vector<float> gain;
        for (int row = first; row < end; ++row)
            for (int c = 0; c < 3; ++c) {
                float* p = planes.channel[c].ptr<float>(row);
                gains.along(c, static_cast<float>(at.left + 0.5 * at.step),
                            static_cast<float>(at.top + (row + 0.5) * at.step), static_cast<float>(at.step), width,
                            gain);
                for (int i = 0; i < width; i += apart) {
                    const float here = gain[i / apart], rise = (gain[i / apart + 1] - here) / apart;
                    for (int k = 0; k < std::min(apart, width - i); ++k)
                        p[i + k] *= here + static_cast<float>(k) * rise;
                }
            }
    });
}

namespace {

/// Displacement of a channel's light against green, px, on a mesh of 16 px; it is smooth, so bilinear interpolation is
/// used.
class Shift {
public:
    Shift(const FrameMap* map, Channel channel, cv::Size size, cv::Point origin) : columns_(size.width / mesh + 2) {
        if (!map) return;
        const int rows = size.height / mesh + 2;
        u_.resize(static_cast<std::size_t>(columns_) * rows);
        v_.resize(u_.size());
        for (int j = 0; j < rows; ++j)
            for (int i = 0; i < columns_; ++i) {
                const Vec2 at(origin.x + i * mesh, origin.y + j * mesh), d = map->fringe(channel, at) - at;
                u_[j * columns_ + i] = static_cast<float>(d.x());
                v_[j * columns_ + i] = static_cast<float>(d.y());
                largest_ = std::max({largest_, std::abs(u_[j * columns_ + i]), std::abs(v_[j * columns_ + i])});
            }
    }
    /// False when there is no displacement.
    bool any() const { return largest_ > 1e-4f; }
    /// Last column of the mesh.
    int last_column() const { return (columns_ - 1) * mesh - 1; }

    /// The displacements along one row of samples at centres (i + 0.5, row + 0.5).
    struct Row {
        const Shift* shift;
        const float *u0, *u1, *v0, *v1;
        float t;
        void at(int i, float& du, float& dv) const {
            const float x = (i + 0.5f) / mesh;
            const int k = static_cast<int>(x);
            const float f = x - k;
            const float u_top = u0[k] + f * (u0[k + 1] - u0[k]), u_low = u1[k] + f * (u1[k + 1] - u1[k]);
            const float v_top = v0[k] + f * (v0[k + 1] - v0[k]), v_low = v1[k] + f * (v1[k + 1] - v1[k]);
            du = u_top + t * (u_low - u_top);
            dv = v_top + t * (v_low - v_top);
        }
    };
    Row row(int row) const {
        const float y = (row + 0.5f) / mesh;
        const int k = static_cast<int>(y);
        const std::size_t at = static_cast<std::size_t>(k) * columns_;
        return {this, &u_[at], &u_[at + columns_], &v_[at], &v_[at + columns_], y - k};
    }

private:
    static constexpr int mesh = 16;
    int columns_;
    float largest_ = 0;
    std::vector<float> u_, v_;
};

/// The nodes of a row of places after displacement.
class ShiftedRow {
public:
    /// Place i is the mosaic's (first_column + i * step, row), moved by `sign` times the
    /// displacement there. Its position in the plane is ((column - column0) * scale, (row - row0) *
    /// scale).
    struct Line {
        int first_column, step, row, count;
        float sign, column0, row0, scale;
    };
    RowPlaces operator()(const Shift& shift, const Line& line) {
        const int nodes = (line.count + row_nodes_apart - 1) / row_nodes_apart + 1;
        x_.resize(nodes);
        y_.resize(nodes);
        const Shift::Row along = shift.any() ? shift.row(line.row) : Shift::Row{};
        for (int k = 0; k < nodes; ++k) {
            const int column = line.first_column + k * row_nodes_apart * line.step;
            float du = 0, dv = 0;
            if (shift.any()) along.at(std::min(column, shift.last_column()), du, dv);
            x_[k] = (static_cast<float>(column) + line.sign * du - line.column0) * line.scale;
            y_[k] = (static_cast<float>(line.row) + line.sign * dv - line.row0) * line.scale;
        }
        return {x_.data(), y_.data(), line.count};
    }

private:
    std::vector<float> x_, y_;
};

/// One colour of the mosaic: samples in every second column and row.
struct Lattice {
    cv::Mat1f samples;
    int row0 = 0, column0 = 0;  ///< of the first sample in the mosaic
};

Lattice lattice_of(const cv::Mat1f& mosaic, const SitePattern<int>& filter, int channel) {
    Lattice out;
    for (int r = 0; r < 2; ++r)
        for (int c = 0; c < 2; ++c)
            if (filter.at(r, c) == channel) {
                out.row0 = r;
                out.column0 = c;
            }
    out.samples.create((mosaic.rows - out.row0 + 1) / 2, (mosaic.cols - out.column0 + 1) / 2);
    for_strips(out.samples.rows, [&](int first, int end) {
        for (int j = first; j < end; ++j) {
            const float* in = mosaic.ptr<float>(2 * j + out.row0) + out.column0;
            float* to = out.samples.ptr<float>(j);
            for (int i = 0; i < out.samples.cols; ++i) to[i] = in[2 * i];
        }
    });
    return out;
}

/// Resamples one colour of the mosaic at its own sites so that its light coincides with green.
void bring_to_green(cv::Mat1f& mosaic, const Lattice& lattice, const Shift& shift) {
    if (!shift.any()) return;
    for_strips(lattice.samples.rows, [&](int first, int end) {
        ShiftedRow places;
        std::vector<float> brought(lattice.samples.cols);
        for (int j = first; j < end; ++j) {
            const int row = 2 * j + lattice.row0;
            const RowPlaces at = places(shift, {lattice.column0, 2, row, lattice.samples.cols, 1, lattice.column0 * 1.f,
                                                lattice.row0 * 1.f, 0.5f});
            cubic_row(lattice.samples, at, std::nullopt, brought.data());
            float* to = mosaic.ptr<float>(row) + lattice.column0;
            for (int i = 0; i < lattice.samples.cols; ++i) to[2 * i] = brought[i];
        }
    });
}

cv::Mat1f green_of(const cv::Mat1f& mosaic, const SitePattern<int>& filter) {
    cv::Mat1f m;
    cv::copyMakeBorder(mosaic, m, 4, 4, 4, 4, cv::BORDER_REFLECT_101);
    cv::Mat1f out(mosaic.size());
    for_strips(mosaic.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float* in = m.ptr<float>(row + 4) + 4;
            green_row(in, static_cast<std::ptrdiff_t>(m.step1()), filter.at(row, 1) == 1, mosaic.cols,
                      out.ptr<float>(row));
        }
    });
    return out;
}

/// Colour minus green at each sample of the colour, with green at the place where the sample's light belongs.
cv::Mat1f differences(const Lattice& lattice, const cv::Mat1f& green, const Shift& shift) {
    cv::Mat1f out(lattice.samples.size());
    for_strips(out.rows, [&](int first, int end) {
        ShiftedRow places;
        for (int j = first; j < end; ++j) {
            const int row = 2 * j + lattice.row0;
            const float* in = lattice.samples.ptr<float>(j);
            float* to = out.ptr<float>(j);
            if (!shift.any()) {
                const float* g = green.ptr<float>(row) + lattice.column0;
                for (int i = 0; i < out.cols; ++i) to[i] = in[i] - g[2 * i];
                continue;
            }
            // The displacement is smooth, so its value at the source is accurate to 1e-3 px.
            cubic_row(green, places(shift, {lattice.column0, 2, row, out.cols, -1, 0, 0, 1}), std::nullopt, to);
            for (int i = 0; i < out.cols; ++i) to[i] = in[i] - to[i];
        }
    });
    return out;
}

/// Green plus the difference at the place where the light of each pixel fell.
cv::Mat1f with_differences(const cv::Mat1f& green, const Lattice& lattice, const cv::Mat1f& difference,
                           const Shift& shift) {
    cv::Mat1f out(green.size());
    for_strips(out.rows, [&](int first, int end) {
        ShiftedRow places;
        for (int row = first; row < end; ++row) {
            const RowPlaces at =
                places(shift, {0, 1, row, out.cols, 1, lattice.column0 * 1.f, lattice.row0 * 1.f, 0.5f});
            linear_row(difference, at, green.ptr<float>(row), out.ptr<float>(row));
        }
    });
    return out;
}

}  // namespace

Planes demosaic(const cv::Mat1f& mosaic, const SitePattern<int>& filter, const FrameMap* map, cv::Point origin) {
    const Lattice lattices[2] = {lattice_of(mosaic, filter, 0), lattice_of(mosaic, filter, 2)};
    const Shift shifts[2] = {{map, Channel::red, mosaic.size(), origin}, {map, Channel::blue, mosaic.size(), origin}};
    cv::Mat1f aligned = mosaic;
    if (shifts[0].any() || shifts[1].any()) {
        aligned = mosaic.clone();
        for (int k = 0; k < 2; ++k) bring_to_green(aligned, lattices[k], shifts[k]);
    }
    Planes out;
    out.channel[1] = green_of(aligned, filter);
    for (int k = 0; k < 2; ++k)
        out.channel[2 * k] = with_differences(out.channel[1], lattices[k],
                                              differences(lattices[k], out.channel[1], shifts[k]), shifts[k]);
    return out;
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/resample.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "render/row_sampling.h"
#include "render/strips.h"

namespace optrel {

namespace {

constexpr int mesh = row_nodes_apart;

/// Sample positions (sample centres at integers) along one line of the mesh, for each colour.
struct MeshLine {
    std::vector<float> x[3], y[3];

    RowPlaces places(int c, int count) const { return {x[c].data(), y[c].data(), count}; }
    /// Between two lines.
    void set(const MeshLine& above, const MeshLine& below, float t) {
        for (int c = 0; c < 3; ++c)
            for (std::size_t i = 0; i < x[c].size(); ++i) {
                x[c][i] = above.x[c][i] + t * (below.x[c][i] - above.x[c][i]);
                y[c][i] = above.y[c][i] + t * (below.y[c][i] - above.y[c][i]);
            }
    }
    void compute(const PictureView& view, const Sampling& from, const Sampling& to, double row, Fringes fringes) {
        const int nodes = (to.size.width + mesh - 1) / mesh + 1;
        for (int c = 0; c < 3; ++c) {
            x[c].resize(nodes);
            y[c].resize(nodes);
        }
        for (int i = 0; i < nodes; ++i) {
            const Vec2 place(to.left + (i * mesh + 0.5) * to.step, to.top + (row + 0.5) * to.step);
            const std::optional<Vec2> green = view.green(place);
            for (int c = 0; c < 3; ++c) {
                if (!green) {
                    x[c][i] = y[c][i] = -1e6f;
                    continue;
                }
                const Vec2 p = c == 1 || fringes == Fringes::aligned
                                   ? *green
                                   : view.lens().fringe(static_cast<Channel>(c), *green);
                x[c][i] = static_cast<float>((p.x() - from.left) / from.step - 0.5);
                y[c][i] = static_cast<float>((p.y() - from.top) / from.step - 0.5);
            }
        }
    }
};

}  // namespace

Planes resample(const Planes& in, const Sampling& from, const PictureView& view, const Sampling& to, Fringes fringes,
                const Progress& progress, float empty) {
    Planes out(to.size);
    constexpr int bands_at_once = 4;
    const int bands = (to.size.height + mesh - 1) / mesh;
    parallel_for((bands + bands_at_once - 1) / bands_at_once, [&](int group) {
        if (progress.cancelled()) return;
        MeshLine above, below, between;
        below.compute(view, from, to, group * bands_at_once * mesh, fringes);
        for (int band = group * bands_at_once; band < std::min(bands, (group + 1) * bands_at_once); ++band) {
            const int first = band * mesh, end = std::min(to.size.height, first + mesh);
            std::swap(above, below);
            below.compute(view, from, to, first + mesh, fringes);
            between = above;
            for (int row = first; row < end; ++row) {
                between.set(above, below, static_cast<float>(row - first) / mesh);
                std::array<float*, 3> to_rows;
                for (int c = 0; c < 3; ++c) to_rows[c] = out.channel[c].ptr<float>(row);
                if (fringes == Fringes::aligned)
                    cubic_rows(in.channel, between.places(1, to.size.width), empty, to_rows);
                else
                    for (int c = 0; c < 3; ++c)
                        cubic_row(in.channel[c], between.places(c, to.size.width), empty, to_rows[c]);
            }
        }
    });
    progress.check();
    return out;
}

}  // namespace optrel

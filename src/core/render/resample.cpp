// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/resample.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "render/row_sampling.h"
#include "render/strips.h"

namespace optrel {

static constexpr int mesh = row_nodes_apart;

/// Sample positions (centres at integers) along one line of the mesh, for each colour.
struct MeshLine {
    std::vector<float> x[3], y[3];

    RowPlaces places(int c, int count) const { return {x[c].data(), y[c].data(), count}; }
    /// Interpolates between two lines.
    void set(const MeshLine& above, const MeshLine& below, float t) {
        for (int c = 0; c < 3; ++c)
            for (std::size_t i = 0; i < x[c].size(); ++i) {
                x[c][i] = above.x[c][i] + t * (below.x[c][i] - above.x[c][i]);
                y[c][i] = above.y[c][i] + t * (below.y[c][i] - above.y[c][i]);
            }
    }
    void compute(const PictureView& view, const Sampling& from, const Sampling& to, double row, ColourPlanes fringes) {
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
                const Vec2 p = c == 1 || fringes == ColourPlanes::aligned
                                   ? *green
                                   : view.lens().fringe(static_cast<Channel>(c), *green);
                x[c][i] = static_cast<float>((p.x() - from.left) / from.step - 0.5);
                y[c][i] = static_cast<float>((p.y() - from.top) / from.step - 0.5);
            }
        }
    }
};

namespace {

/// Rows of the picture between two lines of the mesh.
struct Band {
    const MeshLine &above, &below;
    int first, end;
};

void resample_band(const Planes& in, const Band& band, ColourPlanes fringes, float empty, MeshLine& between,
                   Planes& out) {
    between = band.above;
    const int width = out.size().width;
    for (int row = band.first; row < band.end; ++row) {
        between.set(band.above, band.below, static_cast<float>(row - band.first) / mesh);
        std::array<float*, 3> to_rows;
        for (int c = 0; c < 3; ++c) to_rows[c] = out.channel[c].ptr<float>(row);
        if (fringes == ColourPlanes::aligned)
            cubic_rows(in.channel, between.places(1, width), empty, to_rows);
        else
            for (int c = 0; c < 3; ++c) cubic_row(in.channel[c], between.places(c, width), empty, to_rows[c]);
    }
}

constexpr int bands_at_once = 4;

/// Calls body(first band, end band) for all bands of a picture, on all cores.
template <class Body>
void for_bands(int height, const Progress& progress, const Body& body) {
    const int bands = (height + mesh - 1) / mesh;
    parallel_for((bands + bands_at_once - 1) / bands_at_once, [&](int group) {
        if (!progress.cancelled()) body(group * bands_at_once, std::min(bands, (group + 1) * bands_at_once));
    });
    progress.check();
}

}  // namespace

Planes resample(const Planes& in, const Sampling& from, const PictureView& view, const Sampling& to,
                ColourPlanes fringes, const Progress& progress, float empty) {
    Planes out(to.size);
    for_bands(to.size.height, progress, [&](int begin, int end) {
        MeshLine above, below, between;
        below.compute(view, from, to, begin * mesh, fringes);
        for (int band = begin; band < end; ++band) {
            std::swap(above, below);
            below.compute(view, from, to, (band + 1) * mesh, fringes);
            resample_band(in, {above, below, band * mesh, std::min(to.size.height, (band + 1) * mesh)}, fringes, empty,
                          between, out);
        }
    });
    return out;
}

struct Mesh::Lines {
    ColourPlanes fringes;
    cv::Size size;
    std::vector<MeshLine> line;
};

Mesh::Mesh(const PictureView& view, const Sampling& from, const Sampling& to, ColourPlanes fringes) {
    auto lines = std::make_unique<Lines>(Lines{fringes, to.size, {}});
    lines->line.resize(static_cast<std::size_t>((to.size.height + mesh - 1) / mesh + 1));
    parallel_for(static_cast<int>(lines->line.size()),
                 [&](int i) { lines->line[i].compute(view, from, to, i * mesh, fringes); });
    lines_ = std::move(lines);
}

Mesh::~Mesh() = default;

void Mesh::resample(const Planes& in, Planes& out, const Progress& progress, float empty) const {
    if (out.size() != lines_->size) out = Planes(lines_->size);
    for_bands(lines_->size.height, progress, [&](int begin, int end) {
        MeshLine between;
        for (int band = begin; band < end; ++band)
            resample_band(in,
                          {lines_->line[band], lines_->line[band + 1], band * mesh,
                           std::min(lines_->size.height, (band + 1) * mesh)},
                          lines_->fringes, empty, between, out);
    });
}

}  // namespace optrel

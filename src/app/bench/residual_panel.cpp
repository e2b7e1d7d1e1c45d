// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/residual_panel.h"

#include <QSplitter>
#include <cmath>

#include "base/figure_text.h"
#include "base/ticks.h"
#include "widgets/bars_view.h"
#include "widgets/frame_view.h"
#include "widgets/place.h"

namespace optrel {

ResidualPanel::ResidualPanel(QWidget* parent) : QWidget(parent) {
    map_ = new FrameView;
    map_->setAccessibleName("Residuals of all frames");
    histogram_ = new BarsView("Histogram of residuals", "residual / px", "corners");
    by_frame_ = new BarsView("RMS of each frame", "frame", "RMS / px");
    auto* below = new QSplitter(Qt::Horizontal);
    below->addWidget(histogram_);
    below->addWidget(by_frame_);
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(map_);
    down->addWidget(below);
    down->setSizes({330, 150});
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(down);
    connect(by_frame_, &BarsView::bar_clicked, this, [this](int bar) { emit frame_chosen(bar_frames_[bar]); });
    clear();
}

void ResidualPanel::clear() {
    map_->clear(
        "Residuals of all frames together appear here once the lens is solved. What they have in common tells that a "
        "model is too small.");
    histogram_->set_bars({});
    by_frame_->set_bars({});
    bar_frames_.clear();
}

namespace {

/// Histogram of residuals, px.
std::vector<Bar> histogram(std::vector<double> sizes) {
    std::vector<Bar> bins;
    if (sizes.empty()) return bins;
    std::sort(sizes.begin(), sizes.end());
    const double reach = std::max(1e-4, sizes[static_cast<std::size_t>(0.995 * (sizes.size() - 1))]);
    const double step = tick_step(reach, 14);
    std::vector<int> counts(static_cast<std::size_t>(std::ceil(reach / step)), 0);
    int beyond = 0;
    for (const double s : sizes) {
        const auto k = static_cast<std::size_t>(s / step);
        ++(k < counts.size() ? counts[k] : beyond);
    }
    for (std::size_t k = 0; k < counts.size(); ++k)
        bins.push_back({QString::number(k * step, 'g', 3), double(counts[k]),
                        QString("%1 corners between %2 and %3 px").arg(counts[k]).arg(k * step).arg((k + 1) * step),
                        false});
    if (beyond) bins.push_back({"more", double(beyond), QString("%1 corners beyond").arg(beyond), true});
    return bins;
}

}  // namespace

void ResidualPanel::show_solution(const std::vector<RunFrame>& frames, const RunSolution& solution, int node) {
    const PictureGeometry& g = solution.profile.geometry;
    constexpr int across = 12, down = 8;
    std::vector<Vec2> sum(across * down, Vec2::Zero()), place(across * down, Vec2::Zero());
    std::vector<int> count(across * down, 0);
    std::vector<CornerMark> marks;
    std::vector<double> sizes;
    std::vector<Bar> bars;
    bar_frames_.clear();
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const FrameOutcome& o = solution.outcomes[i];
        if (!o.used || o.node != node || frames[i].role != RunRole::chart) continue;
        for (const ViewPoint& p : o.view.points) {
            marks.push_back({{p.uv.x(), p.uv.y()}, {p.residual.x(), p.residual.y()}, p.rejected, true});
            if (p.rejected) continue;
            sizes.push_back(p.residual.norm());
            const int k = g.cell(p.uv, across, down);
            sum[k] += p.residual;
            place[k] += p.uv;
            ++count[k];
        }
        const QString name = q(frames[i].path.stem().string());
        bars.push_back({name.right(4), o.view.rms_px,
                        QString("%1: RMS %2 over %3 corners")
                            .arg(name, q(figure_text(figures::reprojection_error, o.view.rms_px)))
                            .arg(o.view.points.size()),
                        false});
        bar_frames_.push_back(static_cast<int>(i));
    }
    std::vector<CornerMark> means;
    for (int k = 0; k < across * down; ++k)
        if (count[k] >= 4) {
            const Vec2 at = place[k] / count[k], mean = sum[k] / count[k];
            means.push_back({{at.x(), at.y()}, {mean.x(), mean.y()}, false, true});
        }
    map_->set_frame(QImage(), QSizeF(g.width, g.height));
    map_->set_corners(std::move(marks));
    map_->set_means(std::move(means));
    by_frame_->set_bars(std::move(bars));

    histogram_->set_bars(histogram(std::move(sizes)));
}

void ResidualPanel::choose_frame(int frame) {
    const auto it = std::find(bar_frames_.begin(), bar_frames_.end(), frame);
    by_frame_->choose(it == bar_frames_.end() ? -1 : static_cast<int>(it - bar_frames_.begin()));
}

}  // namespace optrel

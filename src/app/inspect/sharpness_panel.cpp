// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/sharpness_panel.h"

#include <algorithm>
#include <cmath>

#include "base/angle.h"
#include "base/figure_text.h"
#include "theme.h"
#include "widgets/place.h"

namespace optrel {

namespace {

const char* const channel_names[] = {"Red", "Green", "Blue"};

Cell mtf50_cell(const EdgeResponse& e) {
    if (!e.usable) return {"–", Cell::Tone::faint};
    return Cell(q(number_text(figures::modulation, e.mtf50, e.sigma)), e.mtf50);
}

/// Neighbouring positions of the corrected picture share samples, so their scatter underestimates the error: no sigma.
Cell after_cell(const EdgeResponse& e) {
    if (!e.usable) return {"–", Cell::Tone::faint};
    Cell cell = measured_cell(figures::modulation, e.mtf50);
    cell.hint = "As sure as before, at best: neighbouring places of the corrected picture share samples";
    return cell;
}

Curve curve_of(const EdgeResponse& e, const QString& label, Qt::PenStyle dash) {
    Curve curve;
    curve.label = label;
    curve.colour = theme::channel_green;
    curve.dash = dash;
    for (std::size_t k = 0; k < e.mtf.size(); ++k)
        curve.points.emplace_back(static_cast<double>(k) * EdgeResponse::frequency_step, e.mtf[k]);
    return curve;
}

/// Short lines along the edges, green, marked where they are soft.
std::vector<SharpnessPanel::Edge> marked_edges(const std::vector<ResolutionPoint>& points) {
    constexpr double half_px = 14;
    std::vector<double> values;
    for (const ResolutionPoint& p : points)
        if (p.channel == Channel::green) values.push_back(p.mtf50);
    if (values.empty()) return {};
    const auto best = values.begin() + static_cast<std::ptrdiff_t>(0.9 * static_cast<double>(values.size() - 1));
    std::nth_element(values.begin(), best, values.end());
    std::vector<SharpnessPanel::Edge> out;
    for (const ResolutionPoint& p : points) {
        if (p.channel != Channel::green) continue;
        const Vec2 along(std::cos(p.angle_deg * degree), std::sin(p.angle_deg * degree));
        out.push_back({p.place - half_px * along, p.place + half_px * along, p.mtf50 < 0.75 * *best});
    }
    return out;
}

}  // namespace

SharpnessPanel::SharpnessPanel(QWidget* parent) : QWidget(parent) {
    mark_ =
        button("Mark an edge",
               "Draw a line on the picture along a straight edge that stands at a slant; its modulation is measured "
               "in the frame and in the corrected picture");
    mark_->setCheckable(true);
    whole_ = button("Whole chart", "Measures every edge between the squares of the board that this frame shows");
    text_ = new QLabel;
    text_->setWordWrap(true);
    text_->setObjectName("faint");
    plot_ = new CurvePlot("Modulation across the edge, green", "cycles per px", "modulation");
    plot_->setMinimumHeight(120);
    table_ = new Table("Modulation of one half",
                       {text_column("Colour"), figure_column("Before, c/px", 108), figure_column("After, c/px", 108)});
    table_->allow_sorting(false);
    table_->setMinimumHeight(66);
    auto* edge = new QWidget;
    auto* down = stacked_in(edge);
    down->addWidget(plot_, 3);
    down->addWidget(table_, 2);
    field_ = new ResolutionView;
    pages_ = new QStackedWidget;
    pages_->addWidget(edge);
    pages_->addWidget(field_);
    auto* layout = stacked_in(scrolled_in(this), 4);
    layout->addWidget(heading("What this frame resolves"));
    layout->addLayout(row_of({mark_, whole_}));
    layout->addWidget(text_);
    layout->addWidget(pages_, 1);
    connect(mark_, &QPushButton::clicked, this, &SharpnessPanel::edge_asked);
    connect(whole_, &QPushButton::clicked, this, &SharpnessPanel::chart_asked);
    clear();
}

void SharpnessPanel::show_marking(bool on) {
    mark_->setChecked(on);
    if (on) text_->setText("Draw a line on the picture along the edge.");
}

void SharpnessPanel::clear() {
    edge_.cancel();
    chart_.cancel();
    pages_->setCurrentIndex(0);
    field_->clear("");
    edges_.clear();
    plot_->set_curves({}, 0, 1, 1);
    table_->set_rows({});
    text_->setText(
        "An edge of paper, a window frame or a square of a chart tells what is resolved there; a chart frame tells it "
        "over the whole picture.");
}

void SharpnessPanel::measure_edge(Jobs& jobs, const std::filesystem::path& frame, const FrameDevelopment& development,
                                  const Vec2& from, const Vec2& to) {
    clear();
    text_->setText("Measuring …");
    edge_.start(
        jobs, [=](const Progress& progress) { return edge_curves(frame, development, from, to, progress); },
        [this](std::optional<EdgeCurves> edge, const QString& problem) {
            if (edge)
                show_edge(*edge);
            else
                text_->setText(problem);
        });
}

void SharpnessPanel::measure_chart(Jobs& jobs, const std::filesystem::path& frame,
                                   const FrameDevelopment& development) {
    clear();
    text_->setText("Measuring …");
    chart_.start(
        jobs, [=](const Progress& progress) { return chart_sharpness(frame, development, std::nullopt, progress); },
        [this, orientation = development.metadata.orientation](std::optional<ChartSharpness> chart,
                                                               const QString& problem) {
            if (chart)
                show_chart(*chart, orientation);
            else
                text_->setText(problem);
        });
}

void SharpnessPanel::show_chart(const ChartSharpness& chart, int orientation) {
    const auto field = [orientation](const char* name, const std::vector<ResolutionPoint>& points,
                                     const PictureGeometry& geometry) {
        return ResolutionView::Field{name, geometry, resolution_cells(points, geometry), orientation};
    };
    field_->show_field(field("before", chart.before.points, chart.geometry),
                       field("after", chart.after, chart.corrected));
    pages_->setCurrentIndex(1);
    edges_ = marked_edges(chart.before.points);
    emit measured();
    text_->setText(
        QString("%1 edges of the board; after is the corrected picture before tones and sharpening. Over the "
                "picture: in the warning colour what is softer than three quarters of the sharpest tenth.")
            .arg(chart.before.edges));
}

void SharpnessPanel::show_edge(const EdgeCurves& edge) {
    constexpr int green = static_cast<int>(Channel::green);
    const EdgeResponse &before = edge.before[green], &after = edge.after[green];
    std::vector<Curve> curves;
    if (before.usable) curves.push_back(curve_of(before, "before", Qt::DashLine));
    if (after.usable) curves.push_back(curve_of(after, "after", Qt::SolidLine));
    plot_->set_curves(std::move(curves), 0, 0.7, 1);
    std::vector<Row> rows;
    for (int c = 0; c < 3; ++c)
        rows.push_back({Cell(channel_names[c]), mtf50_cell(edge.before[c]), after_cell(edge.after[c])});
    table_->set_rows(std::move(rows));
    if (!before.usable) return text_->setText(q(before.why_not));
    if (!after.usable) return text_->setText("Before: measured. After: " + q(after.why_not));
    text_->setText(
        QString("MTF50 of green: %1 cycles per px before and %2 after the correction. Tones and sharpening "
                "are not applied.")
            .arg(q(number_text(figures::modulation, before.mtf50)), q(number_text(figures::modulation, after.mtf50))));
}

}  // namespace optrel

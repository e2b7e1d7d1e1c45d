// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/sharpness_panel.h"

#include "theme.h"
#include "widgets/place.h"

namespace optrel {

namespace {

const char* const channel_names[] = {"Red", "Green", "Blue"};

Cell mtf50_cell(const EdgeResponse& e) {
    if (!e.usable) return {"–", Cell::Tone::faint};
    return Cell(QString("%1 ± %2").arg(e.mtf50, 0, 'f', 3).arg(e.sigma, 0, 'f', 3), e.mtf50);
}

/// Neighbouring places of the corrected picture share samples, so that their scatter says too little: no sigma.
Cell after_cell(const EdgeResponse& e) {
    if (!e.usable) return {"–", Cell::Tone::faint};
    Cell cell(QString::number(e.mtf50, 'f', 3), e.mtf50);
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

}  // namespace

SharpnessPanel::SharpnessPanel(QWidget* parent) : QWidget(parent) {
    mark_ =
        button("Mark an ed&ge",
               "Draw a line on the picture along a straight edge that stands at a slant; its modulation is measured "
               "in the frame and in the corrected picture");
    mark_->setCheckable(true);
    text_ = new QLabel;
    text_->setWordWrap(true);
    text_->setObjectName("faint");
    plot_ = new CurvePlot("Modulation across the edge, green", "cycles per px", "modulation");
    plot_->setMinimumHeight(180);
    table_ =
        new Table("Modulation of one half",
                  {{"Colour", false, false, 0}, {"Before, c/px", true, false, 108}, {"After, c/px", true, false, 108}});
    table_->allow_sorting(false);
    table_->setMinimumHeight(96);
    auto* layout = stacked_in(this, 4);
    layout->addWidget(heading("One edge of this frame"));
    layout->addWidget(mark_, 0, Qt::AlignLeft);
    layout->addWidget(text_);
    layout->addWidget(plot_, 3);
    layout->addWidget(table_, 2);
    connect(mark_, &QPushButton::clicked, this, &SharpnessPanel::edge_asked);
    clear();
}

void SharpnessPanel::show_marking(bool on) {
    mark_->setChecked(on);
    if (on) text_->setText("Draw a line on the picture along the edge.");
}

void SharpnessPanel::clear() {
    edge_.cancel();
    plot_->set_curves({}, 0, 1, 1);
    table_->set_rows({});
    text_->setText("An edge of paper, a window frame or a square of a chart tells what is resolved there.");
}

void SharpnessPanel::measure_edge(Jobs& jobs, const std::filesystem::path& frame, const FrameRecipe& recipe,
                                  const Vec2& from, const Vec2& to) {
    clear();
    text_->setText("Measuring …");
    edge_.start(
        jobs, [=](const Progress& progress) { return edge_curves(frame, recipe, from, to, progress); },
        [this](std::optional<EdgeCurves> edge, const QString& problem) {
            if (edge)
                show_edge(*edge);
            else
                text_->setText(problem);
        });
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
    text_->setText(QString("Modulation is one half at %1 cycles per px before and %2 after (green); after is the "
                           "corrected picture before tones and sharpening.")
                       .arg(before.mtf50, 0, 'f', 3)
                       .arg(after.mtf50, 0, 'f', 3));
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/noise_ramp_dialog.h"

#include <QFormLayout>
#include <QSplitter>
#include <QVBoxLayout>

#include "base/figure_text.h"
#include "jobs.h"
#include "widgets/answer_buttons.h"
#include "widgets/log_plot.h"
#include "widgets/place.h"

namespace optrel {
namespace {

NumberBox* limit_box(const QString& name, double value) {
    auto* box = new NumberBox;
    box->setRange(0.05, 20);
    box->setSingleStep(0.1);
    box->setDecimals(2);
    box->setValue(value);
    box->setAccessibleName(name);
    return box;
}

Cell from_to(const FigureKind& kind, double before, double after) {
    return {q(change_text(kind, before, after)), after};
}

Cell needed_and_pinned(double needed, double pinned, bool reached) {
    if (!reached) return {QString("%1 !").arg(std::lround(needed)), Cell::Tone::serious, "No strength meets the limit"};
    return {QString("%1 (%2)").arg(std::lround(needed)).arg(std::lround(pinned)), needed};
}

TableOf<NoiseRampPoint>* new_points_table() {
    using Point = NoiseRampPoint;
    return new TableOf<Point>(
        "Noise reduction for each ISO",
        {{figure_column("ISO", 56), [](const Point& p) { return figure_cell(p.iso); }},
         {figure_column("Luminance (pinned)", 118),
          [](const Point& p) { return needed_and_pinned(p.need.luminance, p.pinned_luminance, p.need.reached); }},
         {figure_column("Colour (pinned)", 104),
          [](const Point& p) { return needed_and_pinned(p.need.colour, p.pinned_colour, p.need.reached); }},
         {figure_column("σ of L*"),
          [](const Point& p) {
              return from_to(figures::lab_deviation, p.need.without.lightness, p.need.with.lightness);
          }},
         {figure_column("σ of a*, b*"),
          [](const Point& p) { return from_to(figures::lab_deviation, p.need.without.colour, p.need.with.colour); }},
         {figure_column("MTF50 c/px"),
          [](const Point& p) { return from_to(figures::modulation, p.need.without.mtf50, p.need.with.mtf50); }},
         {figure_column("Texture %"), [](const Point& p) {
              return from_to(figures::share, 100 * p.need.without.texture, 100 * p.need.with.texture);
          }}});
}

/// The ramp between its knots, constant beyond them.
LogCurve ramp_curve(const QString& label, Field field, const Pin& pin, const std::vector<NoiseRampPoint>& points) {
    LogCurve out{label, theme::mark, Qt::SolidLine, {}, {}};
    for (const NoiseRampPoint& p : points) out.points.emplace_back(p.iso, pin.at(field, p.iso).number);
    return out;
}

LogCurve points_curve(const QString& label, const QColor& colour, Qt::PenStyle dash,
                      const std::vector<NoiseRampPoint>& points,
                      const std::function<double(const NoiseRampPoint&)>& value, bool marks) {
    LogCurve out{label, colour, dash, {}, {}};
    for (const NoiseRampPoint& p : points) {
        out.points.emplace_back(p.iso, value(p));
        if (marks) out.sigma.push_back(0);
    }
    return out;
}

std::vector<double> isos_of(const std::vector<NoiseRampPoint>& points) {
    std::vector<double> out;
    for (const NoiseRampPoint& p : points) out.push_back(p.iso);
    return out;
}

}  // namespace

NoiseRampDialog::NoiseRampDialog(const Parts& parts, const Measurement& noise, QWidget* parent)
    : QDialog(parent), parts_(parts), noise_(noise) {
    setWindowTitle("Noise reduction from measured noise");
    resize(980, 640);
    build();
    derive();
}

NoiseRampDialog::~NoiseRampDialog() {
    if (wanted_) *wanted_ = false;
}

void NoiseRampDialog::build() {
    auto* how = new QLabel(
        "The least noise reduction that brings the noise of a developed mid-grey patch under these limits, with "
        "everything else as the draft pins it. What it costs in detail stands beside it.");
    how->setWordWrap(true);
    lightness_ = limit_box("Largest standard deviation of L*", 1);
    colour_ = limit_box("Largest standard deviation of a* and b*", 1);
    side_ = new NumberBox;
    side_->setDecimals(0);
    side_->setRange(0, 100000);
    side_->setSpecialValueText("whole size");
    side_->setSuffix(" px");
    side_->setSingleStep(500);
    side_->setAccessibleName("Longest side of the output");
    derive_ = button("&Derive", "Computes the need again with these limits");
    connect(derive_, &QPushButton::clicked, this, &NoiseRampDialog::derive);
    auto* line = new QHBoxLayout;
    const auto labelled = [&](const QString& text, QWidget* box) {
        auto* label = new QLabel(text);
        label->setBuddy(box);
        line->addWidget(label);
        line->addWidget(box);
        line->addSpacing(10);
    };
    labelled("Limit of σ of &L*", lightness_);
    labelled("of &a* and b*", colour_);
    labelled("at an output of", side_);
    line->addStretch(1);
    line->addWidget(derive_);
    using Height = LogPlot::Height;
    luminance_plot_ = new LogPlot("Luminance noise reduction over ISO", "ISO", "luminance NR", Height::linear);
    colour_plot_ = new LogPlot("Colour noise reduction over ISO", "ISO", "colour NR", Height::linear);
    auto* plots = new QSplitter(Qt::Horizontal);
    plots->addWidget(luminance_plot_);
    plots->addWidget(colour_plot_);
    points_ = new_points_table();
    said_ = new QLabel;
    said_->setWordWrap(true);
    said_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* buttons = answer_buttons(*this, "&Pin in the draft", [this] {
        take_over();
        return false;
    });
    take_ = taking(*buttons);
    take_->setToolTip("Pins both ramps in the tier that is named; one step, which can be undone");
    auto* all = new QVBoxLayout(this);
    all->addWidget(heading(q(noise_.name) + QString(", version %1").arg(noise_.version)));
    all->addWidget(how);
    all->addLayout(line);
    all->addWidget(plots, 3);
    all->addWidget(points_, 2);
    all->addWidget(said_);
    all->addWidget(buttons);
}

void NoiseRampDialog::derive() {
    if (wanted_) *wanted_ = false;
    wanted_ = std::make_shared<bool>(true);
    ramp_ = nullptr;
    said_->setText("Developing a target for each ISO…");
    refresh();
    const NoiseLimit limit{lightness_->value(), colour_->value(), static_cast<int>(side_->value()), 0.18};
    const auto result = std::make_shared<NoiseRamp>();
    const auto problem = std::make_shared<std::string>();
    parts_.jobs().run(
        "Deriving noise reduction",
        [source = parts_.profiles().source(), noise = noise_, draft = parts_.baselines().draft(), limit, result,
         problem](Progress& progress) {
            try {
                const auto store = source.open_for_reading();
                *result = derive_noise_ramp(*store, noise, draft, limit, progress);
            } catch (const Cancelled&) {
                *problem = "It was cancelled.";
            } catch (const std::exception& error) {
                *problem = error.what();
            }
        },
        [this, wanted = wanted_, result, problem] {
            if (!*wanted) return;
            if (!problem->empty()) return said_->setText(q(*problem));
            ramp_ = result;
            show_ramp();
        });
}

void NoiseRampDialog::show_ramp() {
    const std::vector<NoiseRampPoint>& p = ramp_->points;
    points_->show_records(p);
    luminance_plot_->set_curves(
        {points_curve(
             "need", theme::ink, Qt::DotLine, p, [](const NoiseRampPoint& x) { return x.need.luminance; }, true),
         ramp_curve("ramp", Field::luminance_noise, ramp_->luminance, p),
         points_curve(
             "pinned", theme::warning, Qt::DashLine, p, [](const NoiseRampPoint& x) { return x.pinned_luminance; },
             false)},
        isos_of(p));
    colour_plot_->set_curves(
        {points_curve(
             "need", theme::ink, Qt::DotLine, p, [](const NoiseRampPoint& x) { return x.need.colour; }, true),
         ramp_curve("ramp", Field::colour_noise, ramp_->colour, p),
         points_curve(
             "pinned", theme::warning, Qt::DashLine, p, [](const NoiseRampPoint& x) { return x.pinned_colour; },
             false)},
        isos_of(p));
    QStringList said{QString("Luminance NR %1; colour NR %2. Tier: %3. %4")
                         .arg(q(describe(Field::luminance_noise, ramp_->luminance)),
                              q(describe(Field::colour_noise, ramp_->colour)), q(tier_of(*ramp_).name),
                              q(ramp_->reason))};
    if (ramp_->serves_already) said << "What is pinned now serves already.";
    for (const double iso : ramp_->unreached) said << QString("At ISO %1 no strength meets the limit.").arg(iso);
    said_->setText(said.join(" "));
    refresh();
}

void NoiseRampDialog::refresh() {
    take_->setEnabled(ramp_ != nullptr);
    if (ramp_) return;
    points_->show_records(std::vector<NoiseRampPoint>());
    for (LogPlot* plot : {luminance_plot_, colour_plot_}) plot->clear("It is being computed.");
}

void NoiseRampDialog::take_over() {
    if (!ramp_) return;
    parts_.attempt([&] {
        Revision draft = parts_.baselines().draft();
        const std::string id = pin_noise_ramp(draft, *ramp_);
        parts_.baselines().edit("pin noise reduction from " + q(noise_.name), draft);
        parts_.tell(QString("Pinned in the tier %1 of the draft, derived from %2 version %3.")
                        .arg(q(draft.tier(id)->name), q(noise_.name))
                        .arg(noise_.version));
        accept();
    });
}

}  // namespace optrel

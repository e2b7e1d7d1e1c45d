// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/alike_panel.h"

#include <QPointer>
#include <QSplitter>
#include <algorithm>
#include <set>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/station.h"
#include "jobs.h"
#include "patches/body_colours.h"
#include "patches/colorimetry.h"
#include "widgets/number_box.h"
#include "widgets/patch_view.h"
#include "widgets/place.h"

namespace optrel {
namespace {

QString with_sigma(const FigureKind& kind, const ColourFigure& f) { return q(number_text(kind, f.value, f.sigma)); }

QString shown_difference(double difference) { return q(number_text(figures::colour_difference, difference)); }

Cell spread_cell(const Spread& s) {
    return {QString("%1 / %2").arg(shown_difference(s.mean), shown_difference(s.p95)), s.mean};
}

NumberBox* limit_box(const QString& name, double value) {
    auto* box = new NumberBox;
    box->setRange(0.05, 100);
    box->setDecimals(2);
    box->setSingleStep(0.1);
    box->setValue(value);
    box->setAccessibleName(name);
    return box;
}

}  // namespace

AlikePanel::AlikePanel(const Parts& parts, QWidget* parent) : QWidget(parent), parts_(parts) {
    build();
    connect(&parts_.profiles(), &ProfileModel::changed, this, [this] {
        stale_ = true;
        if (isVisible()) list_references();
    });
    refresh();
}

void AlikePanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) list_references();
}

QString AlikePanel::label(const std::string& body) const {
    const Body* entry = parts_.entries().fleet()->body(body);
    return q(entry ? entry->label() : body);
}

void AlikePanel::build_tables() {
    bodies_ = new TableOf<SpanRow>(
        "Proposed pins",
        {{text_column("Body"), [this](const SpanRow& r) { return Cell(label(r.body)); }},
         {text_column("ISO", 66),
          [](const SpanRow& r) {
              return Cell(r.span.first_iso == r.span.last_iso
                              ? QString::number(r.span.first_iso)
                              : QString("%1–%2").arg(r.span.first_iso).arg(r.span.last_iso));
          }},
         {figure_column("Exposure EV", 100),
          [](const SpanRow& r) {
              const AlikePins& p = r.span.pins;
              return p.exposure ? Cell(with_sigma(figures::exposure, p.exposure_ev), p.exposure_ev.value) : Cell();
          }},
         {figure_column("Warmth MK⁻¹", 90),
          [](const SpanRow& r) {
              const AlikePins& p = r.span.pins;
              return p.neutral ? Cell(with_sigma(figures::warmth, p.warmth), p.warmth.value) : Cell();
          }},
         {figure_column("Tint", 78),
          [](const SpanRow& r) {
              const AlikePins& p = r.span.pins;
              return p.neutral ? Cell(with_sigma(figures::tint, p.tint), p.tint.value) : Cell();
          }},
         {text_column("Colours", 58), [](const SpanRow& r) { return Cell(r.span.pins.colour_file ? "own file" : ""); }},
         {figure_column("dE2000", 96), [](const SpanRow& r) {
              const AlikePins& p = r.span.pins;
              Cell out(q(change_text(figures::colour_difference, p.before.mean, p.after.mean)), p.after.mean);
              out.tone = p.reached ? Cell::Tone::mark : Cell::Tone::warning;
              out.hint = QString("Mean before and after; 95 percent of the patches: %1 and %2. %3")
                             .arg(shown_difference(p.before.p95), shown_difference(p.after.p95),
                                  p.reached ? "Within the limit." : "The limit is not reached.");
              return out;
          }}});
    bodies_->allow_several();
    connect(bodies_, &Table::selection_changed, this, [this] { show_charts(); });
    pairs_ = new TableOf<PairSpread>(
        "Pairs of bodies",
        {{text_column("Body"), [this](const PairSpread& p) { return Cell(label(p.body_a)); }},
         {text_column("and"), [this](const PairSpread& p) { return Cell(label(p.body_b)); }},
         {figure_column("ISO", 52), [](const PairSpread& p) { return figure_cell(p.iso); }},
         {figure_column("As recorded", 90), [](const PairSpread& p) { return spread_cell(p.recorded); }},
         {figure_column("As pinned", 90), [](const PairSpread& p) { return spread_cell(p.pinned); }}});
    pairs_->allow_sorting(true);
}

void AlikePanel::build() {
    reference_ = new QComboBox;
    reference_->setAccessibleName("Reference");
    reference_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    reference_->setToolTip("The body that the others are to match, or the chart's own values");
    connect(reference_, &QComboBox::activated, this, &AlikePanel::compare);
    mean_ = limit_box("Largest mean difference", AlikeLimit().mean);
    p95_ = limit_box("Largest difference of 95 percent of the patches", AlikeLimit().p95);
    compare_ = button("&Compare", "Compares all measured bodies, and proposes the fewest pins that make them alike");
    pin_ = button("&Pin in the draft", "Pins what is proposed for the chosen bodies, or for all; one step, undoable",
                  true);
    connect(compare_, &QPushButton::clicked, this, &AlikePanel::compare);
    connect(pin_, &QPushButton::clicked, this, &AlikePanel::pin);
    auto* line = new QHBoxLayout;
    const auto labelled = [&](const QString& text, QWidget* box) {
        auto* name = new QLabel(text);
        name->setBuddy(box);
        line->addWidget(name);
        line->addWidget(box);
        line->addSpacing(8);
    };
    labelled("Ma&tch", reference_);
    labelled("Limit dE2000, &mean", mean_);
    labelled("&95 percent", p95_);
    line->addStretch(1);
    line->addWidget(compare_);
    line->addWidget(pin_);
    build_tables();
    charts_ = new PatchView("The chart as bodies render it");
    said_ = new QLabel;
    said_->setWordWrap(true);
    auto* left = new QSplitter(Qt::Vertical);
    left->addWidget(panel("Proposed pins, one sigma; mean dE2000 from the reference, before and after", bodies_));
    left->addWidget(panel("Each pair: dE2000 of the same patches, mean / 95 percent", pairs_));
    left->setSizes({260, 300});
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left);
    across->addWidget(
        panel("The chart: reference in the upper left of each patch, rendering as pinned in the lower right", charts_));
    across->setSizes({740, 440});
    across->setStretchFactor(1, 1);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 6, 0, 0);
    all->setSpacing(4);
    all->addLayout(line);
    all->addWidget(said_);
    all->addWidget(across, 1);
}

/// The measured bodies are read off the window's thread.
void AlikePanel::list_references() {
    stale_ = false;
    const auto bodies = std::make_shared<std::vector<std::string>>();
    parts_.jobs().run_quietly(
        [source = parts_.profiles().source(), bodies] {
            try {
                const auto store = source.open_for_reading();
                *bodies = bodies_with_colours(*store);
            } catch (const std::exception&) {
                // The place says that no body is measured; what is wrong with the store stands in Attention.
            }
        },
        [here = QPointer<AlikePanel>(this), bodies] {
            if (!here) return;
            const QVariant before = here->reference_->currentData();
            here->reference_->clear();
            for (const std::string& body : *bodies) here->reference_->addItem(here->label(body), q(body));
            if (!bodies->empty()) here->reference_->addItem("the chart's own values", QString());
            if (before.isValid()) here->reference_->setCurrentIndex(std::max(0, here->reference_->findData(before)));
            here->found_ = nullptr;
            here->refresh();
            here->show_found();
            if (bodies->size() > 1) here->compare();
        });
}

void AlikePanel::show_something() {
    if (!found_ && reference_->count() > 0) compare();
}

void AlikePanel::compare() {
    if (running_.running() || reference_->count() == 0) return;
    found_ = nullptr;
    AlikeRequest request;
    request.reference = reference_->currentData().toString().toStdString();
    request.limit = {mean_->value(), p95_->value()};
    const auto result = std::make_shared<Found>();
    result->reference = request.reference;
    running_.start(
        parts_.jobs(), "Comparing bodies",
        [source = parts_.profiles().source(), draft = parts_.baselines().draft(), request, result](Progress&) {
            const auto store = source.open_for_reading();
            AlikeRequest wanted = request;
            wanted.bodies = bodies_with_colours(*store);
            // The reference comes first: its light counts.
            std::vector<std::string> bodies = wanted.bodies;
            std::stable_partition(bodies.begin(), bodies.end(),
                                  [&](const std::string& b) { return b == wanted.reference; });
            result->spread = fleet_spread(*store, bodies, draft, wanted.kelvin);
            try {
                result->alike = propose_alike(*store, wanted);
                result->proposed = true;
            } catch (const Error& error) {
                result->problem = error.what();
            }
        },
        [this, result](const std::string& problem) {
            if (problem.empty()) found_ = result;
            show_found();
            if (!problem.empty()) said_->setText(q(problem));
        });
    refresh();
    said_->setText("Comparing…");
}

void AlikePanel::show_found() {
    rows_.clear();
    if (found_)
        for (const BodyAlike& b : found_->alike.bodies)
            for (const AlikeSpan& s : b.spans) rows_.push_back({b.body, s});
    bodies_->show_records(rows_);
    pairs_->show_records(found_ ? found_->spread.pairs : std::vector<PairSpread>());
    refresh();
    show_charts();
    if (!found_) {
        said_->setText(reference_->count() == 0
                           ? "No body's colours are measured yet. Photograph a patch chart with each body in one "
                             "light, measure it "
                             "with optrel-cli colour measure, and publish it with store publish-colours."
                           : "Compare tells how far the measured bodies render the chart apart.");
        return;
    }
    QStringList said;
    if (!found_->problem.empty()) said << q(found_->problem);
    for (const BodyAlike& b : found_->alike.bodies)
        if (b.outside_chart)
            said << QString(
                        "%1 sees infrared: its colours are outside those of a chart, so only exposure and neutral "
                        "are proposed.")
                        .arg(label(b.body));
    for (const std::string& problem : found_->spread.problems) said << q(problem);
    if (!found_->spread.stands_out.empty())
        said << QString("%1 stands out: %2 dE2000 from the others on the mean, as pinned.")
                    .arg(label(found_->spread.stands_out), shown_difference(found_->spread.stands_out_by));
    double recorded = 0, pinned = 0;
    for (const PairSpread& p : found_->spread.pairs) {
        recorded += p.recorded.mean / static_cast<double>(found_->spread.pairs.size());
        pinned += p.pinned.mean / static_cast<double>(found_->spread.pairs.size());
    }
    said << QString("All pairs: %1 dE2000 as recorded, %2 as pinned in the draft.")
                .arg(shown_difference(recorded), shown_difference(pinned));
    said_->setText(said.join(" "));
}

void AlikePanel::show_charts() {
    if (!found_) return charts_->clear("The chart as each body renders it is drawn here.");
    std::set<std::string> chosen;
    for (const int row : bodies_->chosen_rows()) chosen.insert(rows_[static_cast<std::size_t>(row)].body);
    const FleetSpread& spread = found_->spread;
    const RenderedChart* reference = nullptr;
    for (const RenderedChart& c : spread.charts)
        if (c.body == found_->reference && !reference) reference = &c;
    std::vector<SplitChart> out;
    std::set<std::string> shown;
    for (const RenderedChart& c : spread.charts) {
        if (c.body == found_->reference || !shown.insert(c.body).second) continue;
        if (!chosen.empty() && chosen.count(c.body) == 0) continue;
        SplitChart split{label(c.body), {}, spread.chart.columns, spread.chart.rows, {}};
        std::vector<double> all;
        for (std::size_t i = 0; i < spread.chart.patches.size(); ++i) {
            const ReferencePatch& patch = spread.chart.patches[i];
            SplitPatch p{q(patch.id),
                         patch.column,
                         patch.row,
                         reference ? reference->pinned[i] : patch.xyz_d50,
                         c.pinned[i],
                         0,
                         c.used[i] && (!reference || reference->used[i])};
            p.de2000 = de2000(lab_of(p.wanted, white_d50), lab_of(p.rendered, white_d50));
            if (p.used) all.push_back(p.de2000);
            split.patches.push_back(std::move(p));
        }
        const Spread s = spread_of(all);
        split.figures = QString("ISO %1: dE2000 %2 on the mean, %3 at most")
                            .arg(c.iso)
                            .arg(shown_difference(s.mean), shown_difference(s.largest));
        out.push_back(std::move(split));
    }
    if (out.empty()) return charts_->clear("No other body is measured.");
    charts_->show_charts(std::move(out));
}

void AlikePanel::refresh() {
    compare_->setEnabled(!running_.running() && reference_->count() > 0);
    pin_->setEnabled(found_ && found_->proposed && !running_.running());
}

void AlikePanel::pin() {
    if (!found_ || !found_->proposed) return;
    std::set<std::string> chosen;
    for (const int row : bodies_->chosen_rows()) chosen.insert(rows_[static_cast<std::size_t>(row)].body);
    std::vector<BodyAlike> bodies;
    for (const BodyAlike& b : found_->alike.bodies)
        if (chosen.empty() || chosen.count(b.body) > 0) bodies.push_back(b);
    const auto files = std::make_shared<std::vector<std::optional<Value>>>();
    running_.start(
        parts_.jobs(), "Writing colour files",
        [source = parts_.profiles().source(), bodies, reference = found_->reference, files,
         author = current_author()](Progress&) {
            Store store = source.open_for_writing();
            for (const BodyAlike& b : bodies) files->push_back(put_colour_file(store, b, reference, author));
        },
        [this, bodies, files](const std::string& problem) {
            refresh();
            if (!problem.empty()) return said_->setText(q(problem));
            parts_.attempt([&] {
                parts_.profiles().reload();
                Revision draft = parts_.baselines().draft();
                for (std::size_t i = 0; i < bodies.size(); ++i) pin_alike(draft, bodies[i], (*files)[i]);
                parts_.baselines().edit("make bodies alike", draft);
                parts_.tell(QString("Pinned for %1 bod%2 in the draft; publish it in Baselines to make it count.")
                                .arg(bodies.size())
                                .arg(bodies.size() == 1 ? "y" : "ies"));
                compare();
            });
        });
    refresh();
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/noise_panel.h"

#include <QScrollArea>
#include <QSplitter>
#include <array>
#include <cmath>

#include "fleet/noise_ramp_dialog.h"
#include "fleet/version_actions.h"
#include "sensor/noise_kind.h"
#include "sensor/noise_plan.h"
#include "shared/noise_figures.h"
#include "studio/frames/measured_facts.h"
#include "widgets/log_plot.h"
#include "widgets/place.h"

namespace optrel {
namespace {

constexpr const char* colour_words[] = {"red", "green", "blue"};

QColor colour_of(int channel) {
    const std::array<QColor, 3> colours{theme::channel_red, theme::channel_green, theme::channel_blue};
    return colours[static_cast<std::size_t>(channel)];
}

LogCurve over_iso(const NoiseReport& report, const QString& label, int channel, Qt::PenStyle dash, const QColor& colour,
                  const std::function<MeasuredFigure(const ReportedColour&)>& value) {
    LogCurve out{label, colour, dash, {}, {}};
    for (const ReportedIso& i : report.isos) {
        const MeasuredFigure f = value(i.colours[static_cast<std::size_t>(channel)]);
        out.points.emplace_back(i.iso, f.value);
        out.sigma.push_back(f.sigma);
    }
    return out;
}

MeasuredFigure range_figure(const ReportedColour& c) {
    const double relative = std::hypot(c.full_well.sigma / std::max(1e-9, c.full_well.value),
                                       c.read_noise.sigma / std::max(1e-9, c.read_noise.value));
    return {c.dynamic_range_ev, relative / std::log(2.0)};
}

/// A figure over signal, from 1/4096 to the white level.
LogCurve over_signal(const QString& label, const QColor& colour, Qt::PenStyle dash, double scale,
                     const std::function<double(double)>& value) {
    LogCurve out{label, colour, dash, {}, {}};
    for (int k = 0; k <= 96; ++k) {
        const double signal = std::exp2(-12 + k / 8.0);
        out.points.emplace_back(signal * scale, value(signal));
    }
    return out;
}

std::vector<double> isos_of(const NoiseReport& report) {
    std::vector<double> out;
    for (const ReportedIso& i : report.isos) out.push_back(i.iso);
    return out;
}

}  // namespace

NoisePanel::NoisePanel(const Parts& parts, QWidget* parent) : QWidget(parent), parts_(parts) {
    build();
    connect(&parts_.profiles(), &ProfileModel::changed, this, [this] {
        stale_ = true;
        if (isVisible()) refresh();
    });
}

void NoisePanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) refresh();
}

QWidget* NoisePanel::build_left() {
    list_ = new TableOf<Measurement>(
        "Measured bodies", {{text_column("Body"), [](const Measurement& m) { return Cell(measured_body(m)); }},
                            {figure_column("Version", 60), version_cell},
                            {text_column("Measured", 88), [](const Measurement& m) { return day_cell(m.time); }},
                            {text_column("By", 80), [](const Measurement& m) { return Cell(q(m.author)); }}});
    connect(list_, &Table::chosen_changed, this, &NoisePanel::show_version);
    colour_ = new QComboBox;
    colour_->addItems({"red", "green", "blue"});
    colour_->setCurrentIndex(1);
    colour_->setAccessibleName("Colour of the figures");
    connect(colour_, &QComboBox::activated, this, [this] { show_version(shown_); });
    figures_ = new_noise_figures(
        "Noise for each ISO", [this] { return colour_->currentIndex(); }, false);
    connect(figures_, &Table::chosen_changed, this, [this] { show_curves(); });
    notes_ = new QLabel;
    notes_->setWordWrap(true);
    notes_->setTextFormat(Qt::RichText);
    notes_->setAlignment(Qt::AlignTop);
    notes_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    notes_->setMargin(4);
    auto* scroll = new QScrollArea;
    scroll->setWidget(notes_);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setAccessibleName("Findings and what is still to take");
    auto* of_colour = new QWidget;
    auto* line = new QHBoxLayout;
    line->addWidget(heading("Figures of"));
    line->addWidget(colour_);
    line->addStretch(1);
    auto* stacked = stacked_in(of_colour);
    stacked->addLayout(line);
    stacked->addWidget(figures_);
    auto* left = new QSplitter(Qt::Vertical);
    left->addWidget(panel("Measured bodies, newest version first", list_));
    left->addWidget(of_colour);
    left->addWidget(panel("Findings, and what is still to take", scroll));
    left->setSizes({150, 220, 170});
    return left;
}

QWidget* NoisePanel::build_right() {
    using Height = LogPlot::Height;
    read_noise_ = new LogPlot("Read noise over ISO", "ISO", "read noise / e⁻", Height::linear);
    range_ = new LogPlot("Dynamic range over ISO", "ISO", "dynamic range / EV", Height::linear);
    snr_ =
        new LogPlot("Signal-to-noise ratio over exposure", "signal / % of the white level", "SNR / dB", Height::linear);
    transfer_ = new LogPlot("Photon transfer", "signal / e⁻", "noise / e⁻", Height::logarithmic);
    other_ = new QComboBox;
    other_->setAccessibleName("Overlay another body");
    other_->setToolTip("Another body or version, drawn dashed in the same plots");
    connect(other_, &QComboBox::activated, this, [this] { show_curves(); });
    auto* over_iso = new QSplitter(Qt::Vertical);
    over_iso->addWidget(read_noise_);
    over_iso->addWidget(range_);
    auto* over_light = new QSplitter(Qt::Vertical);
    over_light->addWidget(snr_);
    over_light->addWidget(transfer_);
    curves_ = new QTabWidget;
    curves_->setDocumentMode(true);
    curves_->setAccessibleName("Curves of the noise");
    curves_->addTab(over_iso, "Over ISO");
    curves_->addTab(over_light, "Over &light");
    auto* right = new QWidget;
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel("Overlay"));
    line->addWidget(other_, 1);
    auto* down = stacked_in(right);
    down->addLayout(line);
    down->addWidget(curves_, 1);
    return right;
}

void NoisePanel::build() {
    measure_ = button("&Measure noise…",
                      "Begins a noise run on the Bench, from pairs of flat fields and from dark frames", true);
    derive_ =
        button("&Noise reduction…", "Derives the least noise reduction for each ISO, drawn against what is pinned");
    current_ = button("Make &current…", "Pins and raw copies follow the chosen version from now on");
    withdraw_ = button("&Withdraw…", "The chosen version no longer counts; it stays here with the reason");
    connect(measure_, &QPushButton::clicked, this, &NoisePanel::ask_to_measure);
    connect(derive_, &QPushButton::clicked, this, &NoisePanel::ask_to_derive);
    connect(current_, &QPushButton::clicked, this, &NoisePanel::ask_to_make_current);
    connect(withdraw_, &QPushButton::clicked, this, &NoisePanel::ask_to_withdraw);
    empty_ = new QLabel;
    empty_->setObjectName("faint");
    empty_->setWordWrap(true);
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(build_left());
    across->addWidget(build_right());
    across->setSizes({590, 570});
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    layout->setSpacing(4);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(empty_, 1);
    for (QPushButton* b : {current_, withdraw_, derive_, measure_}) buttons->addWidget(b);
    layout->addLayout(buttons);
    layout->addWidget(across, 1);
}

void NoisePanel::refresh() {
    stale_ = false;
    versions_.clear();
    reports_.clear();
    parts_.attempt([this] {
        for (Measurement& m : parts_.profiles().versions(noise_kind())) {
            // One that is damaged is told, and hides no other.
            parts_.attempt([&] {
                reports_.push_back(noise_report(m.document, m.name));
                versions_.push_back(std::move(m));
            });
        }
    });
    empty_->setText(versions_.empty()
                        ? "No body is measured yet. Take pairs of flat fields at several exposures and a few dark "
                          "frames for each ISO, out of focus, with nothing moved; then measure them on the Bench."
                        : "");
    list_->show_records(versions_);
    if (list_->chosen() < 0) list_->choose(0);
    show_version(list_->chosen());
}

void NoisePanel::show_something() {
    if (stale_) refresh();
    if (list_->chosen() < 0) list_->choose(0);
    if (figures_->chosen() < 0) figures_->choose(0);
    if (other_->count() > 1) other_->setCurrentIndex(1);
    show_curves();
}

void NoisePanel::show_version(int row) {
    shown_ = row >= 0 && row < static_cast<int>(versions_.size()) ? row : -1;
    derive_->setEnabled(shown_ >= 0 && versions_[shown_].state.is_current());
    current_->setEnabled(shown_ >= 0 && !versions_[shown_].state.is_current());
    withdraw_->setEnabled(shown_ >= 0 && versions_[shown_].state.withdrawn.empty());
    figures_->show_records(shown_ >= 0 ? reports_[shown_].isos : std::vector<ReportedIso>());
    if (shown_ >= 0 && figures_->chosen() < 0) figures_->choose(0);
    list_others();
    show_notes();
    show_curves();
}

void NoisePanel::list_others() {
    const QString before = other_->currentText();
    other_->clear();
    other_->addItem("nothing");
    for (int i = 0; i < static_cast<int>(versions_.size()); ++i)
        if (i != shown_)
            other_->addItem(QString("%1 %2, version %3")
                                .arg(q(versions_[i].subject.name), q(versions_[i].subject.serial))
                                .arg(versions_[i].version),
                            i);
    other_->setCurrentIndex(std::max(0, other_->findText(before)));
}

const NoiseReport* NoisePanel::compared() const {
    return other_->currentIndex() > 0 ? &reports_[other_->currentData().toInt()] : nullptr;
}

QString NoisePanel::compared_name() const {
    const Measurement& m = versions_[other_->currentData().toInt()];
    if (shown_ >= 0 && m.id == versions_[shown_].id) return QString("v%1").arg(m.version);
    return q(m.subject.serial.empty() ? m.subject.name : m.subject.serial);
}

void NoisePanel::show_notes() {
    if (shown_ < 0) return notes_->setText({});
    const NoiseReport& report = reports_[shown_];
    QStringList lines;
    if (report.digital_above_iso > 0)
        lines << QString(
                     "Above ISO %1 the read noise of this body gets no lower, in electrons: a higher ISO gains nothing "
                     "there.")
                     .arg(report.digital_above_iso);
    for (const ReportedFinding& f : report.findings)
        lines << QString("<b>%1 %2</b>: %3 %4")
                     .arg(f.serious ? "!" : "–", q(f.name).toHtmlEscaped(), q(f.text).toHtmlEscaped(),
                          q(f.remedy).toHtmlEscaped());
    for (const NoisePlanStep& s : noise_plan(report))
        lines << QString("Still to take at ISO %1: %2. Then %3.").arg(s.iso).arg(q(s.take), q(s.gain));
    if (lines.isEmpty()) lines << "Nothing was found, and nothing is still to take.";
    notes_->setText(lines.join("<br>"));
}

void NoisePanel::show_curves() {
    if (shown_ < 0) {
        for (LogPlot* plot : {read_noise_, range_, snr_, transfer_})
            plot->clear("The noise of a measured body is drawn here.");
        return;
    }
    const NoiseReport& own = reports_[shown_];
    const NoiseReport* other = compared();
    std::vector<LogCurve> read, range, snr;
    const auto value = [](const ReportedColour& c) { return c.read_noise; };
    // The colours of one sensor lie on one another, so only the chosen one is drawn.
    const int channel = colour_->currentIndex();
    const QString own_name = q(own.serial.empty() ? own.camera : own.serial) + " " + colour_words[channel];
    read.push_back(over_iso(own, own_name, channel, Qt::SolidLine, colour_of(channel), value));
    range.push_back(over_iso(own, own_name, channel, Qt::SolidLine, colour_of(channel), range_figure));
    if (other) {
        const QString name = compared_name();
        read.push_back(over_iso(*other, name + " " + colour_words[channel], channel, Qt::DashLine, theme::ink, value));
        range.push_back(
            over_iso(*other, name + " " + colour_words[channel], channel, Qt::DashLine, theme::ink, range_figure));
    }
    read_noise_->set_curves(std::move(read), isos_of(own));
    range_->set_curves(std::move(range), isos_of(own));
    // Over light: the chosen ISO, and where it is the only one that is told, its neighbours too.
    const int row = std::clamp(figures_->chosen(), 0, static_cast<int>(own.isos.size()) - 1);
    for (const ReportedIso& i : own.isos) {
        const ReportedColour& c = i.colours[static_cast<std::size_t>(channel)];
        const bool chosen = i.iso == own.isos[static_cast<std::size_t>(row)].iso;
        snr.push_back(over_signal(QString("ISO %1").arg(i.iso), chosen ? theme::mark : theme::faint_ink,
                                  chosen ? Qt::SolidLine : Qt::DotLine, 100, [&](double s) { return c.snr_db(s); }));
    }
    const ReportedIso& here = own.isos[static_cast<std::size_t>(row)];
    const ReportedColour& c = here.colours[static_cast<std::size_t>(channel)];
    if (other)
        for (const ReportedIso& i : other->isos)
            if (i.iso == here.iso) {
                const ReportedColour& there = i.colours[static_cast<std::size_t>(channel)];
                snr.push_back(over_signal(compared_name(), theme::ink, Qt::DashLine, 100,
                                          [&](double s) { return there.snr_db(s); }));
            }
    snr_->set_titles(QString("%1, %2").arg(q(own.camera), colour_words[channel]), {});
    snr_->set_curves(std::move(snr));
    const double well = c.full_well.value;
    const auto electrons = [&](double variance) { return std::sqrt(std::max(0.0, variance)) * well; };
    transfer_->set_titles(QString("ISO %1, %2").arg(here.iso).arg(colour_words[channel]), {});
    transfer_->set_curves(
        {over_signal("all", theme::ink, Qt::SolidLine, well,
                     [&](double s) {
                         const double fixed = c.prnu.value / 100 * s;
                         return electrons(c.a.value * s + c.b.value + fixed * fixed);
                     }),
         over_signal("light", theme::mark, Qt::DashLine, well, [&](double s) { return electrons(c.a.value * s); }),
         over_signal("reading", theme::channel_red, Qt::DashLine, well, [&](double) { return electrons(c.b.value); }),
         over_signal("uneven pixels", theme::warning, Qt::DotLine, well,
                     [&](double s) { return c.prnu.value / 100 * s * well; })});
}

void NoisePanel::ask_to_measure() {
    emit parts_.messages().go_to(static_cast<int>(theme::Place::bench), "new noise run");
}

void NoisePanel::ask_to_derive() {
    if (shown_ < 0) return;
    auto* dialog = new NoiseRampDialog(parts_, versions_[shown_], this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void NoisePanel::ask_to_make_current() {
    if (shown_ < 0) return;
    make_version_current(parts_, this, versions_[shown_],
                         "No frame changes. Pins that name a version keep their values, and their trace tells "
                         "that another one is current; raw copies carry the noise of the chosen version from "
                         "now on.");
}

void NoisePanel::ask_to_withdraw() {
    if (shown_ < 0) return;
    withdraw_version(parts_, this, versions_[shown_], "No frame changes. Raw copies no longer carry it from now on.");
}

}  // namespace optrel

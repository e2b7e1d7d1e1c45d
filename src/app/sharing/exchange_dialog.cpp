// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/exchange_dialog.h"

#include <QFormLayout>
#include <QPointer>
#include <QSplitter>

#include "base/choose.h"
#include "base/figure_text.h"
#include "base/words.h"
#include "sharing/bundle_dialog.h"
#include "sharing/measurer_dialog.h"
#include "sharing/standing_words.h"
#include "widgets/picture_map.h"
#include "widgets/place.h"

namespace optrel {
namespace {

NumberBox* figure(const char* name, double value, double most, const char* unit, const char* none) {
    auto* box = new NumberBox;
    box->setAccessibleName(name);
    box->setRange(0, most);
    box->setDecimals(most > 100 ? 1 : 2);
    box->setSuffix(QString(" ") + unit);
    box->setSpecialValueText(none);
    box->setValue(value);
    return box;
}

QString span(double low, double high) {
    if (high <= 0) return "not said";
    return low == high ? QString("%1").arg(low) : QString("%1–%2").arg(low).arg(high);
}

Cell standing_cell(const ExchangeCandidate& c) {
    const auto tone = first_of<Cell::Tone>(
        {{c.standing == Standing::trusted, Cell::Tone::mark}, {c.standing == Standing::unknown, Cell::Tone::plain}},
        Cell::Tone::serious);
    return {standing_mark(c.standing) + " " + q(c.worth()), tone, q(to_string(c.standing)) + "; key " + q(c.entry.key)};
}

Cell agreement_cell(const ExchangeCandidate& c) {
    if (!c.entry.agreement) return {"alone", Cell::Tone::faint, "Nobody else measured a copy at this lens setting"};
    const auto& a = *c.entry.agreement;
    Cell cell(q(number_text(figures::shift, a.from_others_px, a.sigma_px)), a.from_others_px);
    cell.hint = QString(
                    "RMS distance in px from the mean of %1 others, over the picture; one sigma of that, from its own "
                    "measurement, theirs, and how copies differ")
                    .arg(a.others);
    return cell;
}

TableOf<ExchangeCandidate>* new_list() {
    using C = ExchangeCandidate;
    return new TableOf<C>(
        "Profiles at the exchange",
        {{text_column("Lens"), [](const C& c) { return Cell(q(c.entry.lens)); }},
         {text_column("Measured by", 140),
          [](const C& c) {
              return Cell(c.measurer.empty() ? "gave no name" : q(c.measurer), Cell::Tone::plain,
                          "Key " + q(key_words(c.entry.key)));
          }},
         {text_column("Taken as", 112), standing_cell},
         {figure_column("Sensor mm", 74),
          [](const C& c) {
              Cell cell = measured_cell(figures::sensor_side, 2 * c.entry.geometry.half_diagonal_mm());
              cell.hint = "Diagonal of the sensor that it was measured on; on " + q(c.entry.camera);
              return cell;
          }},
         {figure_column("Focal mm", 70),
          [](const C& c) { return Cell(span(c.entry.focal_min, c.entry.focal_max), c.entry.focal_min); }},
         {figure_column("Frames", 56), [](const C& c) { return figure_cell(c.entry.frames); }},
         {figure_column("RMS px", 60),
          [](const C& c) { return measured_cell(figures::reprojection_error, c.entry.rms_px); }},
         {figure_column("Covered %", 70),
          [](const C& c) { return measured_cell(figures::share, 100 * c.entry.coverage); }},
         {figure_column("From others px", 104), agreement_cell},
         {text_column("Measured", 84), [](const C& c) { return Cell(q(c.entry.measured)); }}});
}

}  // namespace

ExchangeDialog::ExchangeDialog(const Parts& parts, const ExchangeQuestion& question, QWidget* parent)
    : QDialog(parent), parts_(parts) {
    setWindowTitle("What others measured");
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(exchange_row());
    layout->addWidget(question_row());
    lens_->setText(q(question.lens));
    half_diagonal_->setValue(2 * question.half_diagonal_mm);
    focal_->setValue(question.setting.focal_mm);
    said_ = new QLabel("Nothing was asked yet. A search sends the lens and the figures above, and nothing else.");
    said_->setAccessibleDescription("What the search found");
    said_->setTextFormat(Qt::PlainText);
    said_->setWordWrap(true);
    layout->addWidget(said_);
    list_ = new_list();
    connect(list_, &Table::chosen_changed, this, [this] { show_chosen(); });
    auto* split = new QSplitter(Qt::Vertical);
    split->addWidget(list_);
    split->addWidget(consensus_panel());
    split->setSizes({240, 260});
    layout->addWidget(split, 1);
    take_ = button("&Take in…", "Looks at the chosen profile, and takes it in if you wish", true);
    trust_ = button("Trust its &measurer…",
                    "Lets this studio trust the signer of the chosen profile, or withdraws that trust");
    auto* close = button("Close", "Leaves");
    connect(take_, &QPushButton::clicked, this, &ExchangeDialog::take);
    connect(trust_, &QPushButton::clicked, this, &ExchangeDialog::trust);
    connect(close, &QPushButton::clicked, this, &QDialog::reject);
    auto* row = row_of({take_, trust_});
    row->addStretch(1);
    row->addWidget(close);
    layout->addLayout(row);
    show_chosen();
    // The dialog hides the main window's message.
    connect(&parts_.messages(), &Messages::told, this, [this](const QString& message, bool) {
        rest();
        said_->setText(message);
    });
    resize(1080, 680);
}

QWidget* ExchangeDialog::exchange_row() {
    auto* box = new QWidget;
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    address_ = new QLineEdit(q(parts_.sharing().exchange()));
    address_->setAccessibleName("Address of the exchange");
    address_->setPlaceholderText("http://HOST:PORT or https://HOST; no exchange is set, so none is asked");
    auto* settle = button("&Settle", "From now on this studio asks this exchange; an empty address means none");
    connect(settle, &QPushButton::clicked, this, &ExchangeDialog::settle_address);
    auto* label = new QLabel("E&xchange");
    label->setBuddy(address_);
    row->addWidget(label);
    row->addWidget(address_, 1);
    row->addWidget(settle);
    return box;
}

QWidget* ExchangeDialog::question_row() {
    auto* box = new QWidget;
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    lens_ = search_line("Lens", "Words of the lens");
    half_diagonal_ = figure("Diagonal of the sensor", 0, 200, "mm", "any sensor");
    half_diagonal_->setToolTip("Only profiles that were measured on a sensor at least so large");
    focal_ = figure("Focal length", 0, 5000, "mm", "any focal length");
    most_rms_ = figure("Largest residual", 0, 10, "px RMS", "any quality");
    most_rms_->setToolTip("Only profiles whose residual is no larger");
    search_ = button("Sea&rch", "Asks the exchange", true);
    search_->setDefault(true);
    connect(search_, &QPushButton::clicked, this, &ExchangeDialog::search);
    row->addWidget(lens_, 1);
    for (NumberBox* b : {half_diagonal_, focal_, most_rms_}) row->addWidget(b);
    row->addWidget(search_);
    search_->setEnabled(!parts_.sharing().exchange().empty());
    return box;
}

QWidget* ExchangeDialog::consensus_panel() {
    consensus_ = new QLabel("The differences between copies of one lens are shown here when several were found.");
    consensus_->setAccessibleDescription("How copies differ");
    consensus_->setTextFormat(Qt::PlainText);
    consensus_->setWordWrap(true);
    consensus_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    spread_ = new PictureMap("How copies differ over the picture");
    spread_->clear("No copies are compared.");
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(panel("What a model's profile is worth for a copy that was not measured", consensus_));
    split->addWidget(spread_);
    split->setSizes({520, 520});
    return split;
}

void ExchangeDialog::settle_address() {
    if (!parts_.attempt([this] { parts_.sharing().settle_exchange(address_->text().toStdString()); })) return;
    address_->setText(q(parts_.sharing().exchange()));
    search_->setEnabled(!parts_.sharing().exchange().empty());
    said_->setText(parts_.sharing().exchange().empty()
                       ? "This studio asks no exchange."
                       : "This studio asks " + q(parts_.sharing().exchange()) + " from now on.");
}

ExchangeQuestion ExchangeDialog::question() const {
    ExchangeQuestion out;
    out.lens = lens_->text().trimmed().toStdString();
    out.half_diagonal_mm = half_diagonal_->value() / 2;
    out.setting.focal_mm = focal_->value();
    out.most_rms_px = most_rms_->value();
    return out;
}

void ExchangeDialog::rest() {
    asking_ = false;
    search_->setText("Sea&rch");
}

void ExchangeDialog::search() {
    if (asking_) return parts_.sharing().cancel();
    asking_ = true;
    search_->setText("Stop");
    said_->setText("Asking " + q(parts_.sharing().exchange()) + "…");
    parts_.sharing().ask(question(), [self = QPointer(this)](const ExchangeAnswer& answer) {
        if (self) self->show_answer(answer);
    });
}

void ExchangeDialog::show_answer(const ExchangeAnswer& answer) {
    rest();
    answer_ = answer;
    list_->show_records(answer_.candidates);
    const auto shown = static_cast<int>(answer_.candidates.size());
    if (shown == 0)
        said_->setText("Nobody gave a profile that fits. Leave out the sensor, or some words of the lens.");
    else
        said_->setText(
            (shown == 1 ? QString("One profile fits.") : QString("%1 profiles fit.").arg(answer_.total)) +
            (answer_.total > shown ? QString(" The first %1 are shown; narrow the search.").arg(shown) : QString()));
    if (list_->row_count() > 0) list_->choose(0);
    show_chosen();
    consensus_->setText(shown > 1 ? "Comparing the copies…"
                                  : "A single measurement cannot show how much copies differ.");
    spread_->clear("No copies are compared.");
    if (shown > 1)
        parts_.sharing().compare(answer_, [self = QPointer(this)](const std::optional<ModelConsensus>& c) {
            if (self) self->show_consensus(c);
        });
}

void ExchangeDialog::show_consensus(const std::optional<ModelConsensus>& consensus) {
    if (!consensus) {
        consensus_->setText("No two copies of one lens can be compared at this lens setting.");
        return;
    }
    QStringList sentences;
    for (const std::string& s : consensus->sentences()) sentences << q(s);
    consensus_->setText(sentences.join("\n\n"));
    constexpr int across = 21, down = 15;
    const CopySpread& s = consensus->spread;
    std::vector<PictureMap::Part> parts;
    for (std::size_t i = 0; i < s.places.size(); ++i) {
        const int cell = consensus->geometry.cell(s.places[i], across, down);
        parts.push_back({cell % across, cell / across, s.at_place_px[i]});
    }
    PictureMap::Look look;
    look.quantity = "Copies differ by, px (one sigma)";
    look.said = [](double v) { return q(figure_text(figures::shift, v)); };
    spread_->show_parts(QSizeF(consensus->geometry.width, consensus->geometry.height), across, down, std::move(parts),
                        look);
}

const ExchangeCandidate* ExchangeDialog::chosen() const {
    const int row = list_->chosen();
    return row >= 0 && row < static_cast<int>(answer_.candidates.size()) ? &answer_.candidates[row] : nullptr;
}

void ExchangeDialog::show_chosen() {
    const ExchangeCandidate* c = chosen();
    take_->setEnabled(c != nullptr);
    trust_->setEnabled(c != nullptr && c->standing != Standing::withdrawn);
}

void ExchangeDialog::take() {
    const ExchangeCandidate* c = chosen();
    if (!c) return;
    parts_.sharing().fetch(c->entry, [self = QPointer(this)](const BundleView& view) {
        if (!self) return;
        BundleDialog dialog(view, false, self);
        if (dialog.exec() == QDialog::Accepted) self->parts_.sharing().take(view, dialog.choice());
    });
}

void ExchangeDialog::trust() {
    const ExchangeCandidate* c = chosen();
    if (!c) return;
    Measurer m{c->entry.key, c->measurer, true};
    MeasurerDialog dialog(m, this);
    if (dialog.exec() != QDialog::Accepted) return;
    if (parts_.attempt([&] { parts_.sharing().put_measurer(dialog.measurer()); })) search();
}

}  // namespace optrel

#include "baselines/baselines_place.h"

#include <QInputDialog>
#include <QSplitter>
#include <cmath>

#include "baselines/tier_dialog.h"
#include "widgets/curve_plot.h"
#include "widgets/edit_entry.h"

namespace optrel {

BaselinesPlace::BaselinesPlace(Session& session) : PlaceWidget(theme::Place::baselines, session), isos_{100, 200, 400, 800, 1600, 3200, 6400, 12800} {
    build();
    for (const auto signal : {&Session::baselines_changed, &Session::fleet_changed, &Session::frames_changed}) connect(&session_, signal, this, &BaselinesPlace::refresh);
    refresh();
    tiers_->choose(0);
}

void BaselinesPlace::build() {
    publish_ = button("&Publish revision…", "Makes the draft an immutable revision; frames change only when it is rolled out", true);
    connect(publish_, &QPushButton::clicked, this, [this] {
        bool ok = false;
        const QString note = QInputDialog::getText(this, "Publish the draft", "What changed, and why:", QLineEdit::Normal, "", &ok);
        if (ok) publish(note.toStdString());
    });
    state_ = new QLabel;
    state_->setObjectName("faint");
    actions_->addWidget(state_);
    actions_->addWidget(publish_);

    field_choice_ = new QComboBox;
    field_choice_->setAccessibleName("Field");
    for (const FieldInfo& f : all_fields())
        if (f.field != Field::start) field_choice_->addItem(q(f.label) + (f.unit.empty() ? "" : " / " + q(f.unit)), static_cast<int>(f.field));
    field_choice_->setMaxVisibleItems(20);
    field_choice_->setCurrentIndex(field_choice_->findData(static_cast<int>(Field::luminance_noise)));
    connect(field_choice_, &QComboBox::currentIndexChanged, this, [this] {
        refresh_matrix();
        refresh_trace();
    });

    matrix_ = new Table("Matrix of bodies by ISO", {{"Body", false, false, 0}});
    matrix_->allow_sorting(false);
    matrix_->setSelectionBehavior(QAbstractItemView::SelectItems);
    connect(matrix_, &Table::cell_chosen, this, [this](int row, int column) {
        cell_row_ = row;
        cell_column_ = std::max(1, column);
        refresh_trace();
    });
    ramp_ = new CurvePlot("Value over ISO", "ISO", "value");
    std::vector<std::pair<double, QString>> stops;
    for (const double iso : isos_) stops.emplace_back(std::log2(iso / 100), QString::number(iso));
    ramp_->set_x_labels(std::move(stops));
    auto* top = new QHBoxLayout;
    top->addWidget(heading("Resolved from the draft:"));
    top->addWidget(field_choice_);
    auto* legend = new QLabel("s studio, m model, b body, · for a lens or ISO span; faint: start; some: body unknown");
    legend->setObjectName("faint");
    legend->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    legend->setToolTip("The letter tells the tier that pinned the value; hover over a cell for its name");
    top->addStretch();
    auto* centre = new QWidget;
    auto* centre_layout = new QVBoxLayout(centre);
    centre_layout->setContentsMargins(0, 0, 0, 0);
    centre_layout->setSpacing(3);
    centre_layout->addLayout(top);
    centre_layout->addWidget(legend);
    centre_layout->addWidget(matrix_, 3);
    centre_layout->addWidget(ramp_, 2);

    trace_ = new Table("Trace", {{"Tier", false, false, 0}, {"Says", true, false, 66}, {"", false, false, 50}});
    trace_->allow_sorting(false);
    trace_of_ = heading("Trace");
    trace_of_->setWordWrap(true);
    auto* right = new QWidget;
    right->setMinimumWidth(300);
    auto* right_layout = new QVBoxLayout(right);
    right_layout->setContentsMargins(0, 0, 0, 0);
    right_layout->setSpacing(3);
    right_layout->addWidget(trace_of_);
    right_layout->addWidget(trace_, 2);
    right_layout->addWidget(build_probe(), 3);

    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(build_tiers());
    across->addWidget(centre);
    across->addWidget(right);
    across->setSizes({296, 560, 316});
    across->setStretchFactor(1, 1);
    body_->addWidget(across, 1);
}

QWidget* BaselinesPlace::build_tiers() {
    tiers_ = new Table("Tiers", {{"Tier, lowest first", false, false, 0}, {"Pins", true, false, 44}});
    tiers_->allow_sorting(false);
    connect(tiers_, &Table::chosen_changed, this, &BaselinesPlace::refresh_pins);
    pins_ = new Table("Pins of the chosen tier", {{"Field", false, false, 152}, {"Value, or ISO: value, …", false, true, 0}});
    pins_->allow_sorting(false);
    connect(pins_, &Table::cell_edited, this, [this](int row, int, const QString& text) { edit_pin(row, text); });
    auto* add = button("&Add tier…", "A new rule: for the studio, a model or a body; for a lens, an ISO span");
    delete_tier_ = button("&Delete tier", "Takes the chosen tier out of the draft");
    connect(add, &QPushButton::clicked, this, &BaselinesPlace::add_tier);
    connect(delete_tier_, &QPushButton::clicked, this, &BaselinesPlace::delete_tier);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(add);
    buttons->addWidget(delete_tier_);
    buttons->addStretch();
    pins_of_ = heading("Pins");
    auto* w = new QWidget;
    auto* layout = new QVBoxLayout(w);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(3);
    layout->addWidget(heading("Tiers of the draft"));
    layout->addWidget(tiers_, 2);
    layout->addLayout(buttons);
    layout->addWidget(pins_of_);
    layout->addWidget(pins_, 3);
    return w;
}

QWidget* BaselinesPlace::build_probe() {
    probe_body_ = new QComboBox;
    probe_lens_ = new QComboBox;
    probe_kind_ = new QComboBox;
    probe_iso_ = new QSpinBox;
    probe_body_->setAccessibleName("Probe body");
    probe_lens_->setAccessibleName("Probe lens");
    probe_kind_->setAccessibleName("Probe kind of file");
    probe_iso_->setAccessibleName("Probe ISO");
    probe_kind_->addItems({"raw", "rendered"});
    probe_iso_->setRange(1, 10000000);
    probe_iso_->setValue(400);
    probe_iso_->setPrefix("ISO ");
    probe_iso_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    for (QComboBox* c : {probe_body_, probe_lens_, probe_kind_}) connect(c, &QComboBox::currentIndexChanged, this, &BaselinesPlace::refresh_probe);
    for (QComboBox* c : {probe_body_, probe_lens_}) c->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(probe_iso_, &QSpinBox::valueChanged, this, &BaselinesPlace::refresh_probe);
    probe_ = new Table("Probe result", {{"Field", false, false, 0}, {"Value", true, false, 78}, {"From", false, false, 76}});
    probe_->allow_sorting(false);
    auto* w = new QWidget;
    auto* layout = new QVBoxLayout(w);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(3);
    layout->addWidget(heading("Probe: what would a frame get?"));
    auto* grid = new QGridLayout;
    grid->setSpacing(3);
    grid->addWidget(probe_body_, 0, 0, 1, 2);
    grid->addWidget(probe_lens_, 1, 0, 1, 2);
    grid->addWidget(probe_iso_, 2, 0);
    grid->addWidget(probe_kind_, 2, 1);
    layout->addLayout(grid);
    layout->addWidget(probe_, 1);
    return w;
}

Field BaselinesPlace::field() const { return static_cast<Field>(field_choice_->currentData().toInt()); }

void BaselinesPlace::choose_field(Field f) { field_choice_->setCurrentIndex(field_choice_->findData(static_cast<int>(f))); }

void BaselinesPlace::refresh() {
    resolver_ = make_resolver(session_.draft());
    rows_.clear();
    std::vector<std::string> models;
    for (const Body& b : session_.bodies()) {
        FrameFacts facts;
        facts.model = b.camera();
        facts.body = b.id;
        facts.body_knowledge = BodyKnowledge::known;
        rows_.push_back({q(b.label()), facts});
        if (std::find(models.begin(), models.end(), facts.model) == models.end()) models.push_back(facts.model);
    }
    for (const std::string& model : models) {
        FrameFacts facts;
        facts.model = model;
        rows_.push_back({"some " + q(model), facts});
    }
    const QString keep_body = probe_body_->currentText(), keep_lens = probe_lens_->currentText();
    {
        const QSignalBlocker quiet_body(probe_body_), quiet_lens(probe_lens_);
        probe_body_->clear();
        for (const MatrixRow& r : rows_) probe_body_->addItem(r.label);
        if (rows_.empty()) probe_body_->addItem("no body registered");
        probe_lens_->clear();
        probe_lens_->addItem("any lens");
        for (const LensEntry& l : session_.lenses()) probe_lens_->addItem(q(l.id));
        probe_body_->setCurrentIndex(std::max(0, probe_body_->findText(keep_body)));
        probe_lens_->setCurrentIndex(std::max(0, probe_lens_->findText(keep_lens)));
    }
    const std::size_t changes = difference(session_.current(), session_.draft()).size();
    state_->setText(session_.current().number == 0 ? QString("no revision is published yet")
                    : changes == 0                 ? QString("the draft equals revision %1").arg(session_.current().number)
                                                   : QString(changes == 1 ? "%1 change since revision %2" : "%1 changes since revision %2").arg(changes).arg(session_.current().number));
    publish_->setEnabled(changes > 0);
    refresh_tiers();
    refresh_matrix();
    refresh_trace();
    refresh_probe();
}

void BaselinesPlace::refresh_tiers() {
    std::vector<Row> rows;
    for (const Tier& t : resolver_->tiers())
        rows.push_back({Cell(q(t.name), Cell::Tone::plain, q(describe_conditions(t))), Cell(QString::number(t.pins.size()), static_cast<double>(t.pins.size()))});
    tiers_->set_rows(std::move(rows));
    refresh_pins();
}

void BaselinesPlace::refresh_pins() {
    const int row = tiers_->chosen();
    const bool there = row >= 0 && row < static_cast<int>(resolver_->tiers().size());
    delete_tier_->setEnabled(there);
    pins_of_->setText(there ? QString("Pins: double-click a value, empty it to inherit") : QString("Pins: choose or add a tier"));
    std::vector<Row> rows;
    if (there) {
        const Tier& t = resolver_->tiers()[row];
        for (const FieldInfo& f : all_fields()) {
            const auto pin = t.pins.find(f.field);
            QString hint = q(f.meaning);
            if (f.type == FieldType::number) hint += QString(" From %1 to %2 %3.").arg(f.low).arg(f.high).arg(q(f.unit));
            if (!f.choices.empty()) hint += " One of: " + q(f.choices.front()) + (f.choices.size() > 1 ? ", " + q(f.choices[1]) : "") + (f.choices.size() > 2 ? ", " + q(f.choices[2]) : "") + ".";
            rows.push_back({Cell(q(f.label), Cell::Tone::plain, hint), pin == t.pins.end() ? Cell("inherits", Cell::Tone::faint, hint) : Cell(q(describe(f.field, pin->second)), Cell::Tone::mark, hint)});
        }
    }
    pins_->set_rows(std::move(rows));
}

void BaselinesPlace::refresh_matrix() {
    if (matrix_->rows_model().columns().size() != isos_.size() + 1) {
        std::vector<Column> columns{{"Body", false, false, 0}};
        for (const double iso : isos_) columns.push_back({QString::number(iso, 'f', 0), true, false, 53});
        matrix_->set_columns(std::move(columns));
    }
    const Field f = field();
    std::vector<Row> rows;
    for (const MatrixRow& r : rows_) {
        Row row{Cell(r.label)};
        for (const double iso : isos_) {
            FrameFacts facts = r.facts;
            facts.iso = iso;
            ResolvedFrame resolved;
            resolver_->resolve(facts, resolved);
            const ResolvedField& v = resolved[f];
            QString text = info(f).type == FieldType::number ? QString::number(v.value.number, 'f', v.value.number == std::round(v.value.number) ? 0 : std::max(1, info(f).decimals)) : q(v.value.text);
            if (v.tier) {
                text += v.tier->scope == Scope::studio ? " s" : v.tier->scope == Scope::model ? " m" : " b";
                if (v.tier->iso_span || v.tier->lens_condition != LensCondition::any) text += "·";
            }
            row.push_back(Cell(text, v.tier ? Cell::Tone::plain : Cell::Tone::faint, v.tier ? "pinned by " + q(v.tier->name) : QString("from the start")));
        }
        rows.push_back(std::move(row));
    }
    matrix_->set_rows(std::move(rows));
}

FrameFacts BaselinesPlace::chosen_facts() const {
    FrameFacts facts = rows_[std::clamp(cell_row_, 0, static_cast<int>(rows_.size()) - 1)].facts;
    facts.iso = isos_[std::clamp(cell_column_ - 1, 0, static_cast<int>(isos_.size()) - 1)];
    return facts;
}

void BaselinesPlace::refresh_trace() {
    if (rows_.empty()) {
        trace_of_->setText("Trace: add frames in Fleet first, so that there are bodies");
        trace_->set_rows({});
        ramp_->set_curves({}, 0, 7, 1);
        return;
    }
    const Field f = field();
    const FrameFacts facts = chosen_facts();
    trace_of_->setText(QString("Trace of %1: %2 at ISO %3").arg(q(info(f).label)).arg(rows_[std::clamp(cell_row_, 0, static_cast<int>(rows_.size()) - 1)].label).arg(facts.iso));
    std::vector<Row> rows;
    for (const TraceStep& step : resolver_->trace(facts, f)) {
        const auto tone = step.won ? Cell::Tone::mark : Cell::Tone::faint;
        rows.push_back({Cell(step.tier ? q(step.tier->name) : "start", tone, step.remark.empty() ? (step.tier ? q(describe_conditions(*step.tier)) : QString()) : q(step.remark)),
                        Cell(q(to_display(f, step.value)), tone), Cell(step.won ? "✓ won" : "", tone)});
    }
    trace_->set_rows(std::move(rows));

    // The field over ISO for the chosen body, and the frames' own ISO range beneath it.
    Curve curve{rows_[std::clamp(cell_row_, 0, static_cast<int>(rows_.size()) - 1)].label, theme::mark, Qt::SolidLine, {}, {}, false};
    if (info(f).type == FieldType::number)
        for (int i = 0; i <= 140; ++i) {
            FrameFacts at = facts;
            at.iso = 100 * std::exp2(i / 20.0);
            ResolvedFrame resolved;
            resolver_->resolve(at, resolved);
            curve.points.emplace_back(i / 20.0, resolved[f].value.number);
        }
    ramp_->set_y_title(q(info(f).label) + (info(f).unit.empty() ? "" : " / " + q(info(f).unit)));
    ramp_->set_curves({curve}, 0, 7, info(f).decimals ? 1 : 10);
}

void BaselinesPlace::refresh_probe() {
    std::vector<Row> rows;
    if (!rows_.empty()) {
        FrameFacts facts = rows_[std::clamp(probe_body_->currentIndex(), 0, static_cast<int>(rows_.size()) - 1)].facts;
        facts.iso = probe_iso_->value();
        facts.raw = probe_kind_->currentIndex() == 0;
        const int lens = probe_lens_->currentIndex() - 1;
        if (lens >= 0 && lens < static_cast<int>(session_.lenses().size())) {
            facts.lens = canonical_lens_text(session_.lenses()[lens].lens);
            facts.lens_copy = session_.lenses()[lens].id;
        }
        ResolvedFrame resolved;
        resolver_->resolve(facts, resolved);
        for (const FieldInfo& f : all_fields()) {
            const ResolvedField& r = resolved[f.field];
            rows.push_back({Cell(q(f.label)), Cell(q(to_display(f.field, r.value)), r.tier ? Cell::Tone::mark : Cell::Tone::faint), Cell(r.tier ? q(r.tier->name) : "start", r.tier ? Cell::Tone::plain : Cell::Tone::faint)});
        }
    }
    probe_->set_rows(std::move(rows));
}

void BaselinesPlace::change_draft(const QString& what, const Revision& after) {
    if (revision_to_json(after) == revision_to_json(session_.draft())) return;
    session_.undo().push(new EditEntry<Revision>(what, session_.draft(), after, [this](const Revision& r) { session_.set_draft(r); }));
}

void BaselinesPlace::edit_pin(int row, const QString& text) {
    const int tier_row = tiers_->chosen();
    if (tier_row < 0) return;
    const std::string id = resolver_->tiers()[tier_row].id;
    const Field f = all_fields()[row].field;
    session_.attempt([&] {
        Revision after = session_.draft();
        for (Tier& t : after.tiers) {
            if (t.id != id) continue;
            const QString trimmed = text.trimmed();
            if (trimmed.isEmpty() || trimmed == "inherits")
                t.pins.erase(f);
            else
                t.pins[f] = pin_from_text(f, trimmed.toStdString());
        }
        change_draft("change a pin", after);
    });
}

void BaselinesPlace::add_tier() {
    TierDialog dialog(session_, this);
    if (dialog.exec() != QDialog::Accepted) return;
    session_.attempt([&] {
        const Tier tier = dialog.tier();
        for (const Tier& t : session_.draft().tiers)
            if (describe_conditions(t) == describe_conditions(tier))
                throw input_error("There is a tier with these very conditions already ('" + t.name + "'); pin the field there.");
        Revision after = session_.draft();
        after.tiers.push_back(tier);
        change_draft("add a tier", after);
        for (std::size_t i = 0; i < resolver_->tiers().size(); ++i)
            if (resolver_->tiers()[i].id == tier.id) tiers_->choose(static_cast<int>(i));
    });
}

void BaselinesPlace::delete_tier() {
    const int row = tiers_->chosen();
    if (row < 0) return;
    const std::string id = resolver_->tiers()[row].id;
    Revision after = session_.draft();
    std::erase_if(after.tiers, [&](const Tier& t) { return t.id == id; });
    change_draft("delete a tier", after);
}

void BaselinesPlace::publish(const std::string& note) {
    session_.attempt([&] {
        const Revision r = session_.store().publish_draft(current_author(), note);
        session_.reload_baselines();
        session_.tell(QString("Revision %1 is published. Rehearse it in Rollout to see what it would change.").arg(r.number));
    });
}

void BaselinesPlace::show_something() {
    tiers_->choose(static_cast<int>(resolver_->tiers().size()) - 1);
    cell_row_ = 0;
    cell_column_ = 5;
    refresh_trace();
}

}  // namespace optrel

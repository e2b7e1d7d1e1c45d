// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/grid_panel.h"

#include <QHBoxLayout>
#include <QSplitter>
#include <QVBoxLayout>

#include "base/choose.h"
#include "base/error.h"
#include "base/figure_text.h"
#include "jobs.h"
#include "sharing/sharing_actions.h"
#include "studio/baselines/drafting.h"
#include "studio/baselines/tiers.h"
#include "widgets/place.h"
#include "widgets/profile_curves.h"

namespace optrel {
namespace {

/// A symbol and a word for each grade, so that colour is never the only cue.
QString grade_mark(MatchGrade g) {
    switch (g) {
        case MatchGrade::own_copy: return "● own";
        case MatchGrade::same_model: return "◑ model";
        case MatchGrade::rescaled: return "◔ resc.";
        case MatchGrade::embedded: return "◈ embedded";
        case MatchGrade::stand_in: return "◇ stand-in";
        default: return "✕ none";
    }
}

QString placement_word(Placement p) {
    return first_of<const char*>({{p == Placement::measured, "inside"}, {p == Placement::between, "between"}},
                                 "extrapolated");
}

}  // namespace

namespace {

Cell measured_rms_cell(const ProfileMatch& m) {
    const Profile& p = *m.profile;
    if (!p.measured()) return {q(to_string(p.origin)), Cell::Tone::warning, q(p.provenance.note)};
    const double rms = p.nodes.front().quality.rms_px;
    return measured_cell(figures::reprojection_error, rms);
}

TableOf<ProfileMatch>* new_candidates_table() {
    return new TableOf<ProfileMatch>(
        "Candidates",
        {{text_column("Profile"),
          [](const ProfileMatch& m) {
              const std::string& serial = m.profile->lens_serial;
              return Cell(q(m.profile->name) + (serial.empty() ? "" : " " + q(serial)), Cell::Tone::plain,
                          "on " + q(m.profile->camera));
          }},
         {text_column("Grade", 84),
          [](const ProfileMatch& m) {
              return m.usable() ? Cell(grade_mark(m.grade), Cell::Tone::mark) : Cell("✕ refused", Cell::Tone::serious);
          }},
         {text_column("Setting", 92),
          [](const ProfileMatch& m) {
              return Cell(placement_word(m.placement),
                          m.placement == Placement::extrapolated ? Cell::Tone::warning : Cell::Tone::plain);
          }},
         {figure_column("Version", 56), [](const ProfileMatch& m) { return figure_cell(m.profile->version); }},
         {figure_column("RMS / px", 64), measured_rms_cell}});
}

}  // namespace

GridPanel::GridPanel(const Parts& parts, QWidget* parent) : QWidget(parent), parts_(parts) {
    grid_ = new Table("Grid of bodies and lenses", {text_column("Body")});
    grid_->allow_long_titles();
    grid_->setSelectionBehavior(QAbstractItemView::SelectItems);
    of_ = heading("Candidates");
    of_->setWordWrap(true);
    search_ = search_line("Search profiles", "words that the profile, its lens or its camera holds");
    candidates_ = new_candidates_table();
    candidates_->allow_several();
    why_ = new QLabel;
    why_->setWordWrap(true);
    why_->setMinimumHeight(68);
    why_->setAlignment(Qt::AlignTop);
    assign_ = button("&Pin for this pair…",
                     "Pins the chosen profile for this body and lens, in the draft of Baselines; a poor one remains "
                     "marked as a stand-in");
    elsewhere_ = button("Search what &others measured…", "Looks for profiles of this lens at the profile exchange");
    connect(elsewhere_, &QPushButton::clicked, this, &GridPanel::search_elsewhere);
    curves_ = new ProfileCurves(Qt::Horizontal);
    lay_out();
    connect(grid_, &Table::cell_chosen, this, &GridPanel::choose_cell);
    connect(search_, &QLineEdit::textChanged, this, &GridPanel::refresh_candidates);
    connect(candidates_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &GridPanel::refresh_curves);
    connect(assign_, &QPushButton::clicked, this, &GridPanel::assign);
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, [this] {
        stale_ = true;
        if (isVisible()) refresh();
    });
    refresh_candidates();
}

void GridPanel::lay_out() {
    auto* legend = new QLabel(
        "The poorest grade of each pair's frames, with their number; faint: no frame yet, what one would get. ● own "
        "copy  ◑ same model  ◔ rescaled  ✕ none");
    legend->setObjectName("faint");
    legend->setWordWrap(true);
    auto* left = new QWidget;
    auto* left_layout = new QVBoxLayout(left);
    left_layout->setContentsMargins(0, 0, 0, 0);
    left_layout->addWidget(legend);
    left_layout->addWidget(grid_, 1);
    auto* right = new QWidget;
    auto* right_layout = stacked_in(right);
    right_layout->addWidget(of_);
    right_layout->addWidget(search_);
    right_layout->addWidget(candidates_, 2);
    right_layout->addWidget(why_);
    auto* buttons = row_of({assign_, elsewhere_});
    buttons->addStretch(1);
    right_layout->addLayout(buttons);
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left);
    across->addWidget(right);
    across->setSizes({690, 480});
    across->setStretchFactor(0, 1);
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(across);
    down->addWidget(curves_);
    down->setSizes({430, 230});
    down->setStretchFactor(0, 1);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    layout->addWidget(down);
}

void GridPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) refresh();
}

void GridPanel::refresh() {
    stale_ = false;
    const int number = ++work_number_;
    auto out = std::make_shared<LensGrid>();
    const auto frames = parts_.frames().shared();
    const auto fleet = parts_.entries().fleet();
    auto profiles = std::make_shared<std::vector<Profile>>(parts_.profiles().current());
    parts_.jobs().run_quietly(
        [=] {
            Progress unwatched;
            *out = lens_grid(*frames, *fleet, *profiles, unwatched);
        },
        [=, this] {
            if (number != work_number_) return;
            data_ = out;
            profiles_ = *profiles;
            std::vector<Column> columns{{"Body", false, false, data_->lenses.size() > 5 ? 150 : 0}};
            for (const LensGrid::Axis& lens : data_->lenses) columns.push_back(text_column(q(lens.label), 112));
            grid_->set_columns(std::move(columns));
            grid_->set_lazy(static_cast<int>(data_->bodies.size()),
                            [this](int row, int column) { return cell(row, column); });
            if (row_ < static_cast<int>(data_->bodies.size()) && column_ < static_cast<int>(data_->lenses.size()) &&
                row_ >= 0)
                grid_->choose(row_, column_ + 1);
            else if (row_ < 0)
                show_something();
            refresh_candidates();
        });
}

Cell GridPanel::cell(int row, int column) const {
    if (row >= static_cast<int>(data_->bodies.size())) return {};
    if (column == 0)
        return Cell(q(data_->bodies[row].label), Cell::Tone::plain,
                    QString("%1 frames").arg(data_->bodies[row].frames));
    if (column > static_cast<int>(data_->lenses.size())) return {};
    const GridCell& c = data_->at(row, column - 1);
    const MatchGrade g = c.poorest();
    if (c.frames == 0)
        return Cell(c.grades.empty() ? QString("–") : grade_mark(g), Cell::Tone::faint,
                    "no frame yet; one would get: " + q(to_string(g)));
    QStringList parts;
    for (auto it = c.grades.rbegin(); it != c.grades.rend(); ++it)
        parts << QString("%1: %2 frames").arg(q(to_string(it->first))).arg(it->second);
    return Cell(grade_mark(g) + "  " + QString::number(c.frames),
                first_of<Cell::Tone>(
                    {{g == MatchGrade::none, Cell::Tone::serious}, {g == MatchGrade::rescaled, Cell::Tone::warning}},
                    Cell::Tone::plain),
                parts.join(", "));
}

void GridPanel::search_elsewhere() {
    ExchangeQuestion question;
    if (row_ >= 0 && column_ >= 0 && row_ < static_cast<int>(data_->bodies.size()) &&
        column_ < static_cast<int>(data_->lenses.size())) {
        const GridCell& c = data_->at(row_, column_);
        question = question_for(c.example, c.geometry);
        if (question.lens.empty()) question.lens = data_->lenses[column_].label;
    }
    search_exchange(parts_, this, question);
}

void GridPanel::choose_cell(int row, int column) {
    row_ = row;
    column_ = std::max(0, column - 1);
    refresh_candidates();
}

void GridPanel::refresh_candidates() {
    matches_.clear();
    const bool there = row_ >= 0 && row_ < static_cast<int>(data_->bodies.size()) && column_ >= 0 &&
                       column_ < static_cast<int>(data_->lenses.size());
    if (there) {
        const GridCell& c = data_->at(row_, column_);
        QString title =
            QString("Candidates for %1 with %2").arg(q(data_->bodies[row_].label), q(data_->lenses[column_].label));
        if (c.example.focal_mm > 0) {
            title += QString(", at %1 mm").arg(c.example.focal_mm, 0, 'g', 3);
            if (c.example.aperture > 0) title += QString(" f/%1").arg(c.example.aperture);
        }
        of_->setText(title);
        const QStringList words = search_->text().split(' ', Qt::SkipEmptyParts);
        if (!c.example.lens.empty())
            for (ProfileMatch& m : optrel::candidates(profiles_, c.example, c.geometry)) {
                const QString text =
                    q(m.profile->name + " " + m.profile->lens + " " + m.profile->lens_serial + " " + m.profile->camera);
                if (std::all_of(words.begin(), words.end(),
                                [&](const QString& w) { return text.contains(w, Qt::CaseInsensitive); }))
                    matches_.push_back(std::move(m));
            }
    } else {
        of_->setText(data_->bodies.empty() ? "Register bodies and lenses first: see Identities." : "Choose a pair");
    }
    candidates_->show_records(matches_);
    candidates_->setToolTip("Choose two to see their curves overlaid");
    if (candidates_->chosen() < 0 && !matches_.empty()) candidates_->choose(0);
    refresh_curves();
}

const ProfileMatch* GridPanel::match_at(int row) const {
    return row >= 0 && row < static_cast<int>(matches_.size()) ? &matches_[row] : nullptr;
}

void GridPanel::refresh_curves() {
    const std::vector<int> rows = candidates_->chosen_rows();
    const ProfileMatch* first = rows.empty() ? nullptr : match_at(rows[0]);
    assign_->setEnabled(first != nullptr);
    if (!first) {
        why_->setText(row_ < 0 ? QString()
                               : "No profile is in the store that could be looked at. Measure the lens on the Bench.");
        curves_->clear();
        return;
    }
    QString text;
    for (const std::string& r : first->reasons) text += (text.isEmpty() ? "" : "; ") + q(r);
    QString against;
    for (const std::string& r : first->against) against += (against.isEmpty() ? "" : "; ") + q(r);
    if (!against.isEmpty())
        text += QString("%1Never taken by itself, because %2.").arg(text.isEmpty() ? "" : ". ", against);
    if (!text.isEmpty()) text[0] = text[0].toUpper();
    why_->setText(text);
    const Metadata& m = data_->at(row_, column_).example;
    const LensSetting setting{m.focal_mm, m.aperture, m.distance_m};
    const PlacedNode node = node_at(*first->profile, setting);
    const ProfileMatch* second = rows.size() > 1 ? match_at(rows[1]) : nullptr;
    if (second) {
        const QString name =
            q(second->profile->lens_serial.empty() ? second->profile->name : second->profile->lens_serial);
        curves_->show_profile(*first->profile, node, {second->profile, node_at(*second->profile, setting), name});
    } else {
        curves_->show_profile(*first->profile, node);
    }
}

void GridPanel::assign() {
    const std::vector<int> rows = candidates_->chosen_rows();
    const ProfileMatch* m = rows.empty() ? nullptr : match_at(rows[0]);
    if (!m) return;
    const LensGrid::Axis body = data_->bodies[row_], lens = data_->lenses[column_];
    Tier wanted;
    wanted.scope = Scope::body;
    wanted.target = body.id;
    const LensEntry* entry = parts_.entries().fleet()->lens(lens.id);
    // A copy without a number cannot be identified by its files, but by its claims.
    wanted.lens_condition = entry ? LensCondition::copy : LensCondition::model;
    wanted.lens = entry ? entry->id : data_->at(row_, column_).example.lens;
    wanted.name = describe_conditions(wanted);
    Revision after = parts_.baselines().draft();
    pin_in_tier(after, tier_with(after, wanted).id, Field::lens_profile, Pin::constant({0, m->profile->id}));
    parts_.baselines().edit("pin a lens profile", after);
    parts_.tell(QString("%1 is pinned for %2 with %3 in the draft%4. Publish and roll out in their places.")
                    .arg(q(m->profile->name), q(body.label), q(lens.label), m->usable() ? "" : ", as a stand-in"),
                !m->usable());
}

void GridPanel::show_something() {
    std::size_t best = 0;
    for (std::size_t i = 0; i < data_->cells.size(); ++i)
        if (data_->cells[i].frames > data_->cells[best].frames) best = i;
    if (!data_->cells.empty())
        grid_->choose(static_cast<int>(best / data_->lenses.size()), static_cast<int>(best % data_->lenses.size()) + 1);
}

}  // namespace optrel

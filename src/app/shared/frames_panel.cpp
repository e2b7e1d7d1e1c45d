// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/frames_panel.h"

#include <QElapsedTimer>
#include <utility>

#include "shared/claim_dialog.h"
#include "studio/fleet/claim.h"
#include "studio/frames/knowledge.h"
#include "widgets/place.h"

namespace optrel {

FramesPanel::FramesPanel(const Parts& parts, const QString& key, QWidget* parent) : QWidget(parent), parts_(parts) {
    table_ = new Table("Frames", {text_column("Frame"), figure_column("ISO", 48), text_column("State", 96)});
    table_->allow_several();
    table_->give_files([this](int row) {
        const FrameRecord* f = at(row);
        return f ? f->path.path() : std::filesystem::path();
    });
    words_ = search_line("Narrow the frames", "Words: name, folder, lens, body, ISO 400, hand-set …");
    count_ = new QLabel;
    count_->setObjectName("faint");
    assign_lens_ =
        button("Assi&gn lens…", "Says which lens the chosen frames were taken with, for instance one without contacts");
    claim_body_ = button("&Claim body…", "Says which body took the chosen frames");
    spot_ = button("Same spot", "The same spot of up to four chosen frames side by side, each as it is corrected");
    spot_->setCheckable(true);
    view_ = new TableOrPictures(*table_, pictures(), key);
    auto* layout = stacked_in(this);
    auto* head = new QHBoxLayout;
    head->addWidget(heading("Frames"));
    head->addWidget(count_);
    head->addStretch();
    head->addWidget(view_->choice());
    layout->addLayout(head);
    layout->addWidget(words_);
    layout->addWidget(view_, 1);
    layout->addLayout(row_of({claim_body_, assign_lens_, spot_}));
    work_.setInterval(0);
    connect(&work_, &QTimer::timeout, this, &FramesPanel::narrow_more);
    connect(words_, &QLineEdit::textChanged, this, &FramesPanel::narrow);
    connect(assign_lens_, &QPushButton::clicked, this, [this] { lease_frames(Claim::Of::lens); });
    connect(claim_body_, &QPushButton::clicked, this, [this] { lease_frames(Claim::Of::body); });
    connect(spot_, &QPushButton::clicked, this, &FramesPanel::spot_asked);
    connect(table_, &Table::chosen_changed, this, [this] {
        refresh_buttons();
        emit chosen_changed();
    });
    refresh();
}

void FramesPanel::only_choose() {
    for (QPushButton* b : {claim_body_, assign_lens_, spot_}) b->hide();
}

std::vector<std::filesystem::path> FramesPanel::listed() const {
    std::vector<std::filesystem::path> out;
    out.reserve(rows_.size());
    for (const int row : rows_) out.push_back((*frames_)[row].path);
    return out;
}

void FramesPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (std::exchange(stale_, false)) refresh();
}

void FramesPanel::refresh() {
    // Filling a million rows takes time, and several places have such a list.
    if (!isVisible()) {
        stale_ = true;
        return refresh_buttons();
    }
    narrow();
    refresh_buttons();
}

void FramesPanel::refresh_buttons() {
    claim_body_->setEnabled(chosen() && !parts_.entries().bodies().empty());
    assign_lens_->setEnabled(chosen() && !parts_.entries().lenses().empty());
    spot_->setEnabled(chosen());
}

void FramesPanel::narrow() {
    narrowing_ = {parts_.frames().shared(), words_->text().toLower().split(' ', Qt::SkipEmptyParts), {}};
    next_ = 0;
    work_.start();
    narrow_more();
}

void FramesPanel::narrow_more() {
    constexpr int most_ms = 8;
    QElapsedTimer since;
    since.start();
    const bool all = narrowing_.words.isEmpty();
    for (; next_ < narrowing_.frames->size(); ++next_) {
        if (!all && next_ % 64 == 63 && since.elapsed() > most_ms) return;
        if (all || matches(next_)) narrowing_.found.push_back(static_cast<int>(next_));
    }
    work_.stop();
    show_rows();
}

bool FramesPanel::matches(std::size_t frame) const {
    const FrameRecord& f = (*narrowing_.frames)[frame];
    const GearMetadata& m = *f.metadata;
    QString all =
        q(f.path.string()) + ' ' + q(m.lens) + ' ' + q(m.maker) + ' ' + q(m.model) + ' ' + q(m.body_serial) +
        QString(" iso %1 iso%1 %2 mm f/%3 ").arg(f.metadata.iso).arg(f.metadata.focal_mm).arg(f.metadata.aperture) +
        state_cell(f).text;
    // Label of the body, once it is computed.
    if (const auto& facts = parts_.frames().knowledge().facts; facts.size() == narrowing_.frames->size())
        if (const Body* b = parts_.entries().fleet()->body(facts[frame].body)) all += ' ' + q(b->label());
    all = all.toLower();
    return std::all_of(narrowing_.words.begin(), narrowing_.words.end(),
                       [&](const QString& word) { return all.contains(word); });
}

void FramesPanel::show_rows() {
    const QString before = chosen() ? q(chosen()->path.string()) : QString();
    frames_ = narrowing_.frames;
    rows_ = std::move(narrowing_.found);
    // Cells are created on demand, because there may be very many frames.
    table_->set_lazy(static_cast<int>(rows_.size()), [this, frames = frames_, rows = rows_](int row, int column) {
        return cell((*frames)[rows[row]], column);
    });
    count_->setText(rows_.size() == frames_->size() ? QString::number(rows_.size())
                                                    : QString("%1 of %2").arg(rows_.size()).arg(frames_->size()));
    const auto is_before = [&] { return chosen() && q(chosen()->path.string()) == before; };
    if (before.isEmpty() || is_before()) return;
    choose(before);
    // The row may refer to another frame by now.
    if (!is_before()) emit chosen_changed();
}

Cell FramesPanel::cell(const FrameRecord& f, int column) const {
    if (column == 0)
        return {q(f.path.filename().string()), Cell::Tone::plain, q(f.path.string()) + "\n" + q(f.metadata->lens)};
    if (column == 1) return {QString::number(f.metadata.iso), static_cast<double>(f.metadata.iso)};
    return state_cell(f);
}

Cell FramesPanel::state_cell(const FrameRecord& f) const {
    if (const Sheet* sheet = parts_.sheets().find(f.path)) {
        switch (sheet->state()) {
            case FrameState::on_baseline: {
                const int current = parts_.baselines().current().number;
                return sheet->revision < current
                           ? Cell(QString("◐ baseline %1").arg(sheet->revision), Cell::Tone::warning,
                                  QString("behind revision %1").arg(current))
                           : Cell(QString("● baseline %1").arg(sheet->revision), Cell::Tone::mark);
            }
            case FrameState::hand_set: return {"✎ hand-set", Cell::Tone::plain};
            case FrameState::exempt: return {"– exempt", Cell::Tone::plain};
            default: break;
        }
    } else if (const QString problem = parts_.sheets().problem(f.path); !problem.isEmpty()) {
        return {"✕ unreadable", Cell::Tone::serious, problem};
    }
    return {"untouched", Cell::Tone::faint};
}

const FrameRecord* FramesPanel::at(int row) const {
    return row >= 0 && row < static_cast<int>(rows_.size()) ? &(*frames_)[rows_[row]] : nullptr;
}

const FrameRecord* FramesPanel::chosen() const { return at(table_->chosen()); }

std::vector<const FrameRecord*> FramesPanel::chosen_frames() const {
    std::vector<const FrameRecord*> out;
    if (const FrameRecord* shown = chosen()) out.push_back(shown);
    for (const int row : table_->chosen_rows())
        if (const FrameRecord* f = at(row); f && row != table_->chosen()) out.push_back(f);
    return out;
}

std::vector<const FrameRecord*> FramesPanel::neighbours() const {
    std::vector<const FrameRecord*> out;
    if (!chosen()) return out;
    for (const int step : {1, -1})
        if (const FrameRecord* f = at(view_->row_shown_at(view_->position_of(table_->chosen()) + step)))
            out.push_back(f);
    return out;
}

bool FramesPanel::go(int step, Next next) {
    const FrameRecord* now = chosen();
    // Without a chosen frame the walk begins before the first one, or behind the last one.
    int position = step > 0 ? -1 : table_->row_count();
    if (now) position = view_->position_of(table_->chosen());
    for (;;) {
        position += step;
        const int row = view_->row_shown_at(position);
        const FrameRecord* f = at(row);
        if (!f) return false;
        if (next == Next::same_body && now && !same_body(index_of(*f), index_of(*now))) continue;
        if (next == Next::waiting && !waits(*f)) continue;
        table_->choose(row);
        return true;
    }
}

/// By the entries of the register where both are known, since two bodies may have one label.
bool FramesPanel::same_body(std::size_t a, std::size_t b) const {
    const auto& facts = parts_.frames().knowledge().facts;
    if (facts.size() == frames_->size() && !(facts[a].body.empty() && facts[b].body.empty()))
        return facts[a].body == facts[b].body;
    const KeptMetadata &x = (*frames_)[a].metadata, &y = (*frames_)[b].metadata;
    return x->model == y->model && x->body_serial == y->body_serial;
}

bool FramesPanel::waits(const FrameRecord& f) const {
    const Sheet* sheet = parts_.sheets().find(f.path);
    if (!sheet) return true;  // untouched, or unreadable
    if (sheet->state() == FrameState::untouched) return true;
    return sheet->state() == FrameState::on_baseline && sheet->revision < parts_.baselines().current().number;
}

QString FramesPanel::body_of(std::size_t frame) const {
    const auto& facts = parts_.frames().knowledge().facts;
    if (facts.size() == frames_->size())
        if (const Body* b = parts_.entries().fleet()->body(facts[frame].body)) return q(b->label());
    const KeptMetadata& m = (*frames_)[frame].metadata;
    return q(m->body_serial.empty() ? m->model : m->model + ", number " + m->body_serial);
}

QString FramesPanel::group_of(std::size_t frame, Grouping grouping) const {
    const KeptMetadata& m = (*frames_)[frame].metadata;
    switch (grouping) {
        case Grouping::body: return body_of(frame);
        case Grouping::lens: return q(m->lens);
        case Grouping::iso: return m.iso > 0 ? QString("ISO %1").arg(m.iso) : QString();
        case Grouping::day: return q(m.time().substr(0, 10)).replace(':', '-');
        default: return {};
    }
}

PictureSource FramesPanel::pictures() const {
    return {[this](int row) -> std::optional<PictureItem> {
                const FrameRecord* f = at(row);
                if (!f) return std::nullopt;
                return PictureItem{
                    {f->path.path(), f->size, f->modified, 0}, q(f->path.filename().string()), state_cell(*f)};
            },
            [this](int row, Grouping grouping) {
                const FrameRecord* f = at(row);
                return f ? group_of(index_of(*f), grouping) : QString();
            }};
}

void FramesPanel::choose(const QString& path) {
    for (std::size_t row = 0; row < rows_.size(); ++row)
        if (q((*frames_)[rows_[row]].path.string()) == path) return table_->choose(static_cast<int>(row));
}

void FramesPanel::lease_frames(Claim::Of of) {
    Claim start;
    start.of = of;
    for (const FrameRecord* f : chosen_frames()) start.frames.push_back(f->path.string());
    if (start.frames.empty()) return;
    ClaimDialog dialog(parts_, start, this);
    if (dialog.exec() == QDialog::Accepted)
        parts_.entries().edit(of == Claim::Of::lens ? "assign a lens" : "claim frames", dialog.edit());
}

}  // namespace optrel

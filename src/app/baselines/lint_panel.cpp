#include "baselines/lint_panel.h"

#include <QVBoxLayout>

#include "widgets/place.h"

namespace optrel {

LintPanel::LintPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    findings_ = new Table("Lint", {{"Finding", false, false, 0}, {"Frames", true, false, 52}});
    findings_->wrap_rows();
    remedy_ = new QLabel;
    remedy_->setWordWrap(true);
    remedy_->setAlignment(Qt::AlignTop);
    remedy_->setMinimumHeight(76);
    mend_ = button("&Mend", "Does what the remedy says, in the draft; it can be undone");
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 3, 0, 0);
    layout->setSpacing(3);
    layout->addWidget(findings_, 1);
    layout->addWidget(remedy_);
    layout->addWidget(mend_, 0, Qt::AlignLeft);
    const auto chosen = [this]() -> const LintFinding* {
        const int row = findings_->chosen();
        return row >= 0 && row < static_cast<int>(view_.report().findings.size()) ? &view_.report().findings[row] : nullptr;
    };
    connect(findings_, &Table::chosen_changed, this, [this, chosen] {
        const LintFinding* f = chosen();
        remedy_->setText(f ? q(f->sentence) + (f->remedy.empty() ? " A person has to decide what to do." : " Remedy: " + q(f->remedy) + ".") : QString());
        mend_->setEnabled(f && !f->remedy.empty());
        if (!f) return;
        if (!f->tier_id.empty()) view_.choose_tier(f->tier_id);
        if (f->field) view_.choose_field(*f->field);
    });
    connect(mend_, &QPushButton::clicked, this, [this, chosen] {
        if (const LintFinding* f = chosen()) {
            const FleetKnowledge& k = view_.session().knowledge();
            view_.session().edit_draft("mend: " + q(to_string(f->rule)), mend(view_.session().draft(), *f, k.groups(), k.bodies));
        }
    });
    connect(&view_, &DraftView::lint_changed, this, &LintPanel::refresh);
    refresh();
}

void LintPanel::refresh() {
    std::vector<Row> rows;
    for (const LintFinding& f : view_.report().findings) {
        const QString where = f.tier.empty() ? q(f.sentence) : (view_.resolver().revision().tier(f.tier_id) ? view_.name_of(*view_.resolver().revision().tier(f.tier_id)) : q(f.tier));
        rows.push_back({Cell("△ " + q(to_string(f.rule)) + ": " + where + (f.field ? ", " + q(info(*f.field).label) : QString()), Cell::Tone::warning, q(f.sentence)), Cell(QString::number(f.frames), f.frames)});
    }
    const int count = static_cast<int>(rows.size());
    findings_->set_rows(std::move(rows));
    if (count == 0) remedy_->setText("✓ Nothing in the draft looks like a mistake.");
    else if (findings_->chosen() < 0) remedy_->setText("Choose a finding to see why, and what mends it.");
    mend_->setEnabled(findings_->chosen() >= 0 && findings_->chosen() < count && !view_.report().findings[findings_->chosen()].remedy.empty());
    emit counted(count);
}

}  // namespace optrel

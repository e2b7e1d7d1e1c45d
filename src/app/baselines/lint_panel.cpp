// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/lint_panel.h"

#include <QVBoxLayout>

#include "jobs.h"
#include "remarks/ask_remark.h"
#include "widgets/place.h"

namespace optrel {

namespace {

QString in_short(const DraftView& view, const LintFinding& f) {
    QString where = f.tier.empty() ? q(f.sentence) : q(f.tier);
    if (const Tier* tier = f.tier.empty() ? nullptr : view.resolver().revision().tier(f.tier_id))
        where = view.name_of(*tier);
    return q(to_string(f.rule)) + ": " + where + (f.field ? ", " + q(info(*f.field).label) : QString());
}

}  // namespace

LintPanel::LintPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    findings_ = new TableOf<LintFinding>(
        "Lint",
        {{text_column("Finding"),
          [this](const LintFinding& f) { return Cell("△ " + in_short(view_, f), Cell::Tone::warning, q(f.sentence)); }},
         {figure_column("Frames", 52), [](const LintFinding& f) { return figure_cell(f.frames); }}});
    findings_->wrap_rows();
    remedy_ = new QLabel;
    remedy_->setWordWrap(true);
    remedy_->setAlignment(Qt::AlignTop);
    remedy_->setMinimumHeight(76);
    mend_ = button("&Mend", "Applies the remedy to the draft; it can be undone");
    auto* layout = stacked_in(this, 3);
    layout->addWidget(findings_, 1);
    layout->addWidget(remedy_);
    remark_ = button("&Remark…", "Says something about this finding to everybody, in Attention");
    remark_->setEnabled(false);
    layout->addLayout(row_of({mend_, remark_}));
    const auto chosen = [this]() -> const LintFinding* {
        const int row = findings_->chosen();
        return row >= 0 && row < static_cast<int>(view_.report().findings.size()) ? &view_.report().findings[row]
                                                                                  : nullptr;
    };
    connect(findings_, &Table::chosen_changed, this, [this, chosen] {
        const LintFinding* f = chosen();
        remark_->setEnabled(f != nullptr);
        show_remedy(f);
        if (!f) return;
        if (!f->tier_id.empty()) view_.choose_tier(f->tier_id);
        if (f->field) view_.choose_field(*f->field);
    });
    connect(mend_, &QPushButton::clicked, this, [this, chosen] {
        if (const LintFinding* f = chosen()) {
            const DraftView::Parts& parts = view_.parts();
            const LintFix mended = mend(parts.baselines().draft(), *f, parts.frames().knowledge().groups(),
                                        parts.frames().knowledge().bodies);
            if (!mended.done()) return parts.tell("Not mended: " + q(mended.sentence()) + ".", true);
            const QString what = q(to_string(f->rule)), change = q(mended.sentence());
            parts.baselines().edit("mend: " + what, mended.after);
            parts.tell("Mended in the draft: " + what + "; it " + change + ". Undo takes it back.");
        }
    });
    connect(remark_, &QPushButton::clicked, this, [this, chosen] {
        if (const LintFinding* f = chosen())
            ask_remark(view_.parts(), this, "finding", f->sentence, in_short(view_, *f),
                       f->field ? info(*f->field).id : std::string());
    });
    connect(&view_, &DraftView::lint_changed, this, &LintPanel::refresh);
    refresh();
}

/// Shows the fix and its effect before the user presses the button.
void LintPanel::show_remedy(const LintFinding* f) {
    mend_->setEnabled(false);
    const int ticket = ++ticket_;
    if (!f) return remedy_->clear();
    remedy_->setText(q(f->sentence) + (f->remedy.empty()
                                           ? QString(" A person has to decide what to do.")
                                           : " Remedy: " + q(f->remedy) + "; counting what it would change …"));
    if (f->remedy.empty()) return;
    // In a large studio, each group of frames is resolved twice, which takes too long for the window's thread.
    auto mended = std::make_shared<LintFix>();
    const auto knowledge = view_.parts().frames().knowledge_shared();
    view_.parts().jobs().run_quietly(
        [=, draft = view_.parts().baselines().draft(), finding = *f] {
            *mended = mend(draft, finding, knowledge->groups(), knowledge->bodies);
        },
        [=, this, finding = *f] {
            if (ticket != ticket_) return;
            remedy_->setText(q(finding.sentence) +
                             (mended->done() ? " Remedy: " + q(finding.remedy) + "; it " + q(mended->sentence()) + "."
                                             : " Remedy: none by a press, since " + q(mended->sentence()) + "."));
            mend_->setEnabled(mended->done());
        });
}

void LintPanel::refresh() {
    const int count = static_cast<int>(view_.report().findings.size());
    findings_->show_records(view_.report().findings);
    mend_->setEnabled(false);
    remark_->setEnabled(findings_->chosen() >= 0);
    ++ticket_;
    if (count == 0)
        remedy_->setText("✓ Nothing in the draft looks like a mistake.");
    else if (findings_->chosen() < 0)
        remedy_->setText("Choose a finding to see why, and what mends it.");
    else
        show_remedy(&view_.report().findings[findings_->chosen()]);
    emit counted(count);
}

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/fingerprint_dialog.h"

#include <QHBoxLayout>
#include <QPointer>
#include <QVBoxLayout>

#include "base/error.h"
#include "base/figure_text.h"
#include "jobs.h"
#include "reach/reach_dialog.h"
#include "sensor/fingerprint.h"
#include "studio/fleet/claim.h"
#include "widgets/answer_buttons.h"
#include "widgets/number_box.h"
#include "widgets/place.h"

namespace optrel {

FingerprintDialog::FingerprintDialog(const Parts& parts, FingerprintFindings found, QWidget* parent)
    : QDialog(parent), parts_(parts), found_(std::move(found)) {
    setWindowTitle("Frames known by their fingerprint");
    resize(820, 420);
    const auto label = [this](const std::string& id) {
        const Body* body = parts_.entries().fleet()->body(id);
        return q(body ? body->label() : id);
    };
    proposals_ = new TableOf<FingerprintProposal>(
        "Proposed bodies",
        {{text_column("Body", 180), [label](const FingerprintProposal& p) { return Cell(label(p.body)); }},
         {figure_column("Frames", 60), [](const FingerprintProposal& p) { return figure_cell(p.frames.size()); }},
         {figure_column("Least figure", 90),
          [](const FingerprintProposal& p) { return measured_cell(figures::fingerprint, p.least_figure); }},
         {text_column("Reason"), [](const FingerprintProposal& p) {
              return Cell(q(p.sentence), Cell::Tone::plain, q(p.frames.front().string()));
          }}});
    proposals_->allow_several();
    proposals_->wrap_rows();
    foreign_ = new TableOf<ForeignSensor>(
        "Other sensors", {{text_column("Frame", 180),
                           [](const ForeignSensor& f) {
                               return Cell(q(f.frame.filename().string()), Cell::Tone::serious, q(f.frame.string()));
                           }},
                          {text_column("What was seen"), [](const ForeignSensor& f) { return Cell(q(f.sentence)); }}});
    foreign_->wrap_rows();
    auto* buttons = answer_buttons(*this, "&Claim chosen frames", [this] {
        claim_chosen();
        return false;
    });
    claim_ = taking(*buttons);
    auto* said = new QLabel(QString("%1 frames were compared. A wrong fingerprint reaches the threshold once in a "
                                    "thousand million times.")
                                .arg(found_.looked_at));
    said->setWordWrap(true);
    auto* all = new QVBoxLayout(this);
    all->addWidget(said);
    all->addWidget(panel("Frames whose body is not known", proposals_), 2);
    auto* others = panel("Bodies whose frames show another sensor", foreign_);
    all->addWidget(others, 1);
    all->addLayout(build_automatic());
    all->addWidget(buttons);
    proposals_->show_records(found_.proposals);
    foreign_->show_records(found_.foreign);
    others->setVisible(!found_.foreign.empty());
    proposals_->selectAll();
    connect(proposals_, &Table::selection_changed, this,
            [this] { claim_->setEnabled(!proposals_->chosen_rows().empty()); });
    claim_->setEnabled(!proposals_->chosen_rows().empty());
}

QHBoxLayout* FingerprintDialog::build_automatic() {
    constexpr double usual = 400;
    automatic_ = new QCheckBox("Claim frames that &arrive, without asking, from a figure of");
    least_ = new NumberBox;
    least_->setRange(fingerprint_threshold * fingerprint_threshold, 100000);
    least_->setDecimals(0);
    least_->setAccessibleName("Least figure of frames that are claimed without asking");
    const double now = parts_.entries().claims_from();
    automatic_->setChecked(now > 0);
    least_->setValue(now > 0 ? now : usual);
    least_->setEnabled(now > 0);
    const auto keep = [this] {
        const bool kept =
            parts_.attempt([this] { parts_.entries().put_claims_from(automatic_->isChecked() ? least_->value() : 0); });
        // What was refused, for want of the right, is not shown as if it were so.
        const QSignalBlocker quiet(automatic_);
        if (!kept) automatic_->setChecked(parts_.entries().claims_from() > 0);
        least_->setEnabled(automatic_->isChecked());
    };
    connect(automatic_, &QCheckBox::toggled, this, keep);
    connect(least_, &QDoubleSpinBox::valueChanged, this, keep);
    auto* line = new QHBoxLayout;
    line->addWidget(automatic_);
    line->addWidget(least_);
    line->addStretch(1);
    return line;
}

void FingerprintDialog::claim_chosen() {
    optrel::Accepted claims;  // QDialog has a signal of that name
    std::size_t frames = 0;
    for (const int row : proposals_->chosen_rows()) {
        const FingerprintProposal& p = found_.proposals[static_cast<std::size_t>(row)];
        claims.claims.push_back(claim_of(p));
        frames += p.frames.size();
    }
    if (claims.claims.empty()) return;
    FleetEdit edit;
    if (!parts_.attempt([&] { edit = edit_for(claims); })) return;
    ask_with_reach(
        parts_.jobs(), parts_.entries().source(), this,
        {.title = "Claim frames",
         .heading = QString("Claim %1 frame%2 by their fingerprint").arg(frames).arg(frames == 1 ? "" : "s"),
         .verb = "&Claim",
         .look = ReachNote::of(edit),
         .claims = true},
        [this, edit, frames](const std::string&) {
            if (!parts_.entries().edit("claim frames by their fingerprint", edit)) return;
            parts_.tell(QString("%1 frames are claimed by their fingerprint. Undo takes it back.").arg(frames));
            accept();
        });
}

void look_by_fingerprint(const FingerprintDialog::Parts& parts, QWidget* parent) {
    const auto found = std::make_shared<FingerprintFindings>();
    parts.jobs().run(
        "Comparing sensors",
        [source = parts.entries().source(), found](Progress& progress) {
            const auto store = source.open_for_reading();
            *found = look_by_fingerprint(*store, progress);
            try {
                Store into = source.open_for_writing();
                remember_unmatched(into, *found);
            } catch (const Error&) {
                // Who may only look learns the same; Attention then goes on to offer the comparison.
            }
        },
        [parts, found, parent = QPointer<QWidget>(parent)] {
            if (!parent) return;
            if (found->proposals.empty() && found->foreign.empty())
                return parts.tell(QString("%1 frames were compared; none shows a sensor that settles its body.")
                                      .arg(found->looked_at));
            auto* dialog = new FingerprintDialog(parts, std::move(*found), parent);
            dialog->setAttribute(Qt::WA_DeleteOnClose);
            dialog->open();
        });
}

}  // namespace optrel

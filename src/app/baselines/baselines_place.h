// SPDX-License-Identifier: GPL-3.0-or-later
// Baselines: tiers and sets with their pins, the matrix of bodies by ISO, the ramp, and explanations of the draft.
#pragma once

#include <QTabWidget>

#include "baselines/draft_view.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class LintPanel;
class MatrixPanel;
class ProbePanel;
class RampPanel;
class RevisionsPanel;
class SetsPanel;
class TierPanel;
class TracePanel;

class BaselinesPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = DraftView::Parts;
    explicit BaselinesPlace(const Parts& parts);
    void show_something() override;
    QStringList more_views() const override { return {"sets", "lint", "revisions"}; }
    void show_view(const QString& view) override;

    DraftView& view() { return view_; }
    MatrixPanel& matrix_panel() { return *matrix_; }
    RampPanel& ramp() { return *ramp_; }
    LintPanel& lint_panel() { return *lint_; }
    RevisionsPanel& revisions() { return *revisions_; }
    SetsPanel& set_panel() { return *sets_; }
    /// Shows what the sets of a file would change in the draft, and imports them on request.
    void offer_sets(const QString& path);
    Table& matrix();
    Table& tiers();
    Table& pins();
    Table& trace();
    void choose_field(Field field) { view_.choose_field(field); }
    void publish(const std::string& note);

private:
    void ask_to_publish();
    Parts parts_;
    void refresh();
    void fill_share_menu(QMenu& menu);
    void edit_cell(const Subject& subject, const QString& text);

    DraftView view_;
    QPushButton* publish_;
    bool alone_ = true;  ///< revisions need no approval
    QLabel* state_;
    QTabWidget *left_, *right_;
    TierPanel* tiers_;
    SetsPanel* sets_;
    MatrixPanel* matrix_;
    RampPanel* ramp_;
    TracePanel* trace_;
    ProbePanel* probe_;
    LintPanel* lint_;
    RevisionsPanel* revisions_;
};

}  // namespace optrel

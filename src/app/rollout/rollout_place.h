// SPDX-License-Identifier: GPL-3.0-or-later
// Rollout: scope, rehearsal, rollout, history and rollback.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QTabWidget>
#include <QTimer>
#include <memory>
#include <set>

#include "pictures/table_or_pictures.h"
#include "rollout/check_panel.h"
#include "rollout/history_panel.h"
#include "rollout/rollout.h"
#include "rollout/scope_dialog.h"
#include "session/parts.h"
#include "shared/samples_panel.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class RolloutPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, ProfileModel, BaselineModel, SheetModel, RolloutService,
                         WorkService, Jobs, Messages>;
    explicit RolloutPlace(const Parts& parts);
    void show_something() override;
    /// Asks for the frames; a name in the dialog saves the selection.
    void ask_scope();
    void rehearse_now();
    void roll_out_now();
    void roll_back(int history_row);
    void roll_back_part(int history_row);
    void roll_again(int history_row);
    /// Shows the changes of a rollout in place of a rehearsal.
    void show_difference(int history_row);
    /// Null: nothing is rehearsed.
    const std::shared_ptr<const Rehearsal>& rehearsal() const { return rehearsal_; }
    SamplesPanel& samples() { return *samples_; }
    QStringList more_views() const override { return {"samples"}; }
    void show_view(const QString& view) override;

private:
    Parts parts_;
    void build();
    QLayout* build_bar();
    void build_tables();
    void resume(int history_row);
    void go_on_with(int number, bool leave_gone);
    bool end_without(const RolloutReport& report);
    void go_on_with_due();
    const RolloutRecord* at(int history_row) const;
    ScopeDialog::Names names() const;
    void fill_scopes(const FrameScope& chosen);
    const FrameScope& scope() const;
    void require_some(FrameScope scope) const;
    void replace_rehearsal(std::shared_ptr<const Rehearsal> by);
    void begin_writing();
    void show_summary(const Rehearsal& rehearsal, const RehearsalCounts& counts);
    void show_outcomes(const RehearsalCounts& r);
    void show_frames(const Rehearsal& rehearsal);
    void refresh();
    void refresh_rehearsal();
    RolloutService::Done told_as(const QString& what);
    void report(const QString& what, const RolloutReport& report);

    std::shared_ptr<const Rehearsal> rehearsal_;
    RehearsalCounts counts_;          ///< of the rehearsal
    bool writing_ = false;            ///< a rollout is running
    QString last_done_;               ///< result of the last rollout or rollback, until the next rehearsal
    std::vector<FrameScope> scopes_;  ///< of the choices
    std::string rehearsed_scope_;     ///< description
    QComboBox* scope_;
    QLineEdit* hours_;
    QTimer due_;
    std::set<int> tried_;  ///< rollouts that could not be completed automatically
    QCheckBox *renew_, *one_core_;
    QPushButton *rehearse_, *apply_, *pause_;
    QLabel* summary_;
    QTabWidget* below_;
    SamplesPanel* samples_;
    struct Count {
        QString what, more;
        int frames = 0, of = 0;
        Cell::Tone tone = Cell::Tone::plain;
    };
    TableOf<Count>*outcomes_, *bodies_, *fields_;
    TableOf<RehearsedFrame>* frames_;
    std::vector<std::filesystem::path> shown_;  ///< paths of the frames in the table
    HistoryPanel* history_;
};

}  // namespace optrel

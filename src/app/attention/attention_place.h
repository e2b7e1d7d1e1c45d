// SPDX-License-Identifier: GPL-3.0-or-later
// Attention: what needs a person, each with what settles it.
#pragma once

#include <QTimer>
#include <functional>

#include "session/parts.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class AttentionPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, RegisterBook, BaselineBook, ProfileBook, SheetBook, RolloutDesk, ApprovalDesk,
                         TravelDesk, Jobs, Voice>;
    explicit AttentionPlace(const Parts& parts);

private:
    Parts parts_;
    struct Item {
        QString what, detail, action;
        int count;
        bool serious;
        std::function<void()> settle;
        std::function<void()> elsewhere = {};  ///< looks for it at the profile exchange
    };
    void refresh();
    // Each adds the items of its subject.
    void add_frames_missing();
    void add_missing_roots();
    void add_identities();
    void add_lenses_without_profile();
    void add_profile_concerns();
    void add_draft();
    void add_lint();
    void add_sidecars();
    void add_rollouts();
    void add_proposals();
    void add_remarks();
    void add_bundles();
    bool still_waits(const ChangeProposal& sent_back) const;
    QString subject_of(const Remark& remark) const;
    void judge(int proposal);
    std::function<void()> go(theme::Place place, const QString& view = {});
    void show_why();
    /// Lint of the published revision and comparisons of profiles, off the window's thread.
    void look_closer();

    int work_number_ = 0;
    int looked_at_ = -1;  ///< the revision that was looked at last
    std::vector<LintFinding> published_lint_;
    std::vector<ProfileConcern> profile_concerns_;
    std::vector<BehindVersion> behind_versions_;
    QTimer closer_;
    std::vector<Item> items_;
    TableOf<Item>* list_;
    QPushButton *settle_, *elsewhere_;
    QLabel *calm_, *why_;
};

}  // namespace optrel

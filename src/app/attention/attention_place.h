// SPDX-License-Identifier: GPL-3.0-or-later
// Attention: what needs a person, and how to settle it.
#pragma once

#include <QTimer>

#include "session/parts.h"
#include "studio/attention/attention.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class AttentionPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, BaselineModel, ProfileModel, SheetModel, RolloutService,
                         ApprovalService, SharingService, Jobs, Messages>;
    explicit AttentionPlace(const Parts& parts);

protected:
    /// Looks again where it offers to compare fingerprints: no signal tells that this was done meanwhile.
    void showEvent(QShowEvent* event) override;

private:
    Parts parts_;
    void refresh();
    /// Opens the place where an item is settled.
    void settle(const AttentionItem& item);
    void search_elsewhere(const AttentionItem& item);
    void choose_folder_of_frames();
    void place_root(const std::string& root);
    void judge(int proposal);
    void go(theme::Place place, const QString& view = {});
    /// Goes to the place where measurements of a kind are made.
    void go_to_measure(const std::string& kind);
    /// Null: no item is chosen.
    const AttentionItem* chosen() const;
    void show_why();
    /// Finds what takes long, on a worker thread.
    void look_closer();

    int work_number_ = 0;
    int looked_at_ = -1;         ///< the revision that was examined last
    bool records_read_ = false;  ///< no: the store's documents changed since store_records() read them
    AttentionFindings findings_;
    QTimer closer_;
    std::vector<AttentionItem> items_;
    TableOf<AttentionItem>* list_;
    QPushButton *settle_, *elsewhere_;
    QLabel *calm_, *why_;
};

}  // namespace optrel

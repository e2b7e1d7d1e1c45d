// SPDX-License-Identifier: GPL-3.0-or-later
// Tree of the draft's tiers, and the pins of the selected one.
#pragma once

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class TierPanel : public QWidget {
    Q_OBJECT
public:
    explicit TierPanel(DraftView& view, QWidget* parent = nullptr);

    Table& tiers() { return *tiers_; }
    Table& pins() { return *pins_; }

protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

private:
    /// Announces the open tier to other users, and shows which users have it open.
    void be_present();
    void refresh_others();
    void refresh_tiers();
    void refresh_pins();
    std::vector<Row> pin_rows(const Tier& tier) const;
    void edit_tier(int row, const QString& name);
    void edit_pin(int row, const QString& text);
    void add_tier();
    void delete_tier();
    void restore_tier();
    void copy_pins();
    std::string id_at(int row) const;

    struct Line {
        std::string id;
        bool deleted = false;
    };
    DraftView& view_;
    std::vector<Line> lines_;
    QPushButton *delete_, *copy_;
    QLabel *pins_of_, *others_;
    QCheckBox* pinned_only_;
    Table *tiers_, *pins_;
};

}  // namespace optrel

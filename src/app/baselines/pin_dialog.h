// SPDX-License-Identifier: GPL-3.0-or-later
// Pins a value from a cell of the matrix: choice of the tier, with the effect of each choice.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class PinDialog : public QDialog {
    Q_OBJECT
public:
    /// Throws Error(input) when the text is no value of the field.
    PinDialog(DraftView& view, const Subject& subject, Field field, const QString& text, QWidget* parent);

    /// The draft with the value pinned in the chosen tier.
    const Revision& result_draft() const { return options_[chosen()].after; }
    const std::string& tier_id() const { return options_[chosen()].tier_id; }

private:
    struct Option {
        QString where, how;
        std::string tier_id;
        Revision after;
        bool counted = false;
        ChangedValues changes;
        QString then;  ///< resulting value of the cell
    };
    void lay_out();
    void offer_tiers();
    Tier new_tier(Scope scope, const std::string& target, bool span) const;
    void add(const QString& where, Tier tier, bool exists);
    int chosen() const { return std::max(0, places_->chosen()); }
    /// Counts the changes of each choice on a worker; until then the dialog cannot be accepted.
    void count();
    void refresh_places();
    void offer_narrowest();
    void refresh_changes();

    DraftView& view_;
    const Subject subject_;
    const Field field_;
    Pin pin_;
    std::vector<Option> options_;
    TableOf<Option>* places_;
    TableOf<ChangedValues::Body>* changes_;
    QLabel* sum_;
    QPushButton* pin_here_;
};

}  // namespace optrel

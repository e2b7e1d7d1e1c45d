// SPDX-License-Identifier: GPL-3.0-or-later
// What the fingerprints of sensors say of frames whose body is not known: proposals, to be claimed, and bodies whose
// frames show another sensor.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include "session/parts.h"
#include "studio/fleet/fingerprint_claims.h"
#include "widgets/table.h"

class QHBoxLayout;

namespace optrel {

class NumberBox;

class FingerprintDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, Jobs, Messages>;
    FingerprintDialog(const Parts& parts, FingerprintFindings found, QWidget* parent);

    Table& proposals() { return *proposals_; }
    QCheckBox& automatic() { return *automatic_; }
    void claim_chosen();

private:
    /// From which figure on frames that arrive are claimed without asking.
    QHBoxLayout* build_automatic();

    Parts parts_;
    FingerprintFindings found_;
    TableOf<FingerprintProposal>* proposals_;
    TableOf<ForeignSensor>* foreign_;
    QPushButton* claim_;
    QCheckBox* automatic_;
    NumberBox* least_;
};

/// Compares the store's frames as a job, and shows the dialog, or tells that there is nothing to claim.
void look_by_fingerprint(const FingerprintDialog::Parts& parts, QWidget* parent);

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A claim: what files report, a folder, a time span or frames, tied to a body or a lens; with the frames that it would
// settle.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>

#include "reach/reach_note.h"
#include "session/parts.h"
#include "widgets/number_box.h"

namespace optrel {

class ClaimDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, Jobs, Messages>;
    /// `start` gives what is known already; its target may be empty. One with an id is a claim that is changed.
    ClaimDialog(const Parts& parts, const Claim& start, QWidget* parent);
    /// Throws Error(input) as check_claim() does.
    Claim claim() const;
    /// What the claim does to the register.
    FleetEdit edit() const;

private:
    void build_fields(bool lens);
    void lay_out(bool lens);
    void count();
    void look();

    Parts parts_;
    const Claim start_;
    QComboBox *target_, *body_;
    QLineEdit *camera_, *serial_, *lens_text_, *lens_serial_, *folder_, *from_, *to_, *note_;
    NumberBox *focal_, *aperture_;
    QLabel* count_;
    ReachNote* reach_;
    QTimer typed_;  ///< what is typed is looked at once the typing stops
    QPushButton* take_;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A claim: what files report, a folder, a time span or frames, tied to a body or a lens; with the frames that it would
// settle.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>

#include "session/parts.h"
#include "widgets/number_box.h"

namespace optrel {

class ClaimDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, RegisterBook, Voice>;
    /// `start` gives what is known already; its target may be empty.
    ClaimDialog(const Parts& parts, const Claim& start, QWidget* parent);
    /// Throws Error(input) as check_claim() does.
    Claim claim() const;

private:
    void build_fields(bool lens);
    void lay_out(bool lens);
    void count();

    Parts parts_;
    const Claim start_;
    QComboBox *target_, *body_;
    QLineEdit *camera_, *serial_, *lens_text_, *lens_serial_, *folder_, *from_, *to_, *note_;
    NumberBox *focal_, *aperture_;
    QLabel* reach_;
};

}  // namespace optrel

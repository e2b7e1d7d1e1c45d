// SPDX-License-Identifier: GPL-3.0-or-later
// Looking for a lens at the profile exchange: what others measured, how good it is, how copies differ, and taking one.
#pragma once

#include <QDialog>

#include "session/parts.h"
#include "widgets/number_box.h"
#include "widgets/table.h"

class QCheckBox;

namespace optrel {

class PictureMap;

class ExchangeDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<SharingService, Messages>;
    /// Asks nothing before somebody presses Search.
    ExchangeDialog(const Parts& parts, const ExchangeQuestion& question, QWidget* parent = nullptr);

private:
    QWidget* question_row();
    QWidget* exchange_row();
    QWidget* consensus_panel();
    void settle_address();
    void search();
    /// What is under way ended, well or not: the button searches again.
    void rest();
    void show_answer(const ExchangeAnswer& answer);
    void show_consensus(const std::optional<ModelConsensus>& consensus);
    void show_chosen();
    void take();
    void trust();
    ExchangeQuestion question() const;
    const ExchangeCandidate* chosen() const;

    Parts parts_;
    ExchangeAnswer answer_;
    bool asking_ = false;
    QLineEdit *lens_, *address_;
    NumberBox *half_diagonal_, *focal_, *most_rms_;
    TableOf<ExchangeCandidate>* list_;
    QLabel *said_, *consensus_;
    PictureMap* spread_;
    QPushButton *search_, *take_, *trust_;
};

}  // namespace optrel

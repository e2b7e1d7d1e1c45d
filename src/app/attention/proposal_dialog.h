// SPDX-License-Identifier: GPL-3.0-or-later
// Shows a proposal, to be approved or sent back.
#pragma once

#include <QDialog>

#include "shared/samples_panel.h"
#include "studio/rollout/approvals.h"

class QComboBox;
class QLineEdit;
class QPushButton;

namespace optrel {

class ProposalDialog : public QDialog {
    Q_OBJECT
public:
    /// `may_judge`: whether the user may approve it or send it back.
    ProposalDialog(const SamplesPanel::Parts& parts, const ProposalView& view, bool may_judge, QWidget* parent);

    enum class Answer { none, approve, send_back };
    Answer answer() const { return answer_; }
    std::string remark() const;
    std::string field() const;

private:
    QWidget* list_of(const QString& name, const std::vector<std::string>& lines, const QString& none);
    /// Frames before and after.
    QWidget* samples_of(const SamplesPanel::Parts& parts, const ProposalView& view);

    Answer answer_ = Answer::none;
    QLineEdit* remark_;
    QComboBox* field_;
    QPushButton* back_ = nullptr;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The work that the stations of a studio share: what waits, what came of it, putting work in, and helping.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSpinBox>
#include <optional>

#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class WorkDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<WorkService, FrameModel, Messages>;
    WorkDialog(const Parts& parts, QWidget* parent);

private:
    QWidget* build_jobs();
    QWidget* build_result();
    QWidget* build_help();
    void put_in(const QString& what, const WorkService::Add& add);
    void put_in_index();
    void put_in_measure();
    void put_in_rehearsal();
    void put_in_rollout();
    void refresh();
    void refresh_help();
    void show_result();
    void cancel_chosen();
    void settle_chosen();
    void take_help();
    const QueuedJob* chosen() const;

    Parts parts_;
    TableOf<QueuedJob>* jobs_;
    QListWidget* result_;
    QPushButton *cancel_, *settle_;
    QLabel *result_of_, *said_, *helped_;
    QCheckBox* help_;
    QSpinBox* cores_;
    QLineEdit* hours_;
    std::vector<QCheckBox*> kinds_;
    int shown_ = 0;              ///< the job whose result is shown
    std::optional<int> newest_;  ///< the newest job when something was put in here
    bool refreshing_ = false;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Publishes a solution: serious findings are accepted one by one with a reason, settings of the previous version are
// kept or dropped, and the affected frames are shown first.
#pragma once

#include <QButtonGroup>
#include <QCheckBox>
#include <QDialog>
#include <QLineEdit>
#include <vector>

#include "measurement/findings.h"
#include "reach/reach_note.h"
#include "store/profiles.h"

namespace optrel {

class PublishDialog : public QDialog {
    Q_OBJECT
public:
    /// `before`: the current version; null: none.
    PublishDialog(Jobs& jobs, StoreSource source, const Profile& profile, const Profile* before, QWidget* parent);

    std::vector<Acceptance> acceptances() const;
    OtherSettings others() const;

private:
    void add_findings(const Profile& profile);
    void add_settings(const Profile& profile, const Profile& before);
    void refresh();

    struct Row {
        std::string name;
        QCheckBox* tick;
        QLineEdit* reason;
    };
    std::vector<Row> rows_;
    ReachNote* reach_;
    QLabel* missing_;
    QButtonGroup* settings_ = nullptr;
    QPushButton* publish_;
};

}  // namespace optrel

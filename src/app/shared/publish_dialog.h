// SPDX-License-Identifier: GPL-3.0-or-later
// Publishes a measurement: serious findings are accepted one by one with a reason, settings of the previous version are
// kept or dropped, and the affected frames are shown first.
#pragma once

#include <QButtonGroup>
#include <QCheckBox>
#include <QDialog>
#include <QLineEdit>
#include <vector>

#include "measurement/findings.h"
#include "measurement/kind.h"
#include "reach/reach_note.h"

namespace optrel {

/// What is to be published.
struct PublishQuestion {
    QString what = "measurement";  ///< "profile"
    QString name;
    int before = 0;  ///< the version that is current; 0: none
    std::vector<SeriousFinding> findings;
    QString settings = "settings";  ///< what the previous version may have besides, as "lens settings"
    QStringList missing;            ///< those that the new version lacks
    ReachNote::Look look;
};

class PublishDialog : public QDialog {
    Q_OBJECT
public:
    PublishDialog(Jobs& jobs, StoreSource source, const PublishQuestion& question, QWidget* parent);

    std::vector<Acceptance> acceptances() const;
    OtherSettings others() const;

private:
    void add_findings(const PublishQuestion& question);
    void add_settings(const PublishQuestion& question);
    void refresh();

    struct Row {
        std::string name;
        QCheckBox* tick;
        QLineEdit* reason;
    };
    QString settings_word_;
    std::vector<Row> rows_;
    ReachNote* reach_;
    QLabel* missing_;
    QButtonGroup* settings_ = nullptr;
    QPushButton* publish_;
};

}  // namespace optrel

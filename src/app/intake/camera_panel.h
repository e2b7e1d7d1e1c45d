// SPDX-License-Identifier: GPL-3.0-or-later
// Tethered cameras: which camera, into which folder, with which settings.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class CameraPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<BaselineModel, CameraService, Jobs, Messages>;
    explicit CameraPanel(const Parts& parts);

protected:
    void showEvent(QShowEvent* event) override;

private:
    QLayout* build_form();
    void ask_for_folder();
    void follow();
    void list();
    const CameraSeen* chosen() const;
    void refresh();
    void refresh_sets();

    Parts parts_;
    QComboBox *camera_, *set_;
    QLineEdit *to_, *name_;
    QCheckBox *older_, *show_;
    QPushButton *look_, *folder_, *follow_, *release_, *list_;
    QLabel* state_;
    TableOf<FileOnCamera>* files_;
};

}  // namespace optrel

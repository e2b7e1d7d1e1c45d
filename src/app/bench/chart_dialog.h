// SPDX-License-Identifier: GPL-3.0-or-later
// The chart of a run: specification, preview of the page, and measured rulers.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QSpinBox>
#include <optional>

#include "charts/sheet_layout.h"
#include "widgets/number_box.h"

namespace optrel {

class ChartDialog : public QDialog {
    Q_OBJECT
public:
    explicit ChartDialog(const ChartSpec& chart, QWidget* parent = nullptr);
    /// The chart with measured sizes, for the run when the dialog is accepted.
    ChartSpec chart() const;
    bool write(const QString& path);

private:
    QLayout* build_form();
    void lay_out();
    void update_sheet();

    QComboBox *kind_, *page_;
    QSpinBox *across_, *down_;
    NumberBox *square_, *ruler_across_, *ruler_down_;
    QLabel *message_, *measured_;
    QPushButton *save_, *use_;
    QWidget* preview_;
    std::optional<ChartSheet> sheet_;
    ChartSpec given_;
};

}  // namespace optrel

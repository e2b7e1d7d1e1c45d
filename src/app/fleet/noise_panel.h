// SPDX-License-Identifier: GPL-3.0-or-later
// The measured noise of bodies: versions, figures for each ISO, curves, two bodies overlaid.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTabWidget>

#include "measurement/measurement.h"
#include "sensor/noise_report.h"
#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class LogPlot;

class NoisePanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, BaselineModel, ProfileModel, Jobs, Messages>;
    explicit NoisePanel(const Parts& parts, QWidget* parent = nullptr);

    void show_something();
    Table& list() { return *list_; }
    Table& figures() { return *figures_; }
    QComboBox& other() { return *other_; }
    QPushButton& derive_button() { return *derive_; }
    /// The dialog for a new measurement; not modal.
    void ask_to_measure();
    /// The dialog for the chosen measurement's noise reduction; not modal.
    void ask_to_derive();

protected:
    /// Documents are read when somebody looks.
    void showEvent(QShowEvent* event) override;

private:
    void build();
    QWidget* build_left();
    QWidget* build_right();
    void refresh();
    void show_version(int row);
    void show_curves();
    void show_notes();
    void list_others();
    void ask_to_make_current();
    void ask_to_withdraw();
    /// The measurement to compare with; null: none.
    const NoiseReport* compared() const;
    QString compared_name() const;

    Parts parts_;
    std::vector<Measurement> versions_;
    std::vector<NoiseReport> reports_;
    int shown_ = -1;
    bool stale_ = true;  ///< the store may have other versions than are shown
    TableOf<Measurement>* list_;
    TableOf<ReportedIso>* figures_;
    QComboBox *other_, *colour_;
    QLabel *notes_, *empty_;
    QTabWidget* curves_;
    LogPlot *read_noise_, *range_, *snr_, *transfer_;
    QPushButton *measure_, *derive_, *current_, *withdraw_;
};

}  // namespace optrel

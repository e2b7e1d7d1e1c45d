// SPDX-License-Identifier: GPL-3.0-or-later
// Noise reduction derived from a body's measured noise: the need for each ISO, what it costs, drawn against what is
// pinned now, and taken over into the draft.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <memory>

#include "session/parts.h"
#include "studio/development/noise_ramp.h"
#include "widgets/number_box.h"
#include "widgets/table.h"

namespace optrel {

class LogPlot;

class NoiseRampDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<BaselineModel, ProfileModel, Jobs, Messages>;
    NoiseRampDialog(const Parts& parts, const Measurement& noise, QWidget* parent);
    ~NoiseRampDialog() override;

    void derive();
    void take_over();
    bool derived() const { return ramp_ != nullptr; }
    NumberBox& lightness() { return *lightness_; }

private:
    void build();
    void show_ramp();
    void refresh();

    Parts parts_;
    Measurement noise_;
    std::shared_ptr<NoiseRamp> ramp_;
    std::shared_ptr<bool> wanted_;  ///< false: a newer question was asked, or the dialog is gone
    NumberBox *lightness_, *colour_, *side_;
    LogPlot *luminance_plot_, *colour_plot_;
    TableOf<NoiseRampPoint>* points_;
    QLabel* said_;
    QPushButton *derive_, *take_;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Measures the noise of a body: frames are chosen, sorted and measured; the result is looked at and published.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPushButton>
#include <memory>

#include "fleet/frame_picker.h"
#include "fleet/running_measurement.h"
#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

struct NoiseMeasurement;
struct IsoNoise;
struct NoiseFinding;

class NoiseDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, ProfileModel, Jobs, Messages>;
    NoiseDialog(const Parts& parts, QWidget* parent);

    /// Adds frames; those that are named already stay once.
    void add_frames(const std::vector<std::filesystem::path>& frames);
    void measure();
    void publish();
    bool measured() const { return result_ != nullptr; }
    Table& findings() { return *findings_; }

private:
    void build();
    void refresh();
    void show_result();

    Parts parts_;
    FramePicker* picker_;
    std::shared_ptr<NoiseMeasurement> result_;
    std::string document_;
    RunningMeasurement running_;
    QLabel* said_;
    TableOf<IsoNoise>* figures_;
    TableOf<NoiseFinding>* findings_;
    QPushButton *measure_, *publish_;
};

}  // namespace optrel

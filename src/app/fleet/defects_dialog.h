// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the defects of a sensor: frames are chosen and looked at; the map is seen, and published.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <memory>

#include "fleet/frame_picker.h"
#include "sensor/defect_search.h"
#include "session/parts.h"
#include "shared/running_measurement.h"

namespace optrel {

class SensorView;

class DefectsDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, ProfileModel, Jobs, Messages>;
    DefectsDialog(const Parts& parts, QWidget* parent);

    void add_frames(const std::vector<std::filesystem::path>& frames) { picker_->add(frames); }
    void look();
    void publish();
    bool found() const { return result_ != nullptr; }
    QString said() const { return said_->text(); }
    SensorView& view() { return *view_; }

private:
    void build();
    void refresh();
    void show_result();

    Parts parts_;
    FramePicker* picker_;
    std::shared_ptr<DefectSearch> result_;
    RunningMeasurement running_;
    SensorView* view_;
    QLabel* said_;
    QPushButton *look_, *publish_;
};

/// "3 dust spots, one takes more than 2 % of the light: clean the sensor."
QString dust_in_words(const DefectMap& map);

}  // namespace optrel

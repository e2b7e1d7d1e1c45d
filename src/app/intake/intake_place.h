// SPDX-License-Identifier: GPL-3.0-or-later
// Intake: sources of new frames, rules of each folder, and the log of arrivals.
#pragma once

#include <QComboBox>
#include <QTabWidget>

#include "intake/camera_panel.h"
#include "intake/card_panel.h"
#include "pictures/table_or_pictures.h"
#include "session/parts.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class IntakePlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, ProfileModel, BaselineModel, SheetModel, RolloutService,
                         IntakeService, CameraService, Jobs, Messages>;
    explicit IntakePlace(const Parts& parts);

    /// Asks for the rules of a folder; an empty path also asks for the folder.
    void add_folder(const QString& folder);
    /// A connected camera.
    void show_something() override;
    /// Shows the panel for cards.
    CardPanel& card();
    /// Rolls out the baseline over the selected arrivals that wait.
    void give_baseline();

private:
    QWidget* build_folders();
    QWidget* build_arrivals();
    void edit_folder(int row);
    void remove_folder(int row);
    void ask(const IntakeFolder& folder);
    QStringList sets() const;
    void refresh_folders();
    void refresh_arrivals();
    void refresh_buttons();
    std::vector<std::filesystem::path> chosen_waiting() const;

    Parts parts_;
    std::vector<IntakeFolder> folder_list_;
    std::vector<ArrivalRecord> arrival_list_;
    QLabel *state_, *summary_;
    QComboBox* which_;
    QPushButton *change_, *remove_, *watch_, *give_, *inspect_;
    TableOf<IntakeFolder>* folders_;
    TableOf<ArrivalRecord>* arrivals_;
    QTabWidget* ways_;
    CardPanel* card_;
};

}  // namespace optrel

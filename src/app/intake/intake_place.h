// SPDX-License-Identifier: GPL-3.0-or-later
// Intake: what comes in, by which way; what each folder does with a new frame; what arrived, what it got, what waits.
#pragma once

#include <QComboBox>
#include <QTabWidget>

#include "intake/camera_panel.h"
#include "intake/card_panel.h"
#include "session/parts.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class IntakePlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, RegisterBook, ProfileBook, BaselineBook, SheetBook, RolloutDesk, IntakeDesk,
                         CameraDesk, Jobs, Voice>;
    explicit IntakePlace(const Parts& parts);

    /// A folder that was dropped, or none: asks for it and what becomes of its frames.
    void add_folder(const QString& folder);
    /// A camera that is there.
    void show_something() override;
    /// The panel for cards, in front.
    CardPanel& card();
    /// Rolls the baseline out over the chosen arrivals that wait.
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

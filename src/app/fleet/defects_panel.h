// SPDX-License-Identifier: GPL-3.0-or-later
// The defect maps of bodies: versions, what each one added, and where the defects are.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "measurement/measurement.h"
#include "sensor/defect_map.h"
#include "session/parts.h"
#include "widgets/table.h"

class QHBoxLayout;

namespace optrel {

class SensorView;

class DefectsPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, ProfileModel, Jobs, Messages>;
    explicit DefectsPanel(const Parts& parts, QWidget* parent = nullptr);

    void show_something();
    Table& list() { return *list_; }
    /// The dialog for a new map; not modal.
    void ask_to_find();
    /// Writes the chosen map as CSV.
    void save_text(const QString& path);

protected:
    /// Reads the maps when the tab is first shown: they can be large.
    void showEvent(QShowEvent* event) override;

private:
    /// A version with what it added to the one before.
    struct Version {
        Measurement measurement;
        DefectMap map;
        DefectChange change;
        bool first = true;
    };
    void build();
    QHBoxLayout* build_buttons();
    void refresh();
    void compare_versions();
    void show_version(int row);
    const Version* chosen() const;

    Parts parts_;
    std::vector<Version> versions_;
    int shown_ = -1;
    bool stale_ = true;  ///< the store may have other versions than are shown
    TableOf<Version>* list_;
    SensorView* view_;
    QLabel *notes_, *empty_;
    QPushButton *save_, *current_, *withdraw_;
};

}  // namespace optrel

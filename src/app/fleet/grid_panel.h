// SPDX-License-Identifier: GPL-3.0-or-later
// Table of bodies and lenses: grade of each pair, and its candidates with reasons.
#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class ProfileCurves;

class GridPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, BaselineModel, ProfileModel, SharingService, Jobs, Messages>;
    explicit GridPanel(const Parts& parts, QWidget* parent = nullptr);

    Table& grid() { return *grid_; }
    Table& candidates() { return *candidates_; }
    QLineEdit& search() { return *search_; }
    /// Selects the cell with the most frames.
    void show_something();

protected:
    void showEvent(QShowEvent* event) override;

private:
    void lay_out();
    void refresh();
    void choose_cell(int row, int column);
    void refresh_candidates();
    void refresh_curves();
    Cell cell(int row, int column) const;
    const ProfileMatch* match_at(int row) const;
    void assign();
    void search_elsewhere();

    Parts parts_;
    std::shared_ptr<const LensGrid> data_ = std::make_shared<LensGrid>();
    int row_ = -1, column_ = -1, work_number_ = 0;
    bool stale_ = true;
    std::vector<Profile> profiles_;  ///< all versions; matches refer to them
    std::vector<ProfileMatch> matches_;
    QLabel *of_, *why_;
    QLineEdit* search_;
    QPushButton *assign_, *elsewhere_;
    Table* grid_;
    TableOf<ProfileMatch>* candidates_;
    ProfileCurves* curves_;
};

}  // namespace optrel

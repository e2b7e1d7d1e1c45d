// SPDX-License-Identifier: GPL-3.0-or-later
// Published profiles: versions, lens settings, figures and curves; comparison of two.
#pragma once

#include <QComboBox>
#include <QTabWidget>

#include "session/parts.h"
#include "widgets/place.h"
#include "widgets/profile_curves.h"
#include "widgets/table.h"

namespace optrel {

class FrameView;
class ResolutionView;
class SettingChart;
struct ProfileFigure;

class LensesPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<ProfileModel, ApprovalService, SharingService, Jobs, Messages>;
    explicit LensesPlace(const Parts& parts);
    void show_something() override;
    QStringList more_views() const override {
        return profiles_.size() > 1 ? QStringList{"difference", "resolution"} : QStringList{};
    }
    void show_view(const QString&) override;

    /// Shows a profile from a file, to be imported on request.
    void open_file(const QString& path);

private:
    Parts parts_;
    void build();
    void build_actions();
    void ask_export();
    void ask_to_make_current();
    void ask_to_withdraw();
    void build_share_menu();
    /// The shown profile, for a bundle.
    PackingList packing() const;
    void refresh();
    void show_profile(int row);
    void show_node(int node);
    void show_comparison();
    void show_resolution(const ProfileCurves::Overlay& other);
    void list_others();

    std::vector<Profile> profiles_;
    int shown_ = -1, node_ = 0;
    QPushButton *export_, *share_, *current_, *withdraw_;
    QAction *pack_, *give_, *remark_;
    TableOf<Profile>* list_;
    TableOf<ProfileFigure>* figures_;
    SettingChart* settings_;
    ProfileCurves* curves_;
    QTabWidget* tabs_;
    QComboBox* other_;
    QLabel* verdict_;
    FrameView* difference_;
    ResolutionView* resolution_;
};

}  // namespace optrel

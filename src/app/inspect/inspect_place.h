// SPDX-License-Identifier: GPL-3.0-or-later
// Inspect: a frame before and after, its field sheet, and manual corrections.
#pragma once

#include <QButtonGroup>
#include <QComboBox>
#include <QLabel>
#include <QPointer>
#include <QTabWidget>
#include <QToolButton>
#include <memory>

#include "inspect/cost_panel.h"
#include "inspect/hand_panel.h"
#include "inspect/loupe_ring.h"
#include "inspect/measured_help.h"
#include "inspect/picture_touch.h"
#include "inspect/picture_window.h"
#include "inspect/preview_service.h"
#include "inspect/readout.h"
#include "inspect/sharpness_panel.h"
#include "inspect/sheet_panel.h"
#include "inspect/spot_board.h"
#include "inspect/straighten_tool.h"
#include "session/parts.h"
#include "shared/frames_panel.h"
#include "widgets/compare_view.h"
#include "widgets/flow_layout.h"
#include "widgets/place.h"

namespace optrel {

class InspectPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, BaselineModel, ProfileModel, SheetModel, ApprovalService,
                         SharingService, Jobs, QUndoStack, Messages>;
    explicit InspectPlace(const Parts& parts);
    void show_something() override;
    QStringList more_views() const override {
        return {"pictures", "marks", "hand", "corners", "cost", "sharpness", "loupes", "spot"};
    }
    void show_view(const QString& view) override;

    Table& frames() { return frames_->table(); }
    FramesPanel& list() { return *frames_; }
    Table& sheet() { return sheet_->table(); }
    HandPanel& hand() { return *hand_; }
    CompareView& view() { return *view_; }
    CostPanel& cost() { return *cost_; }
    SharpnessPanel& sharpness() { return *sharpness_; }
    LoupeRing& loupes() { return *ring_; }
    SpotBoard& spot() { return *spot_; }
    Readout& readout() { return *readout_; }
    void show_loupes(bool on);
    void show_spot(bool on);
    /// Opens a second window that shows the chosen frame, also when another frame is chosen later.
    void open_picture_window();
    PictureWindow* picture_window() { return second_; }
    void choose_frame(const QString& path) { frames_->choose(path); }
    bool developing() const { return looks_->working(); }
    /// Compares a camera model from a file with the profile of the selected frame, to be saved on request.
    void open_camera_file(const QString& path);

private:
    void build_actions();
    void add_keys();
    void show_second();
    void show_chosen();
    void pack_for_frames();
    QLayout* build_tools();
    void build_grid_and_loupes(FlowLayout& bar);
    QWidget* build_picture();
    QWidget* build_side();
    void listen_to_hand();
    void refresh_sheet();
    /// Current development of the selected frame, including values that are being changed.
    struct Development : FrameDevelopment {
        std::filesystem::path path;
        ProfileMatch match;
    };
    std::optional<Development> development(const FrameRecord& frame);
    std::optional<Development> chosen_development();
    SensorFacts sensor_of(const FrameRecord& frame) const;
    void look();
    void listen_to_figures();
    void follow_screen();
    void read_patch(const QRectF& area);
    QString about(const FrameRecord& frame, const Development& development) const;
    void show_framing();
    std::vector<PictureMarks::Line> lines_over(const Framing& framing, const Metadata& metadata) const;
    void find_lines();
    void take_straightening();
    void keep_as_profile();
    /// Compares the correction in the file with the profile in use, and saves it as a profile on request.
    void compare_carried();
    void offer_profile(const std::string& words, const Profile& own, const Development& development,
                       const QString& marked);
    void listen_to_help();
    void show_fringe(int fringe);
    void ask_help(MeasuredHelp::Kind kind);
    void mark_area(PictureTool tool, const QRectF& area);
    void listen_to_touch();
    void bend_line(const Vec2& from, const Vec2& middle, const Vec2& to);
    void level_corners(const std::vector<Vec2>& corners);
    void measure_edge(const Vec2& from, const Vec2& to);
    void measure_chart();
    void show_some_edge();
    void set_by_hand_together(const QString& what, const std::vector<std::pair<Field, Value>>& values);
    void set_by_hand_now(Field field, const Value& value);
    const FrameRecord* chosen() const { return frames_->chosen(); }

    Parts parts_;
    FramesPanel* frames_;
    SheetPanel* sheet_;
    HandPanel* hand_;
    CostPanel* cost_;
    SharpnessPanel* sharpness_;
    QTabWidget* tabs_;
    CompareView* view_;
    LoupeRing* ring_;
    SpotBoard* spot_;
    QStackedWidget* pictures_;  ///< the picture, the loupes, or the same spot of several frames
    QToolButton* loupes_;
    QPointer<PictureWindow> second_;
    Readout* readout_;
    bool patch_shown_ = false;  ///< the figures are those of a patch, until another is drawn or the tool is left
    PreviewService* looks_;
    StraightenTool* lines_;
    MeasuredHelp* help_;
    PictureTouch* touch_;
    QButtonGroup *modes_, *zooms_;
    QLabel *about_, *crop_;
    QCheckBox* with_set_;
    QPushButton *back_, *bare_, *others_, *export_, *share_;
    std::optional<std::pair<Vec2, Vec2>> edge_;  ///< edge whose sharpness is shown, px of the frame
    Layer turning_;                              ///< values of controls that are being moved
    std::filesystem::path shown_;                ///< the shown frame
};

}  // namespace optrel

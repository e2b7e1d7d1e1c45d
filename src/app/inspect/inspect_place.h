// SPDX-License-Identifier: GPL-3.0-or-later
// Inspect: one frame before and after, and its field sheet.
#pragma once

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <memory>

#include "base/progress.h"
#include "inspect/sheet_panel.h"
#include "session/parts.h"
#include "widgets/compare_view.h"
#include "widgets/place.h"

namespace optrel {

class InspectPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, RegisterBook, BaselineBook, ProfileBook, SheetBook, Jobs, QUndoStack, Voice>;
    explicit InspectPlace(const Parts& parts);
    ~InspectPlace() override;
    void show_something() override;

    Table& frames() { return *frames_; }
    Table& sheet() { return sheet_->table(); }
    CompareView& view() { return *view_; }
    void choose_frame(const QString& path);
    bool developing() const { return developing_ != nullptr; }
    void export_to(const QString& path);

private:
    Parts parts_;
    void build();
    void build_actions();
    QWidget* build_frames();
    QWidget* build_picture();
    QLayout* build_tools();
    void ask_export();
    void refresh_frames();
    void refresh_sheet();
    void develop();
    void claim_frames(Claim::Of of);
    /// The one that is shown in front.
    std::vector<const FrameRecord*> chosen_frames() const;
    const FrameRecord* chosen() const;

    Table* frames_;
    SheetPanel* sheet_;
    CompareView* view_;
    QButtonGroup *modes_, *zooms_;
    QLabel* about_;
    QLabel* identity_;
    QCheckBox* with_set_;
    QPushButton *back_, *bare_, *export_, *assign_lens_, *claim_body_;
    std::shared_ptr<Progress> developing_;
    QString shown_;
};

}  // namespace optrel

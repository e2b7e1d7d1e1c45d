// SPDX-License-Identifier: GPL-3.0-or-later
// Inspect: one frame before and after, and its field sheet.
#pragma once

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <functional>
#include <memory>

#include "base/progress.h"
#include "widgets/compare_view.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class InspectPlace : public PlaceWidget {
    Q_OBJECT
public:
    explicit InspectPlace(Session& session);
    ~InspectPlace() override;
    void show_something() override;

    Table& frames() { return *frames_; }
    Table& sheet() { return *sheet_; }
    CompareView& view() { return *view_; }
    void choose_frame(const QString& path);
    bool developing() const { return developing_ != nullptr; }
    void export_to(const QString& path);

private:
    void build();
    void build_actions();
    QWidget* build_frames();
    QWidget* build_picture();
    QLayout* build_tools();
    QWidget* build_sheet();
    void ask_export();
    void refresh_frames();
    void refresh_sheet();
    void show_rows();
    void refresh_sheet_buttons();
    void refresh_trace();
    QString text_of(Field field, const Value& value) const;
    void develop();
    void edit_hand(int row, const QString& text);
    void change_sheet(const QString& what, const Sheet& after);
    /// One edit for all chosen frames; `change` gets each sheet.
    void change_sheets(const QString& what, const std::function<void(const FrameRecord&, Sheet&)>& change);
    void drop_field();
    void apply_set();
    void make_set();
    void claim_frames(Claim::Of of);
    std::vector<const FrameRecord*> chosen_frames() const;
    const FrameRecord* chosen() const;
    /// The sheet of a frame as last read; an empty one while it was not read or cannot be.
    Sheet sheet_of(const FrameRecord& frame) const;
    ResolvedFrame fields_now(const FrameRecord& frame) const;

    Table *frames_, *sheet_, *trace_;
    CompareView* view_;
    QButtonGroup *modes_, *zooms_;
    QLabel* about_;
    QLabel* identity_;
    QCheckBox *with_set_, *all_fields_;
    QPushButton *back_, *bare_, *export_, *drop_, *apply_set_, *make_set_, *assign_lens_, *claim_body_;
    std::shared_ptr<Progress> developing_;
    QString shown_;
};

}  // namespace optrel

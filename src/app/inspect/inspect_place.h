// Inspect: one frame before and after, and its field sheet.
#pragma once

#include <QButtonGroup>
#include <QComboBox>
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
    void refresh_frames();
    void refresh_sheet();
    void develop();
    void edit_hand(int row, const QString& text);
    void change_sheet(const QString& what, const Sheet& after);
    const FrameRecord* chosen() const;
    /// The sheet of a frame as last read; an empty one while it was not read or cannot be.
    Sheet sheet_of(const FrameRecord& frame) const;
    ResolvedFrame fields_now(const FrameRecord& frame) const;

    Table *frames_, *sheet_;
    CompareView* view_;
    QButtonGroup *modes_, *zooms_;
    QLabel* about_;
    QPushButton *back_, *bare_, *export_;
    std::shared_ptr<Progress> developing_;
    QString shown_;
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// A window that shows only the chosen frame, on a second screen or on the full screen. The picture is converted to the
// colour profile of the screen that shows the window.
#pragma once

#include <QWidget>

#include "inspect/preview_service.h"
#include "widgets/compare_view.h"

namespace optrel {

class PictureWindow : public QWidget {
    Q_OBJECT
public:
    /// `shares`: a service whose prepared frames are used, so that no frame is read twice.
    PictureWindow(Jobs& jobs, const PreviewService& shares);

    CompareView& view() { return *view_; }
    bool developing() const { return looks_->working(); }
    /// Shows a frame that `shares` has prepared.
    void show_frame(const PreviewSubject& subject, const ResolvedFrame& fields,
                    const std::optional<AppliedProfile>& profile);
    void show_nothing();

signals:
    /// Another frame is asked for: the next (1) or the previous one (-1).
    void step_asked(int step);

protected:
    void closeEvent(QCloseEvent* event) override;

private:
    void add_keys();
    void follow_screen();

    PreviewService* looks_;
    CompareView* view_;
    std::filesystem::path shown_;
};

}  // namespace optrel

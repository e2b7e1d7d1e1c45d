// SPDX-License-Identifier: GPL-3.0-or-later
// What a person does on the picture itself: marks an area, draws a line, bends one straight, lays four corners on a
// rectangle, drags the ring at which corner light begins. Places are kept as those of the frame, so that they stay
// where they are when the correction changes.
#pragma once

#include <QObject>
#include <memory>
#include <optional>
#include <vector>

#include "frames/metadata.h"
#include "render/framing.h"
#include "widgets/compare_view.h"

namespace optrel {

/// What is being done on the picture.
enum class PictureTool { none, even_area, scene_line, bend_line, corners, ring, edge };

class PictureTouch : public QObject {
    Q_OBJECT
public:
    explicit PictureTouch(CompareView& view);

    /// Ends what was being done.
    void begin(PictureTool tool);
    PictureTool tool() const { return tool_; }
    /// The picture that is shown now; null for none.
    void show_over(std::shared_ptr<const Framing> framing, const Metadata& metadata);
    /// The field height at which corner light begins.
    void set_ring(double height);
    /// Px of the frame that a px of the screen has.
    double mark_px() const;

signals:
    void tool_changed(PictureTool tool);
    /// All in px of the frame.
    void area_marked(const QRectF& area);
    void line_drawn(PictureTool tool, const Vec2& from, const Vec2& to);
    void line_bent(const Vec2& from, const Vec2& middle, const Vec2& to);
    void corners_laid(const std::vector<Vec2>& corners);
    void ring_dragged(double height);

private:
    std::optional<Vec2> in_frame(const QPointF& place) const;
    void lay();
    void lay_corners();
    void mark_line(const QLineF& line);
    void mark_area(const QRectF& area);
    void move_handle(int handle, const QPointF& place, bool rests);
    void move_ring(const QPointF& place);
    void tell();

    CompareView& view_;
    PictureTool tool_ = PictureTool::none;
    std::shared_ptr<const Framing> framing_;
    Metadata metadata_;
    std::vector<Vec2> points_;
    double ring_ = 0;
    std::optional<CompareView::Mode> compared_;  ///< how it was compared before something was done on the picture
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// Tools on the picture: mark an area, draw a line, bend a line straight, put four corners on a rectangle, drag the
// radius where corner light begins. Positions are kept in frame coordinates, so that they stay in place when the
// correction changes.
#pragma once

#include <QObject>
#include <memory>
#include <optional>
#include <vector>

#include "frames/metadata.h"
#include "render/framing.h"
#include "widgets/compare_view.h"

namespace optrel {

/// Active tool.
enum class PictureTool { none, even_area, grey_area, figures_area, scene_line, bend_line, corners, ring, edge };

class PictureTouch : public QObject {
    Q_OBJECT
public:
    explicit PictureTouch(CompareView& view);

    /// Ends the active tool.
    void begin(PictureTool tool);
    PictureTool tool() const { return tool_; }
    /// The shown picture; null for none.
    void show_over(std::shared_ptr<const Framing> framing, const Metadata& metadata);
    /// Field height where corner light begins.
    void set_ring(double height);
    /// Frame px per screen px.
    double mark_px() const;

signals:
    void tool_changed(PictureTool tool);
    /// Px of the corrected picture in display orientation.
    void patch_drawn(const QRectF& area);
    /// All positions in px of the frame.
    void area_marked(PictureTool tool, const QRectF& area);
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
    std::optional<CompareView::Mode> compared_;  ///< comparison mode before a tool was started
};

}  // namespace optrel

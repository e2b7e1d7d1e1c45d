// SPDX-License-Identifier: GPL-3.0-or-later
// Two pictures of one frame, before and after: by swapping, by a split that can be dragged, side by side, or as their
// difference; at fit and from 25 to 1600 percent.
//
// It shows what it is given: the whole picture reduced, and of what is seen a part at full size as soon as that is
// there. Places are pixels of the picture.
#pragma once

#include <QImage>
#include <QWidget>
#include <vector>

#include "widgets/picture_marks.h"

namespace optrel {

class CompareView : public QWidget {
    Q_OBJECT
public:
    enum class Mode { before, after, split, split_down, beside, difference };

    explicit CompareView(QWidget* parent = nullptr);
    /// A picture of a size, of which nothing is there yet; another size than before begins at fit again.
    void set_size(const QSizeF& picture);
    void set_whole(const QImage& before, const QImage& after);
    void set_part(const QRectF& place, const QImage& before, const QImage& after);
    /// Marks over the picture after the correction, of the size of its image; null for none.
    void set_whole_marks(const QImage& marks);
    void set_part_marks(const QImage& marks);
    void clear(const QString& why);

    void set_mode(Mode mode);
    Mode mode() const { return mode_; }
    /// 0: fit; otherwise device pixels for each pixel of the picture.
    void set_zoom(double zoom);
    double zoom() const { return zoom_; }
    /// Device pixels for each pixel of the picture, at fit too.
    double scale() const;
    /// Pixels of the picture between lines; 0: no grid.
    void set_grid(double pitch);
    double split() const { return split_; }
    /// Where the split stands, in px of the widget.
    int split_x() const;
    /// Looks at a place of the picture, 0 to 1 across and down.
    void look_at(QPointF place);
    /// What of the picture is seen.
    QRectF visible() const;
    /// Lines over the picture after the correction.
    void set_lines(std::vector<PictureMarks::Line> lines);
    /// Handles that can be dragged, or moved by the arrow keys: pixel by pixel, ten at a time with the shift key.
    void set_handles(std::vector<QPointF> handles, bool closed);
    const std::vector<QPointF>& handles() const { return marks_.handles; }
    /// Places that are looked for, ringed.
    void set_spots(std::vector<QPointF> spots);
    const std::vector<QPointF>& spots() const { return marks_.spots; }
    void set_ring(std::vector<QPointF> ring);
    const std::vector<QPointF>& ring() const { return marks_.ring; }
    /// What the next drag marks instead of moving the picture.
    enum class Marking { nothing, area, line };
    void set_marking(Marking what);
    /// The part that is kept, px of the picture; an empty one is all of it.
    void set_crop(const QRectF& kept);

    QRectF picture_rect() const { return picture_in(pane(0)); }
    QPointF to_widget(const QPointF& picture) const;
    QPointF to_picture(const QPointF& widget) const;

signals:
    /// The pointer moved to a position in the picture (px) while no button was held.
    void pointed(const QPointF& place);
    void mode_changed();
    /// Another part or scale is seen.
    void view_changed();
    /// The wheel turned it to another scale.
    void zoomed();
    void line_clicked(int line);
    /// Px of the picture.
    void area_marked(const QRectF& area);
    void line_marked(const QLineF& line);
    /// `rests`: it was let go.
    void handle_moved(int handle, const QPointF& place, bool rests);
    void ring_moved(const QPointF& place, bool rests);
    /// Escape: nothing is marked or dragged any more.
    void escaped();

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    enum class Side { before, after, difference };
    struct Pictures {
        QImage before, after, difference;  ///< the last is made when it is asked for
        QImage marks{};
    };
    QRectF pane(int which) const;
    QRectF picture_in(const QRectF& pane) const;
    double fitting(const QRectF& pane) const;
    const QImage& image(Pictures& pictures, Side side);
    void draw(QPainter& p, const QRectF& pane, const QRectF& clip, Side side);
    QRectF after_part() const;
    void draw_grid(QPainter& p, const QRectF& pane) const;
    void draw_marks(QPainter& p, const QRectF& pane) const;
    void draw_marking(QPainter& p) const;
    void finish_marking();
    bool hold(const QPointF& at);
    void move_held(const QPointF& at, bool rests);
    bool move_handle(int key, bool far);
    /// Device independent px for each of the picture's.
    double spread() const { return scale() / devicePixelRatioF(); }
    void draw_tags(QPainter& p) const;
    void draw_split(QPainter& p) const;
    void draw_overview(QPainter& p) const;
    void draw_difference_scale(QPainter& p) const;
    bool on_split(const QPointF& at) const;
    void zoom_about(const QPointF& at, double zoom);
    void changed();

    QSizeF size_;
    Pictures whole_, part_;
    QRectF part_place_;
    PictureMarks marks_;
    QString why_empty_;
    Mode mode_ = Mode::after;
    double zoom_ = 0, split_ = 0.5, grid_ = 0;
    QPointF centre_{0.5, 0.5};
    enum class Held { nothing, split, handle, ring };
    Held held_ = Held::nothing;
    Marking marking_ = Marking::nothing;
    QPointF drag_from_, press_, marked_to_;  ///< px of the widget
};

}  // namespace optrel

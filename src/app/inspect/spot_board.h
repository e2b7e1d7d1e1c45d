// SPDX-License-Identifier: GPL-3.0-or-later
// The same spot of up to four frames side by side, each as it is corrected: dragging in one moves all of them.
#pragma once

#include <QImage>
#include <QMouseEvent>
#include <QWidget>
#include <map>

#include "inspect/look_desk.h"
#include "latest.h"
#include "studio/frame_development.h"

namespace optrel {

class SpotBoard : public QWidget {
    Q_OBJECT
public:
    static constexpr std::size_t most = 4;

    explicit SpotBoard(Jobs& jobs, QWidget* parent = nullptr);
    struct Subject {
        std::filesystem::path path;
        FrameDevelopment development;
        QString caption;
    };
    /// Those after the fourth are left out. None: nothing is looked at.
    void show_frames(std::vector<Subject> subjects);
    int count() const { return static_cast<int>(subjects_.size()); }
    /// The middle of what is seen, as a share of each picture as it is held.
    QPointF place() const { return place_; }
    /// Device pixels for each pixel of a picture: 0.25 to 8.
    double zoom() const { return zoom_; }
    const QImage& image(int frame) const { return shown_.at(frame).image; }
    QRectF cell(int frame) const;

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override { ask(); }
    void mousePressEvent(QMouseEvent* event) override { from_ = event->position(); }
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    using Ready = std::map<std::filesystem::path, std::shared_ptr<const PreparedFrame>>;
    struct Shown {
        QImage image;
        double scale = 1;  ///< px of the widget for each of the image
        QString problem;
    };
    struct Answer {
        std::vector<Shown> shown;
        Ready ready;
    };
    /// What is under way is finished first, so that frames are not read again and again while somebody drags.
    void ask();
    static Shown look(const Subject& subject, const QSizeF& seen, const QPointF& place, double zoom, Ready& ready,
                      const Progress& progress);

    Jobs& jobs_;
    std::vector<Subject> subjects_;
    std::vector<Shown> shown_;
    Ready ready_;  ///< frames that were read
    QPointF place_{0.5, 0.5}, from_;
    double zoom_ = 1;
    Latest<Answer> looking_;
    bool again_ = false;  ///< something else is wanted since
};

}  // namespace optrel

// SPDX-License-Identifier: GPL-3.0-or-later
// The same spot of up to four corrected frames side by side; dragging moves all of them.
#pragma once

#include <QImage>
#include <QMouseEvent>
#include <QWidget>
#include <map>

#include "inspect/preview_service.h"
#include "latest_result.h"
#include "studio/development/frame_development.h"

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
    /// More than four frames are ignored. An empty list shows nothing.
    void show_frames(std::vector<Subject> subjects);
    void set_screen(std::shared_ptr<const ScreenColours> screen);
    int count() const { return static_cast<int>(subjects_.size()); }
    /// Centre of the visible part, as a fraction of each picture in display orientation.
    QPointF place() const { return place_; }
    /// Device px per picture px: 0.25 to 8.
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
    /// Prepared again when something else was measured of its body.
    struct ReadyFrame {
        SensorFacts sensor;
        std::shared_ptr<const PreparedFrame> frame;
    };
    using Ready = std::map<std::filesystem::path, ReadyFrame>;
    struct Shown {
        QImage image;
        double scale = 1;  ///< widget px per image px
        QString problem;
    };
    struct Answer {
        std::vector<Shown> shown;
        Ready ready;
    };
    /// Current work is finished first, so that frames are not read repeatedly during a drag.
    void ask();
    struct Part {
        QSizeF seen;
        QPointF place;
        double zoom;
        std::shared_ptr<const ScreenColours> screen;
    };
    static Shown look(const Subject& subject, const Part& part, Ready& ready, const Progress& progress);

    Jobs& jobs_;
    std::vector<Subject> subjects_;
    std::vector<Shown> shown_;
    std::shared_ptr<const ScreenColours> screen_ = ScreenColours::srgb();
    Ready ready_;  ///< prepared frames
    QPointF place_{0.5, 0.5}, from_;
    double zoom_ = 1;
    LatestResult<Answer> looking_;
    bool again_ = false;  ///< the request has changed meanwhile
};

}  // namespace optrel
